"""What a job would do: checked against the printer's limits and said in words before anything moves or heats."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError, NonFiniteError, OutOfRangeError
from finchwort.core.base.wording import duration, millimetres
from finchwort.core.compensation import survey_minutes
from finchwort.core.first_layer import Ledger
from finchwort.core.machine import SAME_OFFSET
from finchwort.core.printers import TIP_ROOM, Bed, blocked, clear_of, free_place, suggest_screw_points
from finchwort.core.probing import (
    MAX_SPOTS,
    MAX_TOUCHES,
    MIN_TOUCHES,
    grid_points,
    in_reach,
    reach,
    touched_again,
    walking_order,
)
from finchwort.services.first_layer.clearance import highest_ground
from finchwort.services.first_layer.offset_clues import PRESSED, pressed
from finchwort.store.errors import ConflictError, ReadFirstError, TypeFirstError
from finchwort.store.first_layer.offsets import newest_offset
from finchwort.store.machine.jobs import KINDS, offset_read, pace_of
from finchwort.store.models import Job, JobReading, Printer
from finchwort.store.printers.printers import bed_of

MAX_POINTS = 625
SOAK_EVERY, SOAK_LONGEST = 30.0, 2400.0
"""Usual pause between readings of a warm-up, and its longest duration, s."""
HOMING = 0.4
"""Homing takes about so long, minutes (common practice)."""
MAX_SOAK = 200
MOVES = "The head and the bed move by themselves: keep hands, hair and sleeves out, and a hand near the power switch."
HOT = "Bed and nozzle get hot enough to burn. Stay with the printer, keep anything that burns off it, and never bridge its protection."
CLOSER = (
    "The tip will be closer to the plate in the next print: watch the first lines, and stop if it scrapes."
)
CLOSER_NOW = "The tip comes closer to the plate at once: watch the lines, and stop the print if it scrapes."
MAX_TRIM = 0.05
"""One step of trimming while it prints, mm (common practice: 0.01 to 0.05)."""
MAX_MOVE = 0.5
"""An offset is changed by no more than this at once over the line, mm (ours)."""
HOMES = ("home", "grid", "repeatability", "soak", "park")
"""In these the machine finds its zero, and a probe that does not see the plate lets the tip run into it."""
UNSEEN = (
    "DANGER: another plate lies on, and this printer's probe does not touch it: it may look through it, and then the tip runs "
    "into the plate while homing. No stored offset prevents that. Motors off, set the probe lower against the tip by at least "
    "what the plate is thicker; a probe that cannot feel so far must not home on this plate."
)
CONFIRM = (
    "The probe sits lower against the tip by at least the thickness that was added, I saw it trigger above this plate, and my hand "
    "is on the power switch."
)
WATCH_LONGEST = 180.0
"""So long switches are watched at the most, s (ours)."""
PIN = {
    "probe_out": "Put the probe's pin out",
    "probe_in": "Take the probe's pin in",
    "probe_test": "Let the probe test itself",
}
PIN_MOVES = (
    "The pin snaps out and in by itself: keep fingers away from it, and the head well above the plate."
)
MENDED = "I saw to what the last test found, and my hand is on the power switch."
WALKS = ("grid", "repeatability", "soak", "park")
"""In these the head travels over the bed."""
STILL_HOT = "Heaters that are on stay on."


@dataclass(frozen=True)
class Stands:
    """What is known of the Z offset in a machine.

    Attributes
    ----------
    told : float or None
        As the machine said just now, mm.
    tells : bool or None
        Whether this kind of machine says it; None when it was not asked just now.
    written : float or None
        As it was written down, mm.
    """

    told: float | None = None
    tells: bool | None = None
    written: float | None = None


@dataclass(frozen=True)
class Asked:
    """A job that could be begun.

    Attributes
    ----------
    kind : str
    params : dict
        As the link process takes them.
    total : int
        Touches it will make; 0 when that is not known.
    sentence : str
        What will happen.
    cautions : tuple of str
    moves, heats : bool
    minutes : float or None
    confirm : str or None
        What the person has to say was done, word for word, before this begins: the loudest that there is.
    """

    kind: str
    params: dict[str, Any]
    total: int
    sentence: str
    cautions: tuple[str, ...]
    moves: bool
    heats: bool
    minutes: float | None
    confirm: str | None = None

    @property
    def token(self) -> str:
        """Stands for this very sentence: what the person has read and agreed to."""
        text = "\n".join(
            (self.kind, self.sentence, *self.cautions, self.confirm or "", repr(sorted(self.params.items())))
        )
        return hashlib.sha256(text.encode()).hexdigest()[:24]


def gather(session: Session, printer: Printer, kind: str) -> dict[str, Any]:
    """Gather what `ask` needs to know beyond the wish: this printer's pace, its ground, and the offset in the machine."""
    found: dict[str, Any] = {"seconds": pace_of(session, printer.id)}
    if kind in WALKS:
        found["highest"] = highest_ground(session, printer)
    if kind in ("offset", "trim"):
        found["pressed"] = pressed(session, printer)
    if kind == "offset":
        newest, read = newest_offset(session, printer.id), offset_read(session, printer.id)
        found["stands"] = Stands(
            told=read.live.get("offset") if read else None,
            tells=read.live.get("offset_told") if read else None,
            written=newest.parts.get("printer") if newest is not None else None,
        )
    return found


