"""What is known of a printer's Z offset: strips felt, patches measured, ladders and layers judged, joined into one belief."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.base.statistics import Z95
from finchwort.core.base.wording import counted, millimetres
from finchwort.core.first_layer import (
    ASKED_SD,
    MEASURED_SD,
    PAPER_SD,
    SAME_POINT,
    STEPS,
    WORDS,
    ZERO_SD,
    BandClue,
    Bead,
    Clue,
    Ledger,
    OffsetBelief,
    OffsetStep,
    PaperClue,
    Patch,
    PatchOffset,
    Shape,
    ValueClue,
    advise_offset,
    believe,
    offset_from_patches,
    usual_limits,
)
from finchwort.core.probing import FEEL_WORDS, MAX_LOWERED
from finchwort.messages.first_layer import patches_sentence
from finchwort.services.first_layer.clearance import BOUNDS
from finchwort.services.first_layer.offsets import met_relief
from finchwort.services.first_layer.trials import judged_ladders, moved_since_trial, store_trial
from finchwort.services.visits.standing import stands
from finchwort.store.errors import ConflictError
from finchwort.store.first_layer.models import OffsetRecord, Trial
from finchwort.store.first_layer.offsets import made_by_hand, newest_offset
from finchwort.store.models import Entry, Printer, Visit
from finchwort.store.printers.printers import bed_of
from finchwort.store.surveys.surveys import newest_surveys
from finchwort.store.visits.events import mark_of
from finchwort.store.visits.logbook import tells_of
from finchwort.store.visits.visits import get_visit

KINDS = ("paper", "patches", "look")
MIDDLE = "middle"
TRIMMED = 0.05
"""Whoever trimmed while it printed and wrote that down found it right within this, mm (ours)."""


@dataclass(frozen=True)
class Known:
    """A clue with the record it comes from."""

    trial: Trial | None
    clue: Clue
    words: str


@dataclass(frozen=True, eq=False)
class OffsetKnown:
    """All that is known of an offset, and what to do next."""

    clues: tuple[Known, ...]
    belief: OffsetBelief
    step: OffsetStep


def record_paper(
    session: Session,
    visit_id: int,
    *,
    z: float,
    feel: str,
    thickness: float,
    measured: bool = False,
    caliper_zero: float | None = None,
    step: float = 0.0,
    client_key: str,
    at: datetime | None = None,
) -> Trial:
    """Record how a strip felt in the middle of the bed, with the Z at which it was felt.

    Parameters
    ----------
    z : float
        What the display shows, mm.
    feel : str
        One of `finchwort.core.probing.FEELS`.
    thickness : float
        Of the strip, mm, as it was read.
    measured : bool
        Whether with calipers; otherwise it is assumed.
    caliper_zero : float, optional
        What the calipers show on nothing, mm, when somebody looked.
    step : float
        In which the tip was lowered until the strip just dragged, mm; 0 for a feel at one height.
    """
    if feel not in FEEL_WORDS:
        raise ChoiceError("first_layer.strip_feels", names=", ".join(FEEL_WORDS.values()))
    if not (math.isfinite(z) and abs(z) <= MAX_LOWERED):
        raise OutOfRangeError("first_layer.not_near_plate_read")
    real = thickness - (caliper_zero or 0.0 if measured else 0.0)
    if not 0.02 <= real <= 1:
        raise OutOfRangeError("first_layer.strip_mm_thick_caliper")
    sd = math.hypot(MEASURED_SD, ASKED_SD if caliper_zero is not None else ZERO_SD) if measured else PAPER_SD
    strip = {"z": z, "feel": feel, "thickness": round(real, 4), "sd": round(sd, 4), "step": step}
    how = f"lowered in steps of {millimetres(step)} until it just dragged" if step else FEEL_WORDS[feel]
    title = f"Paper in the middle at Z = {millimetres(z)}: {how}"
    return store_trial(
        session,
        get_visit(session, visit_id, lock=True),
        "paper",
        [strip],
        title,
        "",
        client_key=client_key,
        at=at,
    )


def record_patches(
    session: Session,
    visit_id: int,
    patches: Sequence[Patch],
    *,
    width: float,
    caliper_zero: float | None = None,
    client_key: str,
    at: datetime | None = None,
) -> Trial:
    """Record one-layer patches and their caliper readings; ``caliper_zero`` (mm) is taken off each."""
    visit = get_visit(session, visit_id, lock=True)
    stored = [
        {
            "x": p.x,
            "y": p.y,
            "commanded": p.commanded,
            "thickness": list(p.thickness),
            "width": width,
            "zero": caliper_zero,
        }
        for p in patches
    ]
    offset = offset_from_patches(_patches(stored), bed_of(visit.printer), width, _shape(session, visit))
    title = f"{len(patches)} patch{'es' if len(patches) > 1 else ''} measured"
    return store_trial(
        session, visit, "patches", stored, title, patches_sentence(offset), client_key=client_key, at=at
    )


def record_look(
    session: Session,
    visit_id: int,
    looks: Mapping[str, str],
    *,
    client_key: str,
    note: str = "",
    at: datetime | None = None,
) -> Trial:
    """Record how places of a first layer look.

    Parameters
    ----------
    looks : mapping of str to str
        By place ("front left" ... "middle"), one of `finchwort.core.first_layer.STEPS`.
    """
    if not looks:
        raise ChoiceError("first_layer.place_looks_least")
    if set(looks.values()) - set(STEPS):
        raise ChoiceError("first_layer.place_looks", names=", ".join(WORDS.values()))
    stored = [{"place": place, "step": step} for place, step in looks.items()]
    title = "First layer looked at: " + ", ".join(f"{place} {WORDS[step]}" for place, step in looks.items())
    return store_trial(
        session,
        get_visit(session, visit_id, lock=True),
        "look",
        stored,
        title[:200],
        note,
        client_key=client_key,
        at=at,
    )


def known_of_offset(session: Session, visit: Visit, bead: Bead) -> OffsetKnown:
    """Join what a visit has found out about the offset, counted from the offset as it is now."""
    clues = _clues(session, visit, bead)
    belief = believe([clue.clue for clue in clues])
    # a strip that was felt before patches or a layer were looked at no longer says what to do next
    recorded = [clue.clue for clue in clues if clue.trial is not None]
    newest = recorded[-1] if recorded and isinstance(recorded[-1], PaperClue) else None
    only = all(isinstance(clue.clue, PaperClue) for clue in clues)
    step = advise_offset(belief, newest, bead.height, only)
    return OffsetKnown(tuple(clues), belief, step)


PRESSED = (
    "The strip would not move when it was felt last, so the tip may press on the plate, and by how much nobody can tell. Go up and "
    "feel again until it just drags: until then nothing brings the tip down."
)


def refuse_pressed(session: Session, printer: Printer) -> None:
    """Raise while the newest strip would not move, see `pressed`.

    Raises
    ------
    ConflictError
    """
    if pressed(session, printer):
        raise ConflictError(PRESSED)


def pressed(session: Session, printer: Printer) -> bool:
    """Tell whether the newest strip would not move, and since then nothing was brought farther or bounded the gap."""
    query = (
        select(Trial)
        .join(Visit)
        .where(Visit.printer_id == printer.id, Trial.kind == "paper", Trial.deleted_at.is_(None))
        .order_by(Trial.id.desc())
        .limit(1)
    )
    trial = session.scalars(query).first()
    if trial is None or trial.patches[0]["feel"] != "stuck":
        return False
    mark = mark_of(session, trial)
    if moved_since_trial(session, trial.visit, trial):
        return False
    later = (
        select(Trial)
        .join(Visit)
        .where(Visit.printer_id == printer.id, Trial.id > trial.id, Trial.deleted_at.is_(None))
    )
    for item in session.scalars(later):
        if item.kind == "patches" or any(patch.get("step") in BOUNDS for patch in item.patches):
            return False
    return closer_since(session, trial.visit, trial.parts, mark) > -SAME_POINT


def patches_found(session: Session, visit: Visit, trial: Trial) -> PatchOffset:
    """What a visit's measured patches say by themselves."""
    width = trial.patches[0]["width"]
    shape = _shape(session, visit, mark_of(session, trial))
    return offset_from_patches(_patches(trial.patches), bed_of(visit.printer), width, shape)


