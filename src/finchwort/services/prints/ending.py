"""What came of a print: told once, with the case it opens where it failed."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.base.wording import lasting
from finchwort.core.prints import LettingGo, LookKind, LookState, PrintOutcome, Seen
from finchwort.services.diagnosis.cases import set_case_deleted
from finchwort.services.diagnosis.opening import open_case
from finchwort.services.files.facts import FACTS
from finchwort.services.printers.printers import count_print
from finchwort.services.prints.begin import age_of, made_with
from finchwort.services.prints.watch import LONGEST, Watched, watch
from finchwort.store.diagnosis.cases import events_of
from finchwort.store.diagnosis.models import Trouble
from finchwort.store.errors import ConflictError, StaleError
from finchwort.store.machine.locks import lock_printer
from finchwort.store.models import Printer
from finchwort.store.printers.printers import bed_of
from finchwort.store.prints.models import PrintRun
from finchwort.store.prints.prints import get_print
from finchwort.store.records import locked_for_deletion, utcnow
from finchwort.store.visits.logbook import set_entries_deleted, washed_at, write_entry

EARLY_MINUTES = 20.0
"""What lets go before this lets go early (ours)."""
SAID = {
    PrintOutcome.HELD: "held",
    PrintOutcome.LET_GO: "let go",
    PrintOutcome.TOO_WELL: "held too well",
    PrintOutcome.OTHER: "ended otherwise",
}


@dataclass(frozen=True)
class Told:
    """What a person tells of the end of a print.

    Attributes
    ----------
    outcome : PrintOutcome
    minutes : float or None
        After the start, when it let go or ended.
    how : LettingGo or None
        Where it let go.
    place : (x, y) or None
        Where on the bed, mm.
    note : str
    case : bool
        Whether a case is opened.
    """

    outcome: PrintOutcome
    minutes: float | None = None
    how: LettingGo | None = None
    place: tuple[float, float] | None = None
    note: str = ""
    case: bool = False


def usual_end(watched: Watched) -> float:
    """Guess when a print ended, minutes after its start, where nobody says: at its expected end, or now.

    Of one that was forgotten, and of which nobody knows how long it takes, no more is believed than a look's time after
    the last look: a week of forgetting is no week of printing.
    """
    if watched.left is not None:
        return watched.age + min(watched.left, 0.0)
    if not watched.runs:
        return watched.age
    seen = age_of(watched.print_, watched.looks[-1].at) if watched.looks else 0.0
    return min(watched.age, seen + watched.print_.look_every)


def usual_letting_go(watched: Watched) -> float:
    """Guess when a print let go, minutes after its start: half-way between the last good look and its end."""
    good = [one for one in watched.looks if one.seen == Seen.GOOD]
    end = usual_end(watched)
    last = age_of(watched.print_, good[-1].at) if good else 0.0
    return (min(last, end) + end) / 2


def end_print(
    session: Session,
    print_id: int,
    version: int,
    told: Told,
    *,
    client_key: str,
    at: datetime | None = None,
) -> PrintRun:
    """Write down what came of a print.

    Raises
    ------
    NotFoundError, StaleError, ConflictError, ChoiceError, OutOfRangeError
    """
    print_ = get_print(session, print_id, lock=True)
    if print_.outcome is not None:
        if print_.outcome == told.outcome and print_.version > version:
            return print_  # sent twice
        raise ConflictError("What came of this print is told already.")
    if print_.version != version:
        raise StaleError("This print was changed elsewhere since you opened it.")
    if told.how is not None and told.outcome is not PrintOutcome.LET_GO:
        raise ChoiceError("prints.how_without_letting_go")
    now = at or utcnow()
    watched = watch(print_, now)
    _check_place(print_.printer, told.place)
    minutes = told.minutes
    if minutes is None:
        usual = usual_letting_go if told.outcome is PrintOutcome.LET_GO else usual_end
        minutes = usual(watched)
    if not 0 <= minutes <= min(age_of(print_, now), LONGEST) + 1:
        raise OutOfRangeError("prints.ended_between", most=int(age_of(print_, now)))
    zero = next((one.at for one in watched.clock if one.kind is LookKind.LINES and one.at is not None), None)
    print_.outcome = told.outcome.value
    print_.ended_at = print_.ended_at or print_.started_at + timedelta(minutes=minutes)
    print_.ran = max(minutes - (zero or 0.0), 0.0)
    print_.how = told.how.value if told.how else ""
    print_.x, print_.y = told.place or (None, None)
    print_.note = told.note.strip()
    session.flush()
    write_entry(
        session,
        "print",
        f"Print {SAID[told.outcome]}: {print_.name or 'without a name'}",
        "\n".join(part for part in (_after(print_, minutes), made_with(print_), print_.note) if part),
        at=at,
        printer=print_.printer,
        subject=print_,
    )
    if told.case:
        print_.case_id = _open_case(session, watched, told, client_key).id
    session.flush()
    session.refresh(print_)
    return print_


def _after(print_: PrintRun, minutes: float) -> str:
    return f"After {lasting(minutes)}." if minutes >= 1 else ""


def _check_place(printer: Printer, place: tuple[float, float] | None) -> None:
    if place is None:
        return
    bed = bed_of(printer)
    if not (bed.x_min <= place[0] <= bed.x_max and bed.y_min <= place[1] <= bed.y_max):
        raise OutOfRangeError("prints.place_beside_bed")


def _open_case(session: Session, watched: Watched, told: Told, client_key: str) -> Trouble:
    """Open a case with all that is known of the print."""
    print_ = watched.print_
    # what no file of this print says stays unknown: another file was looked through for another print
    setup: dict[str, Any] = dict.fromkeys((*FACTS, "file")) | print_.settings
    setup |= {
        "surface": print_.surface,
        "surface_kind": print_.surface_kind,
        "material": print_.material,
        "bed_temperature": print_.bed_temperature,
        "nozzle_temperature": print_.nozzle_temperature,
        "first_layer": print_.first_layer,
    }
    if print_.surface_prints is not None:
        setup["prints_since_wash"] = print_.surface_prints
    words = told.note.strip() or f"{print_.name or 'A print'} {SAID[told.outcome]}"
    return open_case(
        session,
        print_.printer_id,
        client_key=client_key,
        words=words[:500],
        place=told.place,
        signs=signs_told(watched, told),
        visit_id=print_.visit_id,
        strip=setup,
    )


def signs_told(watched: Watched, told: Told) -> list[tuple[str, str]]:
    """Give the signs that the end of a print, and the looks at it, tell of."""
    if told.outcome is PrintOutcome.TOO_WELL:
        return [("hard_to_remove", "yes")]
    if told.outcome is not PrintOutcome.LET_GO:
        return []
    early = (watched.print_.ran or 0.0) < EARLY_MINUTES
    by_how = {
        LettingGo.NOTHING: "nothing_sticks",
        LettingGo.CORNERS: "corners_early" if early else "corners_later",
        LettingGo.LOOSE: "breaks_loose",
        LettingGo.SOME: "small_peel",
    }
    results = [(by_how[told.how], "yes")] if told.how is not None else []
    good = [one.at for one in watched.looks if one.seen == Seen.GOOD]
    layer = [one for one in watched.clock if one.kind is LookKind.LAYER and one.state is LookState.DONE]
    if layer and any(age_of(watched.print_, at) >= layer[0].due - 1 for at in good):
        results.append(("first_layer_fine", "yes"))
    return results


def reopen_print(session: Session, print_id: int) -> PrintRun:
    """Take back what was told of the end of a print; with it a case that it opened and in which nothing was done since.

    Raises
    ------
    NotFoundError, ConflictError
    """
    print_ = get_print(session, print_id, lock=True)
    if print_.outcome is None:
        raise ConflictError("Nobody told yet what came of this print.")
    case = session.get(Trouble, print_.case_id) if print_.case_id is not None else None
    if case is not None and case.deleted_at is None and not _worked_on(case):
        set_case_deleted(session, case.id, True)
    stopped = [look for look in print_.looks if look.deleted_at is None and look.seen == Seen.STOPPED]
    print_.outcome, print_.ran, print_.case_id = None, None, None
    print_.ended_at = stopped[-1].at if stopped else None
    print_.how, print_.x, print_.y = "", None, None
    session.flush()
    write_entry(
        session,
        "print",
        f"Taken back what came of: {print_.name or 'a print without a name'}",
        printer=print_.printer,
        subject=print_,
    )
    session.refresh(print_)
    return print_


def _worked_on(case: Trouble) -> bool:
    # what it was opened with carries the key that it was opened with
    return any(not event.client_key.startswith(case.client_key[:33]) for event in events_of(case))


def set_print_deleted(session: Session, print_id: int, deleted: bool) -> PrintRun:
    """Take a print back, or bring it back, with its count on the surface unless that was washed since.

    Raises
    ------
    NotFoundError
    """
    found = locked_for_deletion(session, PrintRun, print_id, deleted, "There is no such print.")
    lock_printer(session, found.printer_id)
    washed = washed_at(session, found.printer, found.surface)
    if found.surface_prints is not None and (washed is None or washed < found.started_at):
        count_print(found.printer, found.surface, -1 if deleted else 1)
    found.deleted_at = utcnow() if deleted else None
    set_entries_deleted(session, found, found.deleted_at)
    session.flush()
    return found