def demand(asked: Asked, unseen: bool) -> Asked:
    """Demand the loudest confirmation where a plate lies on that the probe may not see."""
    if not unseen or asked.kind not in HOMES:
        return asked
    return replace(asked, cautions=(UNSEEN, *asked.cautions), confirm=CONFIRM)


def warn(asked: Asked, said: Sequence[str], switches: bool) -> Asked:
    """Repeat what the last tests found wrong; after a bad switch somebody has to say that it was mended."""
    confirm = asked.confirm or (MENDED if switches else None)
    return replace(asked, cautions=(*said, *asked.cautions), confirm=confirm)


def ask(
    printer: Printer,
    kind: str,
    wanted: dict[str, Any],
    *,
    seconds: float | None = None,
    stands: Stands | None = None,
    highest: float | None = None,
    pressed: bool = False,
) -> Asked:
    """Check what is asked of a printer and say what will happen.

    Parameters
    ----------
    printer : Printer
    kind : one of ``KINDS``
    wanted : dict
        heat: ``bed``, ``nozzle`` (°C).  park: ``x``, ``y``, ``name``.  repeatability: ``x``, ``y``, ``count``.
        soak: ``x``, ``y`` or ``places`` (how many in turn), ``every``, ``longest`` (s), ``until_steady``.  grid: ``points`` (mm).
        offset: ``value`` (mm, in the machine's own sign), ``reason``; ``before`` (mm) where the machine does not tell it.
        trim: ``value`` (mm, positive closer).
    seconds : float, optional
        This printer's pace, s a place.
    stands : Stands, optional
        What is known of the offset in the machine.
    highest : float, optional
        The highest ground there may be against Z = 0, mm; None when nobody knows.
    pressed : bool
        Whether the newest strip would not move: then nothing brings the tip closer.

    Raises
    ------
    CoreError, ConflictError
    """
    if kind not in KINDS:
        raise ChoiceError(f"There is no job called {kind!r}.")
    if not printer.port:
        raise ConflictError(f"{printer.name} has no line set up. Name its port in the printer's set-up.")
    name = printer.name
    plain = {
        "connect": (
            f"Open the line to {name} ({printer.port}) and ask what it is. Some boards start anew when their line is opened.",
            False,
        ),
        "home": (f"Home {name}: all axes run to their ends.", True),
        "cool": (f"Switch both heaters of {name} off.", False),
        "temperatures": (f"Read the temperatures of {name}. Nothing moves.", False),
        "switches": (f"Read the switch states of {name}. Nothing moves.", False),
        "watch": (
            f"Read the switches of {name} again and again, for {WATCH_LONGEST / 60:.0f} minutes at the most, while you press one "
            "after the other by hand. Nothing moves.",
            False,
        ),
        "read_offset": (f"Ask {name} what stands in it as its Z offset. Nothing moves.", False),
    }
    if kind in plain:
        sentence, moves = plain[kind]
        return Asked(kind, {}, 0, sentence, (MOVES,) if moves else (), moves, False, None)
    if kind in PIN:
        if printer.probe_kind != "retracting":
            raise ConflictError(f"{name} is set up without a probe whose pin goes out and in.")
        sentence = f"{PIN[kind]} of {name}, and read its switches. The head does not move."
        return Asked(kind, {}, 0, sentence, (PIN_MOVES,), True, False, None)
    if kind == "heat":
        return _heat(printer, wanted)
    if kind == "park":
        return _park(printer, wanted, highest)
    if kind == "trim":
        return _trim(printer, wanted, pressed)
    if kind == "offset":
        return _offset(printer, wanted, stands or Stands(), pressed)
    if printer.probe_kind == "none":
        raise ConflictError(f"{name} is set up without a probe. Say in its set-up what touches the bed.")
    if kind == "grid":
        return _grid(printer, wanted, seconds, highest)
    x, y = _place(printer, wanted)
    first = f"Home {name}, then touch"
    if kind == "repeatability":
        count = int(wanted.get("count", 10))
        if not MIN_TOUCHES <= count <= MAX_TOUCHES:
            raise OutOfRangeError(f"A test has {MIN_TOUCHES} to {MAX_TOUCHES} touches.")
        touches = {"x": x, "y": y, "count": count, "highest": highest}
        sentence = f"{first} the bed at x {x:g}, y {y:g} mm {count} times."
        minutes = survey_minutes([(x, y)] * count, seconds=seconds) + HOMING
        return Asked(kind, touches, count, sentence, (MOVES, STILL_HOT), True, False, minutes)
    every = float(wanted.get("every", SOAK_EVERY))
    longest = float(wanted.get("longest", SOAK_LONGEST))
    if not 2 <= every <= 600 or not every <= longest <= 4 * 3600:
        raise OutOfRangeError("Readings 2 to 600 s apart, for up to four hours.")
    if longest > 60 * printer.longest_heat:
        raise OutOfRangeError(
            f"Watch for {printer.longest_heat:g} minutes at most: heaters go off after that, as this printer's set-up says."
        )
    until = bool(wanted.get("until_steady", True))
    spots = _spots(printer, int(wanted.get("places") or 1))
    params: dict[str, Any] = {
        "x": x,
        "y": y,
        "spots": [list(spot) for spot in spots],
        "every": every,
        "longest": longest,
        "until_steady": until,
        "most": MAX_SOAK,
        "highest": highest,
    }
    where = (
        f"at {len(spots)} places in turn, one of them every {every:g} s, "
        if spots
        else f"at x {x:g}, y {y:g} mm every {every:g} s, "
    )
    still = "until its shape stands, " if spots else "until it stands still, "
    sentence = f"{first} the bed {where}" + (still if until else "") + f"for {duration(longest)} at most."
    return Asked(kind, params, 0, sentence, (MOVES, STILL_HOT), True, False, None)


