"""Rounds of a printer: what was turned, and the tilt before and after."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.response import MOST_MOVES, Move, make_move
from finchwort.store.adjustments import MOVES
from finchwort.store.changes import BED
from finchwort.store.events import mark_of
from finchwort.store.models import Adjustment, Entry, Printer, SurveyRecord, Turning
from finchwort.store.offset_models import MachineChange
from finchwort.store.printers import screws_of
from finchwort.store.probing import noise_for
from finchwort.store.surveys import OPEN, load_readings
from finchwort.store.visits import turnings_of


def moves_of(session: Session, printer: Printer, before: datetime | None = None) -> list[Move]:
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
    moves: list[Move] = []
    last_after = None
    for turning, after in reversed(pairs):
        found = (turning.survey, after)
        moves.append(
            make_move(
                load_readings(session, found[0].id),
                load_readings(session, found[1].id),
                [screw.done for screw in turning.screws],
                (noise_for(session, found[0]).sd, noise_for(session, found[1]).sd),
                chained=last_after == found[0].id,
            )
        )
        last_after = after.id
    return moves


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
