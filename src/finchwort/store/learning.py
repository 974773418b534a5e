"""What the rounds of a printer taught about its knobs, and the travel left in its springs."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from finchwort.core.response import MOST_MOVES, Move, Response, learn, make_move
from finchwort.core.slipping import Slipping, find_slipping
from finchwort.store.adjustments import MOVES
from finchwort.store.logbook import write_entry
from finchwort.store.models import (
    Adjustment,
    Printer,
    SurveyRecord,
    Turning,
    TurningScrew,
    Visit,
    utcnow,
)
from finchwort.store.printers import get_printer, screws_of
from finchwort.store.probing import noise_for
from finchwort.store.surveys import load_readings
from finchwort.store.visits import turnings_of


@dataclass(frozen=True, eq=False)
class Learned:
    """What is known of a printer's knobs.

    Attributes
    ----------
    response : Response
    slipping : Slipping
    rounds : int
        Rounds it was learned from.
    """

    response: Response
    slipping: Slipping
    rounds: int


def learned_of(session: Session, printer: Printer, before: datetime | None = None) -> Learned:
    """Learn from a printer's rounds since its knobs were last mended.

    Parameters
    ----------
    printer : Printer
        One with screws.
    before : datetime, optional
        Only rounds that were through by then, for a plan of that time.
    """
    screws = screws_of(printer)
    moves = moves_of(session, printer, before)
    slipping = find_slipping(screws, moves)
    return Learned(learn(screws, moves, slipping.doubted), slipping, len(moves))


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


def room_of(
    session: Session, printer: Printer, before: datetime | None = None
) -> list[tuple[float, float]] | None:
    """Turns left at each screw for tightening and for loosening; none when nobody was ever asked.

    With ``before``, as they were at that time.
    """
    if all(screw.to_tight is None and screw.to_loose is None for screw in printer.screws):
        return None
    found = []
    for screw in printer.screws:
        since = screw.limits_at or screw.created_at
        query = (
            select(func.coalesce(func.sum(TurningScrew.done), 0.0))
            .join(Turning, Turning.id == TurningScrew.turning_id)
            .join(SurveyRecord, SurveyRecord.id == Turning.survey_id)
            .join(Visit, Visit.id == SurveyRecord.visit_id)
            .where(
                Visit.printer_id == printer.id,
                Visit.deleted_at.is_(None),
                SurveyRecord.deleted_at.is_(None),
                Turning.deleted_at.is_(None),
                Turning.turned_at >= since,
                TurningScrew.name == screw.name,
            )
        )
        if before is not None:
            query = query.where(Turning.turned_at <= before)
        turned = session.scalar(query)
        tight = math.inf if screw.to_tight is None else screw.to_tight - turned
        loose = math.inf if screw.to_loose is None else screw.to_loose + turned
        found.append((tight, loose))
    return found


def set_learned_since(
    session: Session, printer_id: int, since: datetime | None, *, note: str = ""
) -> datetime | None:
    """Begin to learn anew after a repair, or go back to an earlier beginning.

    Parameters
    ----------
    since : datetime or None
        Rounds before it no longer count; none lets all count.
    note : str
        What was mended; written into the logbook.

    Returns
    -------
    datetime or None
        What it was before, so that it can be undone.
    """
    printer = get_printer(session, printer_id)
    old = printer.learned_since
    printer.learned_since = since
    printer.changed_at = utcnow()
    session.flush()
    title = "Knobs mended: learning begins anew" if since else "All rounds count again"
    write_entry(session, "printer", f"{printer.name}: {title}", note.strip(), printer=printer)
    return old