def _spots(printer: Printer, count: int) -> list[tuple[float, float]]:
    """Places to touch in turn: near the screws and the middle, as far as the probe reaches; none for a single place."""
    if count < 2:
        return []
    if count > MAX_SPOTS:
        raise OutOfRangeError(f"Up to {MAX_SPOTS} places are read in turn.")
    bed, probe = bed_of(printer), (printer.probe_dx, printer.probe_dy)
    x0, y0, x1, y1 = reach(bed, *probe)
    near = suggest_screw_points(bed, [(screw.x, screw.y) for screw in printer.screws])
    within = [(round(min(max(x, x0), x1), 2), round(min(max(y, y0), y1), 2)) for x, y in near]
    held = [place for place in clear_of(bed, within, probe=probe, area=(x0, y0, x1, y1)) if place]
    if not held:
        raise OutOfRangeError("Clips leave no place of this bed to the probe.")
    # the middle is the last of them and always among those chosen
    return list(dict.fromkeys([*held[: count - 1], held[-1]]))


def _heat(printer: Printer, wanted: dict[str, Any]) -> Asked:
    params, goals = {}, []
    for what, most in (("bed", printer.most_bed), ("nozzle", printer.most_nozzle)):
        value = wanted.get(what)
        if value is None:
            continue
        if not math.isfinite(value) or not 0 <= value <= most:
            raise OutOfRangeError(
                f"The {what}'s limit in this printer's set-up is {most:g} °C; {value:g} °C was asked for."
            )
        params[what] = float(value)
        goals.append(f"the {what} to {value:g} °C")
    if not goals:
        raise ChoiceError("Say how hot bed or nozzle are to become.")
    sentence = f"Heat {' and '.join(goals)} on {printer.name}, and wait until it is there. Nothing moves."
    if any(params.values()):
        sentence += (
            f" After {printer.longest_heat:g} minutes the heaters go off by themselves, unless you agree to something more "
            "before."
        )
    return Asked("heat", params, 0, sentence, (HOT,), False, True, None)


