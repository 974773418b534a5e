"""Rounds of a printer: what was turned, and the tilt before and after."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.bending import Twisting
from finchwort.core.response import MOST_MOVES, Move, make_move
from finchwort.store.adjustments import MOVES
from finchwort.store.changes import BED
from finchwort.store.events import mark_of
from finchwort.store.models import Adjustment, Entry, Printer, SurveyRecord, Turning
from finchwort.store.offset_models import MachineChange
from finchwort.store.printers import bed_of, screws_of
from finchwort.store.probing import noise_for
from finchwort.store.surveys import OPEN, fit_of, load_readings
from finchwort.store.visits import turnings_of

RoundSeen = tuple[Turning, SurveyRecord]
"""What was turned, and the survey that saw it."""


def moves_of(session: Session, printer: Printer, before: datetime | None = None) -> list[Move]:
    """Return what the newest rounds of a printer did to the tilt, oldest first; see `rounds_seen`."""
    return moves_from(session, printer, rounds_seen(session, printer, before))


def rounds_seen(session: Session, printer: Printer, before: datetime | None = None) -> list[RoundSeen]:
    """Return the newest rounds of a printer, oldest first.

    Left out are rounds of other screws than those set up now, and rounds in
    which something else moved the bed as well.
    """
    query = (
        turnings_of(printer.id).order_by(Turning.turned_at.desc(), Turning.id.desc()).limit(2 * MOST_MOVES)
    )
    if printer.learned_since is not None:
        query = query.where(Turning.turned_at >= printer.learned_since)
    now = [(s.name, s.x, s.y, s.pitch, s.tightening_lowers) for s in screws_of(printer)]
    pairs = []
    for turning in session.scalars(query):
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
        if len(pairs) == MOST_MOVES:
            break
    return pairs[::-1]


def moves_from(session: Session, printer: Printer, rounds: Sequence[RoundSeen]) -> list[Move]:
    """Say what rounds did to the tilt."""
    bed = bed_of(printer)
    moves: list[Move] = []
    last_after = None
    for turning, after in rounds:
        before = turning.survey
        moves.append(
            make_move(
                load_readings(session, before.id),
                load_readings(session, after.id),
                [screw.done for screw in turning.screws],
                (_noise(session, before), _noise(session, after)),
                chained=last_after == before.id,
                bed=bed,
            )
        )
        last_after = after.id
    return moves


def twists_from(session: Session, rounds: Sequence[RoundSeen]) -> list[Twisting]:
    """Give rounds as far as they are about twist."""
    return [
        Twisting(
            load_readings(session, turning.survey_id),
            load_readings(session, after.id),
            tuple(screw.done for screw in turning.screws),
            max(_noise(session, turning.survey), _noise(session, after)),
        )
        for turning, after in rounds
    ]


def _noise(session: Session, record: SurveyRecord) -> float:
    """Standard deviation of one reading of a survey, mm."""
    known = noise_for(session, record).sd
    return fit_of(session, record).noise if known is None else known


def _disturbed(session: Session, printer_id: int, turning: Turning, after: SurveyRecord) -> bool:
    """Whether something nobody counted moved the bed between a turning and the survey that saw it."""
    low, high = mark_of(session, turning_id=turning.id), mark_of(session, survey_id=after.id, kind="survey")
    query = (
        select(Entry.id)
        .join(MachineChange, Entry.change_id == MachineChange.id)
        .where(
            Entry.printer_id == printer_id,
            Entry.id > low,
            Entry.id < high,
            MachineChange.deleted_at.is_(None),
            MachineChange.what.in_(BED),
        )
    )
    return session.scalars(query.limit(1)).first() is not None


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
