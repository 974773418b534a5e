"""Turns as they were done: recorded, taken back, and each round beside what it was to do."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy.orm import Session

from finchwort.core.base.wording import counted, turn_in_figures
from finchwort.core.surveys import judge_tilt
from finchwort.core.tramming import (
    HAND_SD,
    RoundReview,
    after_turns,
    review_round,
)
from finchwort.messages.remarks import words
from finchwort.services.probing.probe_tests import noise_for
from finchwort.services.surveys.surveys import fit_of
from finchwort.services.tramming.operator import hand_of
from finchwort.services.tramming.planning import Wish, plan_for, turns_by_name
from finchwort.services.visits.standing import survey_stands
from finchwort.store.errors import ConflictError
from finchwort.store.models import Turning, TurningScrew
from finchwort.store.printers.printers import bed_of
from finchwort.store.records import locked_for_deletion, sent_before, utcnow
from finchwort.store.surveys.surveys import OPEN, get_survey, load_readings
from finchwort.store.tramming.turnings import turned_screws
from finchwort.store.visits.logbook import set_entries_deleted, write_entry
from finchwort.store.visits.visits import Round, get_visit, list_rounds


def record_turning(
    session: Session,
    survey_id: int,
    hold: str | Wish,
    done: dict[str, float],
    *,
    client_key: str,
    note: str = "",
    at: datetime | None = None,
) -> Turning:
    """Record what was turned after a survey.

    Parameters
    ----------
    hold : str or Wish
        The plan that was followed.
    done : dict
        Turns made by screw name, positive for tightening; what is not named stayed.
    client_key : str
        Sent again with the same turns, it records nothing twice.

    Raises
    ------
    ConflictError
        When a turning stands there already, a later survey exists or the visit is closed.
    """
    record = get_survey(session, survey_id)
    visit = get_visit(session, record.visit_id, lock=True)
    known = sent_before(
        session,
        Turning,
        client_key,
        "Other turns were recorded with this key, or these were taken back since.",
        lambda there: all(screw.done == done.get(screw.name, 0.0) for screw in there.screws),
        survey_id=survey_id,
    )
    if known is not None:
        return known
    if visit.ended_at is not None:
        raise ConflictError("This visit is closed. Open it again, or begin a new one.")
    rounds = list_rounds(session, visit)
    mine = next((visit_round for visit_round in rounds if visit_round.survey.id == record.id), None)
    if mine is None or mine.turning is not None:
        raise ConflictError("What was turned after this survey is recorded already.")
    bed = survey_stands(session, record)
    if bed.why is not None and bed.gone:
        raise ConflictError(f"{words(bed.why)} Measure again before you turn.")
    if rounds[-1].survey.id != record.id:
        raise ConflictError("A newer survey was taken since. Turn by that one.")
    wish = hold if isinstance(hold, Wish) else Wish(hold)
    plan = plan_for(session, record, wish)
    made = turns_by_name(plan, done)
    expected = after_turns(plan, load_readings(session, record.id), made)
    turning = Turning(
        survey=record,
        turned_at=at or utcnow(),
        client_key=client_key,
        hold=wish.hold,
        spread_expected=expected.spread,
        note=note.strip(),
        screws=[
            TurningScrew(
                place=i,
                name=turn.screw.name,
                x=turn.screw.x,
                y=turn.screw.y,
                pitch=turn.screw.pitch,
                tightening_lowers=turn.screw.tightening_lowers,
                divisions=turn.screw.divisions,
                planned=turn.rounded,
                done=made[i],
            )
            for i, turn in enumerate(plan.turns)
        ],
    )
    session.add(turning)
    session.flush()
    title, detail = _describe(turning)
    write_entry(
        session,
        "turning",
        title,
        detail,
        at=at,
        printer=visit.printer,
        visit=visit,
        subject=turning,
    )
    return turning


def set_turning_deleted(session: Session, turning_id: int, deleted: bool) -> Turning:
    """Take back a turning that was recorded by mistake, or bring it back."""
    turning = locked_for_deletion(session, Turning, turning_id, deleted, "There is no such turning.")
    record = get_survey(session, turning.survey_id)
    visit = get_visit(session, record.visit_id, lock=True)
    rounds = list_rounds(session, visit)
    if rounds[-1].survey.id != record.id:
        raise ConflictError("A newer survey was taken since, which saw these turns.")
    if not deleted and rounds[-1].turning is not None:
        raise ConflictError("Another turning was recorded after this survey meanwhile.")
    turning.deleted_at = utcnow() if deleted else None
    set_entries_deleted(session, turning, turning.deleted_at)
    return turning


def review_rounds(session: Session, rounds: Sequence[Round]) -> list[RoundReview | None]:
    """Look back on each round of a visit; ``None`` where nothing was turned before it."""
    reviews: list[RoundReview | None] = []
    hand = hand_of(session) if any(visit_round.turning for visit_round in rounds) else None
    readings = [load_readings(session, visit_round.survey.id) for visit_round in rounds]
    for i, visit_round in enumerate(rounds):
        before = rounds[i - 1] if i else None
        by_bound = before is not None and OPEN in (before.survey.verdict, visit_round.survey.verdict)
        # what is known on one side only accuses no knob
        if before is None or before.turning is None or by_bound:
            reviews.append(None)
            continue
        screws, turns = turned_screws(before.turning)
        reviews.append(
            review_round(
                readings[i - 1],
                readings[i],
                screws,
                turns,
                visit_round.survey.visit.first_layer,
                repeatability=noise_for(session, visit_round.survey).sd,
                hand_sd=hand.sd if hand else HAND_SD,
                bed=bed_of(visit_round.survey.visit.printer),
                tilt=judge_tilt(fit_of(session, visit_round.survey), visit_round.survey.visit.first_layer),
            )
        )
    return reviews


def _describe(turning: Turning) -> tuple[str, str]:
    sentences = []
    for screw in turning.screws:
        if screw.done == 0:
            continue
        verb = "tightened" if screw.done > 0 else "loosened"
        sentences.append(f"{screw.name} {verb} {turn_in_figures(screw.done, screw.divisions)}")
    if not sentences:
        return "No screw was turned", turning.note
    other = any(abs(s.done - s.planned) > 1e-9 for s in turning.screws)
    detail = "; ".join(sentences) + " (turns)."
    if other:
        detail += " Not as planned."
    if turning.note:
        detail += f"\n{turning.note}"
    return f"{counted(len(sentences), 'screw')} turned", detail
