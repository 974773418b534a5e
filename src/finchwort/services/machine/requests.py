"""What a job would do: checked against the printer's limits and said in words before anything moves or heats."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError
from finchwort.services.first_layer.clearance import highest_ground
from finchwort.services.first_layer.offset_clues import pressed
from finchwort.services.machine.kinds import JOBS, Asked, Grid, JobKind, JobType, Known, Stands
from finchwort.services.probing.faults import faults_of
from finchwort.store.errors import ConflictError
from finchwort.store.first_layer.offsets import newest_offset, unseen_plate
from finchwort.store.machine.jobs import chain_of, get_job, offset_read, pace_of, readings_of
from finchwort.store.machine.kinds import BROKEN
from finchwort.store.models import Job, Printer

UNSEEN = (
    "DANGER: another plate lies on, and this printer's probe does not touch it: it may look through it, and then the tip runs "
    "into the plate while homing. No stored offset prevents that. Motors off, set the probe lower against the tip by at least "
    "what the plate is thicker; a probe that cannot feel so far must not home on this plate."
)
CONFIRM = (
    "The probe sits lower against the tip by at least the thickness that was added, I saw it trigger above this plate, and my hand "
    "is on the power switch."
)
MENDED = "I saw to what the last test found, and my hand is on the power switch."


def job_type(kind: str) -> type[JobType]:
    """Return the class of a kind of job.

    Raises
    ------
    ChoiceError
    """
    try:
        return JOBS[JobKind(kind)]
    except ValueError:
        raise ChoiceError("machine.no_job_called", kind=kind) from None


def ask(printer: Printer, kind: str, wish: Mapping[str, Any], known: Known | None = None) -> Asked:
    """Check what is asked of a printer and say what will happen.

    Parameters
    ----------
    printer : Printer
    kind : str
        A `JobKind`.
    wish : mapping
        What is wished of it; which names count, the class of the kind says.
    known : Known, optional
        What is known beyond that; see `gather`.

    Raises
    ------
    CoreError, ConflictError
    """
    goal = job_type(kind)
    if not printer.port:
        raise ConflictError(f"{printer.name} has no line set up. Name its port in the printer's set-up.")
    return goal.ask(printer, wish, known or Known())


def gather(session: Session, printer: Printer, kind: str) -> Known:
    """Gather what `ask` needs to know beyond the wish: this printer's pace, its ground, and the offset in the machine."""
    stands = Stands()
    if kind == JobKind.OFFSET:
        newest, read = newest_offset(session, printer.id), offset_read(session, printer.id)
        stands = Stands(
            told=read.live.get("offset") if read else None,
            tells=read.live.get("offset_told") if read else None,
            written=newest.parts.get("printer") if newest is not None else None,
        )
    return Known(
        seconds=pace_of(session, printer.id),
        stands=stands,
        highest=highest_ground(session, printer) if job_type(kind).walks else None,
        pressed=pressed(session, printer) if kind in (JobKind.OFFSET, JobKind.TRIM) else False,
    )


def ask_with_care(session: Session, printer: Printer, kind: str, wish: Mapping[str, Any]) -> Asked:
    """Check a wish with all that is known, and add what speaks against it; see `ask`."""
    return careful(session, printer, ask(printer, kind, wish, gather(session, printer, kind)))


def ask_resume(session: Session, printer: Printer, job_id: int) -> tuple[Asked, Job]:
    """Ask for the rest of a probing that was broken off; return it with the job that it resumes.

    Raises
    ------
    ConflictError
    """
    job = get_job(session, job_id)
    if job.printer_id != printer.id or job.state not in BROKEN:
        raise ConflictError("This job cannot be resumed.")
    if job.kind != JobKind.GRID:
        raise ConflictError("Only a probing of the bed can be resumed. Begin this one again.")
    chain = chain_of(session, job)
    asked = Grid.ask_rest(printer, readings_of(session, chain), chain[0].params["points"])
    return careful(session, printer, asked), job


def careful(session: Session, printer: Printer, asked: Asked) -> Asked:
    """Add what speaks against a job: what the last tests found wrong, and a plate that the probe may not see.

    After a bad switch somebody has to say that it was mended; where a plate lies on that the probe may not see, the
    loudest confirmation is demanded.
    """
    faults = faults_of(session, printer, asked.job.needs)
    confirm = asked.confirm or (MENDED if faults.switches else None)
    asked = replace(asked, cautions=(*faults.said, *asked.cautions), confirm=confirm)
    if asked.job.homes and unseen_plate(session, printer):
        asked = replace(asked, cautions=(UNSEEN, *asked.cautions), confirm=CONFIRM)
    return asked
