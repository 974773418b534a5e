"""Jobs at the machine: asked for here, done by a link process."""

from __future__ import annotations

from datetime import datetime, timedelta

from apiflask import APIBlueprint
from flask import current_app, g

from finchwort.core.compensation import seconds_left
from finchwort.services.access import devices
from finchwort.services.machine import requests
from finchwort.services.machine.jobs import can_keep, keep_readings
from finchwort.services.machine.kinds import JOBS, Asked
from finchwort.store.errors import ConflictError
from finchwort.store.machine import heaters, lines
from finchwort.store.machine import jobs as stored_jobs
from finchwort.store.machine.kinds import BROKEN, JobKind, JobState
from finchwort.store.models import Job, JobReading, Printer
from finchwort.store.printers.printers import get_printer
from finchwort.web import schemas
from finchwort.web.access import roles
from finchwort.web.access.guard import address
from finchwort.web.database import session

blueprint = APIBlueprint("machine", __name__, url_prefix="/api", tag="machine")

PATIENCE = timedelta(seconds=6)
"""A link process takes a job sooner than this."""
OVERDUE = timedelta(seconds=30)
"""Heaters whose time is over go off sooner than this, where a link is alive."""


def _asked(printer: Printer, wish: schemas.JobWish) -> tuple[Asked, Job | None]:
    """Check what is wanted and put it in words."""
    if isinstance(wish, schemas.GridWish) and wish.resume is not None:
        return requests.ask_resume(session(), printer, wish.resume)
    given = wish.model_dump(exclude=schemas.NOT_OF_THE_WISH, exclude_none=True)
    return requests.ask_with_care(session(), printer, wish.kind, given), None


def _demand(asked: Asked) -> None:
    """Refuse a device that may not heat or move a machine; what only asks or switches heaters off is not meant."""
    if asked.heats or asked.moves:
        roles.demand(roles.COMMAND)


@blueprint.post("/printers/<int:printer_id>/jobs/ask")
@blueprint.input(schemas.JobWanted)
@blueprint.output(schemas.AskedOut)
def ask(printer_id: int, json_data: schemas.JobWanted) -> schemas.AskedOut:
    """Say what a job would do, before anything moves or heats."""
    asked, _ = _asked(get_printer(session(), printer_id), json_data.job)
    _demand(asked)
    return schemas.AskedOut.of(asked, cautions=list(asked.cautions))


@blueprint.post("/printers/<int:printer_id>/jobs")
@blueprint.input(schemas.JobIn)
@blueprint.output(schemas.JobLineOut, status_code=201)
def add_job(printer_id: int, json_data: schemas.JobIn) -> schemas.JobLineOut:
    """Ask for a job whose words the person has read: its token says so."""
    printer, wish = get_printer(session(), printer_id), json_data.job
    known = stored_jobs.job_by_key(session(), json_data.client_key)
    if known is not None and known.printer_id == printer.id and known.kind == wish.kind:
        return _line_out(known)  # sent again after a lost answer
    asked, resumed = _asked(printer, wish)
    _demand(asked)
    if asked.token != json_data.token:
        raise ConflictError("What would happen has changed since you read it. Read it again.")
    if asked.confirm is not None and not json_data.confirmed:
        raise ConflictError(f"Nothing begins before somebody says: {asked.confirm}")
    job = stored_jobs.queue_job(
        session(),
        printer,
        asked.kind,
        asked.params,
        client_key=json_data.client_key,
        visit_id=resumed.visit_id if resumed else wish.visit,
        total=asked.total,
        resumes=resumed,
    )
    devices.write_audit(session(), devices.COMMAND, f"{printer.name}: {asked.sentence}", address())
    return _line_out(job)


def _now() -> datetime:
    """The database's time at this request."""
    if "now" not in g:
        g.now = lines.db_now(session())
    return g.now


@blueprint.before_request
def settle() -> None:
    """End what ran out, whenever it is looked at: it counts also when this request only reads."""
    if stored_jobs.unsettled(session(), _now()):
        session().rollback()
        with current_app.extensions["sessions"].begin() as own:
            stored_jobs.settle(own)


@blueprint.get("/jobs")
@blueprint.output(schemas.WorkOut)
def get_working() -> schemas.WorkOut:
    """Give the jobs that wait or run, the heaters that are on, and the machines of which nobody knows what they do."""
    now = _now()
    return schemas.WorkOut(
        jobs=[_line_out(job) for job in stored_jobs.working_jobs(session())],
        unsure=[_line_out(job) for job in stored_jobs.unsure_jobs(session())],
        hot=[
            schemas.HotOut(
                printer_id=item.printer.id,
                printer=item.printer.name,
                until=item.until,
                overdue=item.until is not None and item.until + OVERDUE < now,
                doubt=item.doubt,
            )
            for item in heaters.may_be_hot(session(), now)
        ],
    )


