"""Rounds of a printer: what was turned, and the tilt before and after."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.surveys import Survey
from finchwort.core.tramming import MAX_MOVES, Move, Twisting, make_move
from finchwort.core.visits import GONE, HOLDS, TABLE
from finchwort.services.probing.probe_tests import Noise, noise_for
from finchwort.services.surveys.surveys import fit_of
from finchwort.services.tramming.adjustments import MOVES
from finchwort.store.models import Adjustment, Printer, SurveyRecord, Turning
from finchwort.store.printers.printers import bed_of, screws_of
from finchwort.store.surveys.surveys import OPEN, load_readings
from finchwort.store.visits.events import happened_since, mark_of, newest_event
from finchwort.store.visits.visits import turnings_of

UNLEARNS = tuple(what for what, row in TABLE.items() if row["knobs"] == GONE)
"""After these the knobs are others than those that taught anything."""


@dataclass(frozen=True, eq=False)
class RoundSeen:
    """A round of turns between two surveys.

    Attributes
    ----------
    done : tuple of float
        Turns at the screws, in their order.
    before, after : Survey
        The readings that count.
    noise : tuple of float
        Standard deviation of one reading of either, mm.
    chained : bool
        Whether the survey before it is the one that ended the round before.
    """

    done: tuple[float, ...]
    before: Survey
    after: Survey
    noise: tuple[float, float]
    chained: bool


def moves_of(session: Session, printer: Printer, before: datetime | None = None) -> list[Move]:
    """Return what the newest rounds of a printer did to the tilt, oldest first; see `rounds_seen`."""
    return moves_from(printer, rounds_seen(session, printer, before))


def rounds_seen(session: Session, printer: Printer, before: datetime | None = None) -> list[RoundSeen]:
    """Return the newest rounds of a printer, oldest first.

    Left out are rounds of other screws than those set up now, and rounds in
    which something else moved the bed as well.
    """
    query = turnings_of(printer.id).order_by(Turning.turned_at.desc(), Turning.id.desc()).limit(2 * MAX_MOVES)
    if printer.learned_since is not None:
        query = query.where(Turning.turned_at >= printer.learned_since)
    now = [(s.name, s.x, s.y, s.pitch, s.tightening_lowers) for s in screws_of(printer)]
    pairs = []
    mended = newest_event(session, printer.id, UNLEARNS)
    for turning in session.scalars(query):
        if mended and mark_of(session, turning) < mended:
            break  # other springs or knobs
        then = [(s.name, s.x, s.y, s.pitch, s.tightening_lowers) for s in turning.screws]
        after = _next_survey(session, turning)
        if after is not None and OPEN in (turning.survey.verdict, after.verdict):
            continue  # bounds teach nothing about knobs
        if after is not None and _disturbed(session, printer.id, turning, after):
            continue
        if then != now or after is None or (before is not None and after.taken_at > before):
            continue
        if any(screw.done for screw in turning.screws):
            pairs.append((turning, after))
        if len(pairs) == MAX_MOVES:
            break
    return _read(session, pairs[::-1])


def _read(session: Session, pairs: Sequence[tuple[Turning, SurveyRecord]]) -> list[RoundSeen]:
    """Load what rounds are judged by; each survey and the test of each visit once."""
    readings: dict[int, Survey] = {}
    noises: dict[int, float] = {}
    tests: dict[int, Noise] = {}

    def load(record: SurveyRecord) -> tuple[Survey, float]:
        if record.id not in readings:
            readings[record.id] = load_readings(session, record.id)
            known = record.noise
            if known is None:
                if record.visit_id not in tests:
                    tests[record.visit_id] = noise_for(session, record)
                known = tests[record.visit_id].sd
            noises[record.id] = fit_of(session, record).noise if known is None else known
        return readings[record.id], noises[record.id]

    results = []
    last = None
    for turning, after in pairs:
        (first, before_sd), (second, after_sd) = load(turning.survey), load(after)
        done = tuple(screw.done for screw in turning.screws)
        results.append(RoundSeen(done, first, second, (before_sd, after_sd), last == turning.survey_id))
        last = after.id
    return results


def moves_from(printer: Printer, rounds: Sequence[RoundSeen]) -> list[Move]:
    """Say what rounds did to the tilt."""
    bed = bed_of(printer)
    return [
        make_move(
            visit_round.before,
            visit_round.after,
            list(visit_round.done),
            visit_round.noise,
            chained=visit_round.chained,
            bed=bed,
        )
        for visit_round in rounds
    ]


def twists_from(rounds: Sequence[RoundSeen]) -> list[Twisting]:
    """Give rounds as far as they are about twist."""
    return [
        Twisting(visit_round.before, visit_round.after, visit_round.done, max(visit_round.noise))
        for visit_round in rounds
    ]


def _disturbed(session: Session, printer_id: int, turning: Turning, after: SurveyRecord) -> bool:
    """Whether something nobody counted moved the bed between a turning and the survey that saw it."""
    low, high = mark_of(session, turning), mark_of(session, after)
    between = [event for event in happened_since(session, printer_id, low) if event.number < high]
    return any(TABLE[event.what]["survey"] != HOLDS for event in between)


def _next_survey(session: Session, turning: Turning) -> SurveyRecord | None:
    """The survey that saw a turning, unless something else moved the bed in between."""
    moved = session.scalars(
        select(Adjustment.id)
        .where(
            Adjustment.survey_id == turning.survey_id,
            Adjustment.kind.in_(MOVES),
            Adjustment.deleted_at.is_(None),
        )
        .limit(1)
    ).first()
    if moved is not None:
        return None
    survey = turning.survey
    query = (
        select(SurveyRecord)
        .where(
            SurveyRecord.visit_id == survey.visit_id,
            SurveyRecord.deleted_at.is_(None),
            (SurveyRecord.taken_at > survey.taken_at)
            | ((SurveyRecord.taken_at == survey.taken_at) & (SurveyRecord.id > survey.id)),
        )
        .order_by(SurveyRecord.taken_at, SurveyRecord.id)
        .limit(1)
    )
    return session.scalars(query).first()