def _park(printer: Printer, wanted: dict[str, Any], highest: float | None) -> Asked:
    x, y = _number(wanted, "x"), _number(wanted, "y")
    bed = bed_of(printer)
    x, y = min(max(x, bed.x_min), bed.x_max), min(max(y, bed.y_min), bed.y_max)
    name = str(wanted.get("name") or f"x {x:g}, y {y:g} mm")
    sentence = (
        f"Lift the head of {printer.name} and take it over {name}, after homing when that was not done."
    )
    params = {"x": x, "y": y, "name": name, "highest": highest}
    return Asked("park", params, 0, sentence, (MOVES,), True, False, None)


def _trim(printer: Printer, wanted: dict[str, Any], pressed: bool) -> Asked:
    """One step of trimming while it prints; ``value`` is how much closer, mm."""
    if wanted.get("value") is None:
        raise ChoiceError("Say how far the tip is to be trimmed.")
    closer = round(_number(wanted, "value"), 3)
    if not 0 < abs(closer) <= MAX_TRIM:
        raise OutOfRangeError(
            f"A trim is a step of {MAX_TRIM:g} mm at the most: watch the lines, and take another."
        )
    if pressed and closer > 0:
        raise ConflictError(PRESSED)
    way = "closer to" if closer > 0 else "farther from"
    sentence = (
        f"Move the tip of {printer.name} {millimetres(abs(closer))} {way} the plate at once, while it prints. "
        "Nothing is stored: it is gone after a restart."
    )
    cautions = (MOVES, *((CLOSER_NOW,) if closer > 0 else ()))
    return Asked("trim", {"closer": closer}, 0, sentence, cautions, True, False, None)


def _offset(printer: Printer, wanted: dict[str, Any], stands: Stands, pressed: bool) -> Asked:
    if wanted.get("value") is None:
        raise ChoiceError("Say which Z offset is to be set.")
    value = round(_number(wanted, "value"), 2)
    if stands.tells is None:
        raise ReadFirstError(f"{printer.name} is asked first what stands in it now.")
    if stands.tells and stands.told is not None:
        before, whence = stands.told, "as the printer says"
    elif wanted.get("before") is not None:
        before, whence = round(_number(wanted, "before"), 4), "as you read on its screen"
    else:
        raise TypeFirstError(
            f"{printer.name} cannot be asked what stands in it. Type the Z offset that its screen shows now."
        )
    there = Ledger({"printer": before}, printer.closer_is)
    closer = Ledger({"printer": value}, printer.closer_is).closer_by(there)
    if pressed and closer > 0:
        raise ConflictError(PRESSED)
    written = stands.written
    other = written is not None and abs(written - before) > SAME_OFFSET
    differs = (
        f" {millimetres(written or 0.0, signed=True)} is written down, which is not what stands there."
        if other
        else ""
    )
    if abs(closer) > MAX_MOVE + 1e-9:
        raise OutOfRangeError(
            f"The printer has {millimetres(before, signed=True)} ({whence}), so that would move the tip by "
            f"{millimetres(abs(closer))} at once.{differs} Go in steps of {MAX_MOVE:g} mm at most."
        )
    way = (
        f"{millimetres(abs(closer))} {'closer' if closer > 0 else 'farther'}"
        if abs(closer) >= 0.005
        else "as it was"
    )
    sentence = (
        f"Set the Z offset of {printer.name} to {millimetres(value, signed=True)} ({way}; before {millimetres(before, signed=True)}, "
        f"{whence}) and store it in its memory. Nothing moves."
    )
    params = {
        "value": value,
        "before": before,
        "reason": str(wanted.get("reason") or "typed"),
        "margin": wanted.get("margin"),
    }
    cautions = (*((differs.strip(),) if differs else ()), *((CLOSER,) if closer > 0 else ()))
    return Asked("offset", params, 0, sentence, cautions, False, False, None)


