"""Copies of a file for the bed of its printer: bent, moved, or with one thing changed."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.base.remarks import Remark, remark
from finchwort.core.files import (
    BendPlan,
    Change,
    CopyChange,
    CopyKind,
    Limits,
    Pieces,
    PrintFile,
    PrintForecast,
    Shift,
    Target,
    bend_refusals,
    check_change,
    cut_in_pieces,
    forecast_print,
    plan_bend,
)
from finchwort.core.first_layer import SAFE
from finchwort.core.surveys import Relief
from finchwort.core.visits import Standing
from finchwort.formats.print_file import Copy, Text, bent_copy, changed_copy, moved_copy, unpack_print
from finchwort.messages.copies import bent_head, changed_head, moved_head
from finchwort.services.files.target import newest_survey, target_of
from finchwort.services.first_layer.offsets import relief_of
from finchwort.services.probing.probe_tests import noise_for
from finchwort.services.visits.standing import known_survey
from finchwort.store.errors import ConflictError
from finchwort.store.files.models import PrintFileRecord
from finchwort.store.models import Printer, SurveyRecord
from finchwort.store.printers.printers import get_printer
from finchwort.store.records import utcnow

FURTHEST = 1000.0
"""No print is moved further, mm."""


@dataclass(frozen=True)
class CopyWanted:
    """What a copy is to be.

    Attributes
    ----------
    kind : CopyKind
    top : float or None
        Bent: from which Z on the bed is not followed any more, mm.
    cleared : bool
        Bent: somebody said that no mesh is switched on in the printer.
    dx, dy : float
        Moved, mm.
    turn : int
        Moved: quarter turns to the left.
    part : int or None
        Moved: that part alone.
    change : CopyChange or None
    value : float or None
        Changed: what it is to be.
    """

    kind: CopyKind
    top: float | None = None
    cleared: bool = False
    dx: float = 0.0
    dy: float = 0.0
    turn: int = 0
    part: int | None = None
    change: CopyChange | None = None
    value: float | None = None


@dataclass(frozen=True, eq=False)
class Ground:
    """What a copy is made for: a print, its printer, and its bed as it is known.

    Attributes
    ----------
    print_ : PrintFile
    name : str
        Of the print's file.
    printer : str
        Its name.
    target : Target
        With a bed.
    relief : Relief or None
        As the machine meets it when it compensates nothing but its mean height.
    standing : Standing or None
        Whether the readings still show the bed.
    limits : Limits
    survey : SurveyRecord or None
        Where the heights come from, when they are on record.
    """

    print_: PrintFile
    name: str
    printer: str
    target: Target
    relief: Relief | None = None
    standing: Standing | None = None
    limits: Limits = field(default_factory=lambda: Limits(SAFE))
    survey: SurveyRecord | None = None


def ground_of(session: Session, record: PrintFileRecord) -> Ground:
    """Gather what a copy of a file is made for.

    Raises
    ------
    ConflictError
        When nobody said which printer it is for.
    """
    if record.printer_id is None:
        raise ConflictError("Say which printer it is for: a copy is made for its bed.")
    printer = get_printer(session, record.printer_id)
    target = target_of(session, printer, record.surface_kind, record.material, record.nozzle)
    return ground_on(session, printer, unpack_print(record.packed), record.name, target)


def ground_on(
    session: Session, printer: Printer, found: PrintFile, name: str, target: Target | None = None
) -> Ground:
    """Gather it for a print and a printer."""
    target = target or target_of(session, printer)
    survey = newest_survey(session, printer)
    if survey is None:
        return Ground(found, name, printer.name, target)
    kind = "mean" if printer.compensation == "mean" else "none"
    noise = noise_for(session, survey).sd or 0.0
    return Ground(
        found,
        name,
        printer.name,
        target,
        relief_of(session, survey, kind),
        known_survey(session, printer, survey),
        Limits(SAFE + 2 * noise, over=relief_of(session, survey, kind, everything=True)),
        survey,
    )


@dataclass(frozen=True, eq=False)
class BentPrint:
    """A print bent to its bed, in thought.

    Attributes
    ----------
    plan : BendPlan
    pieces : Pieces
    before, after : PrintForecast
        Its first layer as the file has it, and bent.
    """

    plan: BendPlan
    pieces: Pieces
    before: PrintForecast
    after: PrintForecast


def bend_in_thought(ground: Ground, top: float | None = None, shift: float = 0.0) -> BentPrint:
    """Foretell what a bent copy would do.

    Raises
    ------
    ChoiceError
        When the bed was not measured.
    OutOfRangeError
    """
    if ground.relief is None:
        raise ChoiceError("files.bend_refused", why=remark("files.bend_unmeasured"))
    found, relief = ground.print_, ground.relief
    pieces = cut_in_pieces(found.layer)
    plan = plan_bend(found, pieces, relief, top)
    zero = relief.middle + shift
    return BentPrint(
        plan,
        pieces,
        forecast_print(pieces, found.parts, relief, zero),
        forecast_print(pieces, found.parts, relief, zero, gaps=plan.gap - relief.middle),
    )


def bend_reasons(ground: Ground, *, cleared: bool = False) -> tuple[Remark, ...]:
    """Say what speaks against a bent copy."""
    return bend_refusals(ground.print_, ground.target, ground.standing, cleared=cleared)


def make_copy(ground: Ground, wanted: CopyWanted, text: Text) -> tuple[Copy, list[str]]:
    """Make a copy of a file.

    Parameters
    ----------
    ground : Ground
    wanted : CopyWanted
    text : Text
        The file itself once more: only what matters of it is on record.

    Returns
    -------
    copy : Copy
        To be closed.
    head : list of str
        What it says of itself.

    Raises
    ------
    CoreError
        When it may not be made; nothing of it is given then.
    """
    if wanted.kind is CopyKind.BENT:
        return _bent(ground, wanted, text)
    if wanted.kind is CopyKind.MOVED:
        return _moved(ground, wanted, text)
    return _changed(ground, wanted, text)


def _bent(ground: Ground, wanted: CopyWanted, text: Text) -> tuple[Copy, list[str]]:
    reasons = bend_reasons(ground, cleared=wanted.cleared)
    if reasons or ground.relief is None:
        raise ChoiceError("files.bend_refused", why=reasons[0])
    pieces = cut_in_pieces(ground.print_.layer)
    bend = plan_bend(ground.print_, pieces, ground.relief, wanted.top).bend
    copy, bender = bent_copy(text, ground.print_, bend, ground.limits)
    measured = ground.survey.taken_at if ground.survey else None
    return copy, bent_head(ground.name, ground.printer, measured, utcnow(), bender)


def _moved(ground: Ground, wanted: CopyWanted, text: Text) -> tuple[Copy, list[str]]:
    if not max(abs(wanted.dx), abs(wanted.dy)) <= FURTHEST:
        raise OutOfRangeError("files.move_far", most=FURTHEST)
    if not (wanted.dx or wanted.dy or wanted.turn % 4):
        raise ChoiceError("files.move_nowhere")
    bed = ground.target.bed
    if bed is None:
        raise ChoiceError("files.move_no_bed")
    name, shift = "", Shift.of(ground.print_.layer, wanted.dx, wanted.dy, wanted.turn)
    if wanted.part is not None:
        if wanted.part >= len(ground.print_.parts):
            raise ChoiceError("files.no_such_part")
        if shift.turn:
            raise ChoiceError("files.move_part_turned")
        name, shift = ground.print_.parts[wanted.part].name, replace(shift, part=wanted.part)
    _refuse_contact(ground, shift)
    copy = moved_copy(text, ground.print_, shift, bed)
    return copy, moved_head(ground.name, ground.printer, utcnow(), shift, bed, name)


def _refuse_contact(ground: Ground, shift: Shift) -> None:
    """The bed may be higher where a print is moved to; compensation is not counted on, for it may be off."""
    if ground.relief is None:
        return
    layer, over = shift.layer(ground.print_.layer), ground.limits.over or ground.relief
    least = forecast_print(layer, ground.print_.parts, over, ground.relief.middle).least
    if least < ground.limits.clear:
        raise OutOfRangeError("files.move_touches", gap=max(least, 0.0))


def _changed(ground: Ground, wanted: CopyWanted, text: Text) -> tuple[Copy, list[str]]:
    if wanted.change is None or wanted.value is None:
        raise ChoiceError("files.change_number")
    change, found, least = Change(wanted.change, wanted.value), ground.print_, None
    if ground.relief is not None and change.kind is CopyChange.OFFSET:
        over = ground.limits.over or ground.relief
        zero = ground.relief.middle + min(max(change.value, -1.0), 1.0)
        least = forecast_print(found.layer, found.parts, over, zero).least
    allowed = check_change(found, change, ground.target, ground.standing, least)
    copy = changed_copy(text, found, change, allowed.now)
    return copy, changed_head(ground.name, ground.printer, utcnow(), change, allowed)
