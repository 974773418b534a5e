"""What a job at the line read is kept as a survey or a test."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy.orm import Session

from finchwort.core.base.errors import CoreError
from finchwort.core.base.wording import micro
from finchwort.core.probing import take_out_drift
from finchwort.core.surveys import Survey
from finchwort.messages.errors import sentence
from finchwort.services.machine.kinds import JOBS, JobKind
from finchwort.services.probing.probe_tests import assess_test
from finchwort.services.surveys.after_tests import record_test
from finchwort.services.surveys.surveys import store_survey
from finchwort.store.errors import StoreError
from finchwort.store.machine.jobs import chain_of, readings_of
from finchwort.store.machine.kinds import OVER
from finchwort.store.models import Job, JobReading

CLEAN_SHIFT = 0.002
"""A zero that moved by less than this on resuming is taken as unmoved, mm (ours)."""


def keep_readings(session: Session, job: Job) -> str:
    """Store the readings of a job, and of those it resumes, as a survey or a test of its visit.

    Returns
    -------
    str
        What was stored, in a sentence.

    Raises
    ------
    StoreError, CoreError
    """
    chain = chain_of(session, job)
    readings = readings_of(session, chain)
    if job.visit_id is None:
        return f"{len(readings)} readings, kept with this job."
    try:
        with session.begin_nested():
            if job.kind == JobKind.GRID:
                walk = take_out_drift(*_touches(readings, len(chain) > 1))
                survey = Survey(walk.x, walk.y, walk.height)
                record = store_survey(
                    session,
                    job.visit_id,
                    survey,
                    client_key=job.client_key,
                    source="probe",
                    assumptions=_assumptions(chain),
                    bed_temperature=job.live.get("bed"),
                    walk=walk,
                )
                job.survey_id = record.id
                stored = f"{len(survey)} readings stored as a survey."
                return f"{stored} {walk.sentence}" if walk.sentence else stored
            data: dict[str, Any] = {"heights": [r.height for r in readings]}
            data |= {"times": [round(r.after, 2) for r in readings]}
            data |= {"x": readings[0].x, "y": readings[0].y} if readings else {}
            spots = list(dict.fromkeys((r.x, r.y) for r in readings))
            if job.kind == JobKind.SOAK and len(spots) > 1:
                data |= {
                    "spots": [{"x": x, "y": y} for x, y in spots],
                    "at": [spots.index((r.x, r.y)) for r in readings],
                }
            test = record_test(
                session, job.visit_id, job.kind, data, client_key=job.client_key, source="printer"
            )
            job.test_id = test.id
            return assess_test(job.kind, data).sentences[0]
    except (StoreError, CoreError) as error:
        return (
            f"{len(readings)} readings are kept with this job, but not stored in the visit: {sentence(error)}"
        )


def can_keep(session: Session, job: Job) -> bool:
    """Tell whether a job that is over has read what a survey or a test can be made of, and nothing was made yet."""
    least = JOBS[JobKind(job.kind)].keeps
    if job.visit_id is None or least is None or job.survey_id or job.test_id or job.state not in OVER:
        return False
    return len(readings_of(session, chain_of(session, job))) >= least


def _touches(readings: Sequence[JobReading], resumed: bool) -> tuple[list[float], ...]:
    """Touches as four lists: x, y, height (mm) and when (s); of a walk that was resumed the times say nothing."""
    x, y, z = [r.x for r in readings], [r.y for r in readings], [r.height for r in readings]
    return x, y, z, [0.0] * len(x) if resumed else [r.after for r in readings]


def _assumptions(chain: list[Job]) -> list[str]:
    sentences = ["Probed by the printer."]
    for job in chain[1:]:
        shift = job.live.get("shift")
        if shift is None:
            continue
        if abs(shift) > CLEAN_SHIFT:
            sentences.append(
                f"Resumed after a break: the zero was {micro(shift, signed=True)} off and that was taken out."
            )
        else:
            sentences.append("Resumed after a break: the zero had not moved.")
    return sentences