def _shape(session: Session, visit: Visit, before: int | None = None) -> Shape | None:
    """The bed that the nozzle meets, by a survey of this visit after which nothing was moved; None without one.

    Patches that were measured already (``before`` is the number of their line) saw the bed as it was then: a newer survey
    says nothing about them.
    """
    newest = newest_surveys(session, visit.printer_id, 1)
    if not newest or newest[0].visit_id != visit.id:
        return None
    mark = mark_of(session, newest[0])
    if before is not None and mark > before:
        return None
    if stands(session, visit.printer, "survey", mark).gone:
        return None
    relief = met_relief(session, visit)
    return None if relief is None else relief.at


def _patches(stored: Sequence[Mapping[str, Any]]) -> list[Patch]:
    return [
        Patch(p["x"], p["y"], p["commanded"], tuple(t - (p.get("zero") or 0.0) for t in p["thickness"]))
        for p in stored
    ]


def _clues(session: Session, visit: Visit, bead: Bead) -> list[Known]:
    query = (
        select(Trial)
        .where(Trial.visit_id == visit.id, Trial.kind.in_(KINDS), Trial.deleted_at.is_(None))
        .order_by(Trial.id)
    )
    clues = []
    for trial in session.scalars(query):
        if moved_since_trial(session, visit, trial):
            continue
        made = _clue(session, visit, trial, bead)
        if made is not None:
            clues.append(made)
    ladders, judged = judged_ladders(session, visit, bead)
    if judged is not None and judged.one_sided is None and not moved_since_trial(session, visit, ladders[-1]):
        words = f"{counted(len(ladders), 'ladder')} judged"
        clues.append(Known(None, ValueClue(-judged.best, max(judged.sd, 0.004)), words))
    trim = _trim(session, visit)
    if trim is not None:
        clues.append(trim)
    return clues