def _grid(printer: Printer, wanted: dict[str, Any], seconds: float | None, highest: float | None) -> Asked:
    bed, probe = bed_of(printer), (printer.probe_dx, printer.probe_dy)
    points = [(float(x), float(y)) for x, y in wanted.get("points") or ()]
    if not points and (wanted.get("columns") is None) != (wanted.get("rows") is None):
        raise ChoiceError("A grid needs its columns and its rows.")
    if not points and wanted.get("columns"):
        points = grid_points(
            bed, int(wanted["columns"]), int(wanted["rows"]), float(wanted.get("inset", 15.0)), *probe
        )
    if not 3 <= len(points) <= MAX_POINTS:
        raise OutOfRangeError(f"A survey probes 3 to {MAX_POINTS} places.")
    if not all(map(math.isfinite, (v for point in points for v in point))):
        raise NonFiniteError("A place is not a number.")
    if len(set(points)) < len(points):
        raise ChoiceError("A place stands there twice.")
    beyond = in_reach(bed, *probe, points).count(False)
    if beyond:
        x0, y0, x1, y1 = reach(bed, *probe)
        raise OutOfRangeError(
            f"The probe does not reach {beyond} of {len(points)} places: it reaches x {x0:g} to {x1:g}, y {y0:g} to {y1:g} mm."
        )
    _refuse_blocked(bed, probe, points)
    if not wanted.get("columns"):
        points = [points[i] for i in walking_order(points)]
    again = touched_again(points)
    params: dict[str, Any] = {
        "points": [list(point) for point in points],
        "again": [list(point) for point in again],
        "highest": highest,
    }
    minutes = survey_minutes([*points, *again], seconds=seconds) + HOMING
    drift = f" and the first {len(again)} once more to see whether it drifts" if again else ""
    sentence = f"Home {printer.name}, then probe {len(points)} places on the bed{drift}, about {duration(60 * minutes)}."
    return Asked("grid", params, len(points) + len(again), sentence, (MOVES, STILL_HOT), True, False, minutes)


def _refuse_blocked(bed: Bed, probe: tuple[float, float], points: Sequence[tuple[float, float]]) -> None:
    """Refuse places where something stands in the way of probe or nozzle."""
    found = [one for one in blocked(bed, points, probe) if one]
    if found:
        names = " and ".join(dict.fromkeys(one.name for one in found))
        raise OutOfRangeError(
            f"{len(found)} of {len(points)} places lie within {TIP_ROOM:g} mm of {names}, for the probe or the nozzle "
            "beside it. Leave them out, or change the places to keep off in the set-up."
        )


def ask_resume(
    printer: Printer, job: Job, readings: Sequence[JobReading], planned: Sequence[Sequence[float]]
) -> Asked:
    """Ask for the rest of a probing that was broken off; one known place is touched again to tie the two together.

    Parameters
    ----------
    printer : Printer
    job : Job
        The one to resume.
    readings : sequence of JobReading
        All read so far, of those it resumed too.
    planned : sequence of (x, y)
        All places that were wanted, mm.
    """
    if job.kind != "grid":
        raise ConflictError("Only a probing of the bed can be resumed. Begin this one again.")
    read = {(round(r.x, 3), round(r.y, 3)) for r in readings}
    left = [
        (float(point[0]), float(point[1]))
        for point in planned
        if (round(point[0], 3), round(point[1], 3)) not in read
    ]
    in_the_way = blocked(bed_of(printer), left, (printer.probe_dx, printer.probe_dy))
    left = [point for point, way in zip(left, in_the_way, strict=True) if way is None]
    if not left:
        raise ConflictError("Every place was read already: keep these readings.")
    params: dict[str, Any] = {"points": left, "highest": max((r.height for r in readings), default=None)}
    sentence = f"Home {printer.name}, "
    if readings:
        last = readings[-1]
        params["check"] = {"x": last.x, "y": last.y, "height": last.height}
        sentence += f"touch x {last.x:g}, y {last.y:g} mm once more to tie on to what was read, "
    sentence += f"then probe the {len(left)} places that are left."
    return Asked("grid", params, len(left), sentence, (MOVES, STILL_HOT), True, False, None)


def _place(printer: Printer, wanted: dict[str, Any]) -> tuple[float, float]:
    bed = bed_of(printer)
    probe = (printer.probe_dx, printer.probe_dy)
    if wanted.get("x") is None or wanted.get("y") is None:
        x0, y0, x1, y1 = reach(bed, *probe)
        cx, cy = bed.centre
        place = round(min(max(cx, x0), x1), 2), round(min(max(cy, y0), y1), 2)
        held = free_place(bed, *place, probe=probe, area=(x0, y0, x1, y1), most=math.inf)
        if held is None:
            raise OutOfRangeError("Clips leave no place of this bed to the probe.")
        return held
    x, y = _number(wanted, "x"), _number(wanted, "y")
    if not in_reach(bed, *probe, [(x, y)])[0]:
        raise OutOfRangeError(f"The probe does not reach x {x:g}, y {y:g} mm.")
    _refuse_blocked(bed, probe, [(x, y)])
    return x, y


def _number(wanted: dict[str, Any], name: str) -> float:
    value = wanted.get(name)
    if value is None or not math.isfinite(value):
        raise NonFiniteError(f"The place needs its {name}.")
    return float(value)
