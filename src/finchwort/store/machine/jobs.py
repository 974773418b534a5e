"""Jobs at the machine: asked for by the web, done by a link process, kept whatever happens.

A job waits until a link process claims it together with its line: rows are
locked with SKIP LOCKED, so several processes never take the same one.  Whoever
owns a line renews its lease; when the lease runs out the job is over
("interrupted") and everything read so far stays.  Times are the database's, so
clocks of different machines do not matter.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import func, insert, or_, select, update
from sqlalchemy.orm import Session, joinedload

from finchwort.core.base.wording import lower_first
from finchwort.core.surveys import MAX_READINGS
from finchwort.store.errors import ConflictError, KeyTakenError, NotFoundError
from finchwort.store.machine.kinds import OVER, UNDER_WAY, JobKind, JobState
from finchwort.store.machine.lines import LEASE, db_now, free, keep_line, line_of
from finchwort.store.machine.locks import refuse_at_work
from finchwort.store.models import Job, JobLine, JobReading, MachineLine, Printer, Visit
from finchwort.store.visits.logbook import write_entry
from finchwort.store.visits.visits import get_visit

SILENT = timedelta(seconds=6)
"""An owner who did not renew its lease for so long does not hear a stop (it renews it every 0.4 s; opening a line may take five)."""
AGREED = timedelta(minutes=2)
"""A sentence that was agreed to is worth so long: whoever agreed stands beside the machine."""
FRESH = timedelta(minutes=2)
"""What a printer said of its offset counts for so long."""
SOFT, NOW = "soft", "now"
"""Stop after the reading under way, or stop the machine at once."""
MAX_LINES = 20_000
"""So many lines of conversation are kept of one job."""
BEGINNING = datetime(1970, 1, 1, tzinfo=UTC)
POWER = "Use the power switch."
AGAIN = "It was not begun within two minutes of your agreeing to it. Nothing happened. Look at the machine and agree again."


class LostError(Exception):
    """The job is no longer ours: its lease ran out or someone ended it."""


@dataclass(frozen=True)
class Beat:
    """What a link process learns when it shows that it lives.

    Attributes
    ----------
    stop : {"soft", "now"} or None
    overdue : bool
        The heaters were on for as long as they may.
    """

    stop: str | None
    overdue: bool = False


def queue_job(
    session: Session,
    printer: Printer,
    kind: str,
    params: dict[str, Any],
    *,
    client_key: str,
    visit_id: int | None = None,
    total: int = 0,
    resumes: Job | None = None,
) -> Job:
    """Ask for a job.

    Raises
    ------
    ConflictError
        When the printer has no line, or is at work already.
    """
    known = job_by_key(session, client_key)
    if known is not None:
        if known.printer_id != printer.id or known.kind != kind or known.params != params:
            raise KeyTakenError("Another job was asked for with this key.")
        return known
    if not printer.port:
        raise ConflictError(f"{printer.name} has no line set up. Name its port in the printer's set-up.")
    # the printer's row is the gate: two requests at once queue one after the other
    gone = session.execute(
        select(Printer.deleted_at).where(Printer.id == printer.id).with_for_update()
    ).scalar_one()
    if gone is not None:
        raise NotFoundError("There is no such printer. It may have been deleted.")
    known = job_by_key(session, client_key)
    if known is not None:
        return known  # the same request came twice at the same moment
    settle(session)
    refuse_at_work(session, printer)
    if visit_id is not None:
        visit = get_visit(session, visit_id)
        if visit.printer_id != printer.id:
            raise ConflictError("This visit belongs to another printer.")
        if visit.ended_at is not None:
            raise ConflictError("This visit is closed. Open it again, or begin a new one.")
    job = Job(
        created_at=db_now(session),
        printer=printer,
        visit_id=visit_id,
        line_id=line_of(session, printer).id,
        client_key=client_key,
        kind=kind,
        params=params,
        state=JobState.WAITING,
        message="Waiting for a link process to take it.",
        live={},
        done=0,
        total=total,
        resumes=resumes.id if resumes else None,
    )
    session.add(job)
    session.flush()
    return job


def get_job(session: Session, job_id: int) -> Job:
    """Return a job.

    Raises
    ------
    NotFoundError
    """
    job = session.get(Job, job_id, options=[joinedload(Job.printer)])
    if job is None:
        raise NotFoundError("There is no such job.")
    return job


def job_by_key(session: Session, client_key: str) -> Job | None:
    """Return the job asked for with a key, if there is one."""
    return session.scalars(select(Job).where(Job.client_key == client_key)).first()


def list_jobs(session: Session, printer_id: int, limit: int = 30) -> list[Job]:
    """Return the jobs of a printer, newest first."""
    query = select(Job).where(Job.printer_id == printer_id).order_by(Job.id.desc()).limit(limit)
    return list(session.scalars(query))


def working_jobs(session: Session) -> list[Job]:
    """Return the jobs that wait or run, of all printers."""
    query = (
        # of deleted printers too: whatever may move is shown
        select(Job).where(Job.state.in_(UNDER_WAY)).order_by(Job.id)
    )
    return list(session.scalars(query))


def claim_job(session: Session, owner: str, link_name: str = "", since: datetime | None = None) -> Job | None:
    """Take the oldest waiting job whose line is free, and the line with it.

    Parameters
    ----------
    since : datetime, optional
        When the one who claims began: what was asked for before does not begin by itself after a restart.

    Returns
    -------
    Job or None
        None when there is nothing to do.
    """
    settle(session)
    now = db_now(session)
    query = (
        select(Job, MachineLine)
        .join(MachineLine, Job.line_id == MachineLine.id)
        .where(Job.state == JobState.WAITING, MachineLine.link_name.in_(("", link_name)), free(owner, now))
        .where(Job.created_at >= (since or BEGINNING))
        .order_by(Job.id)
        .limit(1)
        .with_for_update(skip_locked=True)
        .execution_options(populate_existing=True)
    )
    row = session.execute(query).first()
    if row is None:
        return None
    job, line = row
    line.owner = job.owner = owner
    line.lease_until = job.lease_until = now + LEASE
    job.state, job.started_at, job.message = JobState.RUNNING, now, "Begun."
    if line.hot_until is not None:
        # whoever agreed to this stands beside the machine: its heaters may stay on for as long again
        line.hot_until = now + timedelta(minutes=job.printer.longest_heat)
    session.flush()
    return job


def beat(session: Session, job_id: int, owner: str) -> Beat:
    """Renew the lease of a job and its line; learn whether to stop.

    Raises
    ------
    LostError
        When it is not ours any more.
    """
    now = db_now(session)
    query = select(Job).where(Job.id == job_id).with_for_update().execution_options(populate_existing=True)
    job = session.scalars(query).first()
    if job is None or job.owner != owner or job.state != JobState.RUNNING:
        raise LostError
    job.lease_until = now + LEASE
    keep_line(session, job.line_id, owner, now)
    until = session.scalar(select(MachineLine.hot_until).where(MachineLine.id == job.line_id))
    return Beat(job.stop, until is not None and until < now)


def unsettled(session: Session, now: datetime | None = None) -> bool:
    """Tell whether a lease ran out, or an agreement did."""
    now = now or db_now(session)
    over = or_(
        (Job.state == JobState.RUNNING) & (Job.lease_until < now),
        (Job.state == JobState.WAITING) & (Job.created_at < now - AGREED),
    )
    return session.scalar(select(Job.id).where(over).limit(1)) is not None


def silent(job: Job, now: datetime) -> bool:
    """Tell whether the one who does a job has not been heard of lately, so that it hears no stop."""
    return (
        job.state == JobState.RUNNING
        and job.lease_until is not None
        and job.lease_until - LEASE + SILENT < now
    )


def settle(session: Session) -> int:
    """End the jobs whose owner fell silent, and those nobody began in time; readings stay.  Returns how many."""
    now = db_now(session)
    late = session.scalars(
        select(Job)
        .where(Job.state == JobState.WAITING, Job.created_at < now - AGREED)
        .with_for_update(skip_locked=True)
        .execution_options(populate_existing=True)
    ).all()
    for job in late:
        end_job(session, job, JobState.NOT_BEGUN, AGAIN)
    lost = session.scalars(
        select(Job)
        .where(Job.state == JobState.RUNNING, Job.lease_until < now)
        .with_for_update(skip_locked=True)
        .execution_options(populate_existing=True)
    ).all()
    for job in lost:
        text = "The link process that did this fell silent. "
        text += "What was read is kept." if job.done else "Nothing was read yet."
        job.live = job.live | {"unsure": True}
        hot = (
            " Heaters that were on may still be on."
            if session.get_one(MachineLine, job.line_id).hot_until
            else ""
        )
        end_job(
            session,
            job,
            JobState.INTERRUPTED,
            f"{text} The machine may still move.{hot} Look at it; {lower_first(POWER)}",
        )
    return len(lost) + len(late)


def unsure_jobs(session: Session) -> list[Job]:
    """Return the jobs after which nobody knows what the machine does, until someone says that it stands still."""
    newest = select(func.max(Job.id)).group_by(Job.printer_id)
    query = select(Job).where(Job.id.in_(newest), Job.state == JobState.INTERRUPTED).order_by(Job.id)
    return [job for job in session.scalars(query) if job.live.get("unsure")]


def set_seen(session: Session, job_id: int) -> Job:
    """Write down that a person looked at a machine, and that it stands still."""
    job = get_job(session, job_id)
    # "it stands still" and "it is off" are tapped one after the other: neither may undo the other
    session.refresh(job, with_for_update=True)
    job.live = {name: value for name, value in job.live.items() if name != "unsure"}
    return job


def offset_read(session: Session, printer_id: int) -> Job | None:
    """Return the job that asked a printer for its offset just now."""
    query = (
        select(Job)
        .where(Job.printer_id == printer_id, Job.kind == JobKind.READ_OFFSET, Job.state == JobState.DONE)
        .where(Job.ended_at > db_now(session) - FRESH)
        .order_by(Job.id.desc())
        .limit(1)
    )
    result = session.scalars(query).first()
    # what was sent since makes it old
    newer = select(Job.id).where(Job.printer_id == printer_id, Job.kind == JobKind.OFFSET)
    if result is None or session.scalar(
        newer.where(Job.id > result.id, Job.state != JobState.NOT_BEGUN).limit(1)
    ):
        return None
    return result


def add_reading(
    session: Session, job_id: int, place: int, x: float, y: float, height: float, after: float
) -> None:
    """Keep one touch (mm; seconds since the job began)."""
    session.execute(
        insert(JobReading).values(job_id=job_id, place=place, x=x, y=y, height=height, after=after)
    )


def add_lines(session: Session, job_id: int, lines: Iterable[tuple[datetime, str, str]]) -> None:
    """Keep lines of the conversation: when, which way, what."""
    rows = [{"job_id": job_id, "created_at": at, "way": way, "text": text[:500]} for at, way, text in lines]
    if rows:
        session.execute(insert(JobLine), rows)


def tell_progress(session: Session, job_id: int, owner: str, **values: Any) -> None:
    """Set ``message``, ``live``, ``done`` or ``total`` of a job of ours."""
    if "message" in values:
        values["message"] = values["message"][:500]
    session.execute(update(Job).where(Job.id == job_id, Job.owner == owner).values(**values))


def end_job(session: Session, job: Job, state: str, message: str) -> None:
    """End a job, with a line in the logbook when it did not simply succeed."""
    job.state, job.message, job.ended_at = state, message[:500], db_now(session)
    job.lease_until = None
    if state != JobState.DONE:
        visit = session.get(Visit, job.visit_id) if job.visit_id else None
        words = {
            JobState.STOPPED: "stopped",
            JobState.FAILED: "failed",
            JobState.INTERRUPTED: "interrupted",
            JobState.NOT_BEGUN: "not begun",
        }
        title = f"{JobKind(job.kind).title}: {words[JobState(state)]}"
        if job.total and job.done:
            title += f" after {job.done} of {job.total}"
        write_entry(session, "job", title, message, printer=job.printer, visit=visit)
    session.flush()


def request_stop(session: Session, job_id: int, how: str) -> tuple[Job, str | None]:
    """Ask for a job to be stopped; one that still waits ends at once.

    Returns
    -------
    job : Job
    unheard : str or None
        Said when nobody is there to hear it.

    Raises
    ------
    ConflictError
        When it is over already.
    """
    query = select(Job).where(Job.id == job_id).with_for_update().execution_options(populate_existing=True)
    job = session.scalars(query).first()
    if job is None:
        raise NotFoundError("There is no such job.")
    if job.state in OVER:
        raise ConflictError("This job is over already.")
    if job.state == JobState.WAITING:
        end_job(session, job, JobState.STOPPED, "Taken back before it began.")
    elif job.stop != NOW:
        job.stop = how
    if silent(job, db_now(session)):
        return job, f"Nobody hears this stop: the link process does not answer. {POWER}"
    return job, None


def chain_of(session: Session, job: Job) -> list[Job]:
    """Return a job and those it resumes, oldest first."""
    results = [job]
    while results[0].resumes is not None and len(results) < 100:
        results.insert(0, session.get_one(Job, results[0].resumes))
    return results


def readings_of(session: Session, jobs: Sequence[Job]) -> list[JobReading]:
    """Return the touches of jobs in order."""
    readings: list[JobReading] = []
    for job in jobs:
        query = select(JobReading).where(JobReading.job_id == job.id).order_by(JobReading.place)
        readings += session.scalars(query.limit(MAX_READINGS))
    return readings


def conversation(session: Session, job_id: int, after: int = 0, limit: int = 500) -> list[JobLine]:
    """Return lines of the raw conversation from an id on."""
    query = (
        select(JobLine).where(JobLine.job_id == job_id, JobLine.id > after).order_by(JobLine.id).limit(limit)
    )
    return list(session.scalars(query))


def pace_of(session: Session, printer_id: int) -> float | None:
    """Seconds a place of this printer's newest whole probing, travel included; None when there was none."""
    job = session.scalars(
        select(Job)
        .where(Job.printer_id == printer_id, Job.kind == JobKind.GRID, Job.state == JobState.DONE)
        .order_by(Job.id.desc())
        .limit(1)
    ).first()
    if job is None:
        return None
    times = [reading.after for reading in readings_of(session, [job])]
    return (times[-1] - times[0]) / (len(times) - 1) if len(times) >= 4 else None