def closer_since(session: Session, visit: Visit, parts: Mapping[str, float], mark: int) -> float:
    """How much closer the tip was brought since a line of the logbook at which the offset stood at ``parts``, mm."""
    newest = newest_offset(session, visit.printer_id)
    typed = 0.0
    if newest is not None:
        # where nothing was written down yet, the first number that was tells what stood there all the time
        parts = _first_parts(session, visit.printer_id, mark) or parts
        typed = Ledger(newest.parts, newest.closer_is).closer_by(Ledger(parts, newest.closer_is))
    return typed + made_by_hand(session, visit.printer_id, mark)


def _first_parts(session: Session, printer_id: int, mark: int) -> Mapping[str, float] | None:
    """The first offset of a printer, when it was written down only after a line of the logbook."""
    query = (
        select(Entry.id, OffsetRecord)
        .join(OffsetRecord, tells_of(OffsetRecord))
        .where(OffsetRecord.printer_id == printer_id, OffsetRecord.deleted_at.is_(None))
        .order_by(Entry.id)
        .limit(1)
    )
    first = session.execute(query).first()
    return first[1].parts if first is not None and first[0] > mark else None


def _clue(session: Session, visit: Visit, trial: Trial, bead: Bead) -> Known | None:
    mark = mark_of(session, trial)
    since = closer_since(session, visit, trial.parts, mark)
    if trial.kind == "paper":
        patch = trial.patches[0]
        clue = PaperClue(patch["feel"], patch["z"], patch["thickness"], patch["sd"], patch["step"], since)
        how = "lowered until it just dragged" if patch["step"] else FEEL_WORDS[patch["feel"]]
        return Known(trial, clue, f"paper at Z = {millimetres(patch['z'])}: {how}")
    if trial.kind == "patches":
        result = patches_found(session, visit, trial)
        asked = trial.patches[0].get("zero") is not None
        value = ValueClue(
            result.closer,
            max(result.margin / Z95, 0.003),
            ASKED_SD if asked else ZERO_SD,
            bool(result.beyond),
            since,
        )
        return Known(
            trial, value, f"{len(trial.patches)} measured patch{'es' if len(trial.patches) > 1 else ''}"
        )
    middle = next((p["step"] for p in trial.patches if p["place"] == MIDDLE), None)
    if middle is None:
        return None
    near, far = usual_limits(bead)
    bands = {
        "far_too_far": (far, math.inf),
        "too_far": (near, far),
        "good": (-near, near),
        "too_close": (-far, -near),
        "far_too_close": (-math.inf, -far),
    }
    return Known(
        trial, BandClue(*bands[middle], closer_since=since), f"the first layer looked {WORDS[middle]}"
    )


def _trim(session: Session, visit: Visit) -> Known | None:
    """The newest trim that was written down: whoever stopped trimming found it right."""
    newest = newest_offset(session, visit.printer_id)
    if newest is None or newest.reason != "trim" or newest.visit_id != visit.id:
        return None
    since = made_by_hand(session, visit.printer_id, mark_of(session, newest))
    return Known(None, BandClue(-TRIMMED, TRIMMED, closer_since=since), "trimmed while it printed")