@blueprint.post("/jobs/<int:job_id>/seen")
@blueprint.output(schemas.Done)
def see_job(job_id: int) -> schemas.Done:
    """Write down that a person looked at a machine after a job broke off: it stands still."""
    return schemas.Done(id=stored_jobs.set_seen(session(), job_id).id)


@blueprint.post("/printers/<int:printer_id>/cold")
@blueprint.output(schemas.Done)
def set_cold(printer_id: int) -> schemas.Done:
    """Write down that a person switched a printer off by hand: its heaters are off."""
    printer = get_printer(session(), printer_id)
    heaters.set_cold(session(), printer)
    return schemas.Done(id=printer.id)


@blueprint.get("/printers/<int:printer_id>/jobs")
@blueprint.output(schemas.Jobs)
def get_jobs(printer_id: int) -> schemas.Jobs:
    """Give the newest jobs of a printer."""
    get_printer(session(), printer_id)
    return schemas.Jobs(jobs=[_line_out(job) for job in stored_jobs.list_jobs(session(), printer_id)])


@blueprint.get("/jobs/<int:job_id>")
@blueprint.output(schemas.JobOut)
def get_job(job_id: int) -> schemas.JobOut:
    """Give a job with its touches."""
    job = stored_jobs.get_job(session(), job_id)
    chain = stored_jobs.chain_of(session(), job)
    planned = chain[0].params.get("points") or []
    return schemas.JobOut(
        **_line_out(job).model_dump(),
        earlier=[_touch_out(r) for r in stored_jobs.readings_of(session(), chain[:-1])],
        touches=[_touch_out(r) for r in stored_jobs.readings_of(session(), [job])],
        points=[schemas.XY(x=x, y=y) for x, y in planned],
    )


@blueprint.post("/jobs/<int:job_id>/stop")
@blueprint.input(schemas.StopIn)
@blueprint.output(schemas.StopOut)
def stop_job(job_id: int, json_data: schemas.StopIn) -> schemas.StopOut:
    """Stop a job: after the reading under way, or the whole machine at once; say so when nobody hears it."""
    job, unheard = stored_jobs.request_stop(session(), job_id, json_data.how)
    devices.write_audit(session(), devices.COMMAND, f"{job.printer.name}: stop ({json_data.how}).", address())
    return schemas.StopOut(id=job.id, heard=unheard is None, message=unheard)


@blueprint.post("/jobs/<int:job_id>/keep")
@blueprint.output(schemas.KeptOut)
def keep_job(job_id: int) -> schemas.KeptOut:
    """Store what a job that broke off has read."""
    job = stored_jobs.get_job(session(), job_id)
    if not can_keep(session(), job):
        raise ConflictError("There is nothing here that could be stored.")
    message = keep_readings(session(), job)
    return schemas.KeptOut(message=message, survey_id=job.survey_id, test_id=job.test_id)


@blueprint.get("/jobs/<int:job_id>/conversation")
@blueprint.input(schemas.SaidQuery, location="query")
@blueprint.output(schemas.Conversation)
def get_conversation(job_id: int, query_data: schemas.SaidQuery) -> schemas.Conversation:
    """Give the raw conversation with the machine."""
    stored_jobs.get_job(session(), job_id)
    lines = stored_jobs.conversation(session(), job_id, query_data.after)
    return schemas.Conversation(lines=[schemas.SaidOut.of(line, at=line.created_at) for line in lines])


def _touch_out(reading: JobReading) -> schemas.TouchOut:
    return schemas.TouchOut.of(reading)


def _message(job: Job) -> str:
    """Give a job's message; one that waits long has nobody who takes it."""
    if stored_jobs.silent(job, _now()):
        return f"The link process that does this does not answer, and hears no stop. {stored_jobs.POWER}"
    if job.state == JobState.WAITING and _now() - job.created_at > PATIENCE:
        return (
            "No link process has taken this yet. Does “finchwort link” run on the machine the cable goes to?"
        )
    return job.message


def _line_out(job: Job) -> schemas.JobLineOut:
    left = None
    if job.state == JobState.RUNNING and job.total:
        left = seconds_left([r.after for r in stored_jobs.readings_of(session(), [job])], job.total)
    live = {name: job.live.get(name) for name in schemas.LiveOut.model_fields}
    return schemas.JobLineOut.of(
        job,
        printer=job.printer.name,
        name=JobKind(job.kind).title,
        silent=stored_jobs.silent(job, _now()),
        stopping=job.stop if job.state == JobState.RUNNING else None,
        message=_message(job),
        seconds_left=left,
        can_resume=job.kind == JobKind.GRID and job.state in BROKEN and job.survey_id is None,
        has_steps=JOBS[JobKind(job.kind)].steps,
        can_keep=can_keep(session(), job),
        live=schemas.LiveOut(**live),
    )
