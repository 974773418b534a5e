"""Surveys: stored once, never changed."""

from __future__ import annotations

import math
from collections import OrderedDict
from collections.abc import Sequence
from datetime import datetime
from threading import Lock
from typing import Any

import numpy as np
from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from finchwort.core.base.errors import CoreError
from finchwort.core.base.wording import millimetres
from finchwort.core.printers import Bed
from finchwort.core.probing import Feel, FeltBed, Walk
from finchwort.core.surveys import (
    BedFit,
    Flatness,
    Shape,
    Survey,
    Tilt,
    Verdict,
    assess_flatness,
    decompose,
    fit_bed,
    judge,
    judge_open,
    judge_tilt,
)
from finchwort.messages.errors import sentence
from finchwort.messages.surveys import sentence_of, word_of
from finchwort.services.probing.probe_tests import noise_in
from finchwort.store.errors import ConflictError, NotFoundError
from finchwort.store.models import Adjustment, Reading, SurveyRecord, Turning, Visit
from finchwort.store.printers.printers import bed_of
from finchwort.store.records import sent_before, utcnow
from finchwort.store.surveys.surveys import OPEN, Taken, get_survey, load_felt, load_readings, load_taken
from finchwort.store.visits.logbook import set_entries_deleted, write_entry
from finchwort.store.visits.visits import get_visit

SOURCES = ("typed", "pasted", "file", "paper", "bench", "lowered", "feeler", "dial", "calipers", "probe")
MAX_FITS = 256
"""So many beds behind readings a process keeps ready."""


def assess(
    survey: Survey,
    bed: Bed,
    first_layer: float,
    has_screws: bool,
    felt: FeltBed | None = None,
    tilt: Tilt | None = None,
    compensation: str = "mesh",
) -> tuple[Flatness, Shape, Verdict]:
    """Work out figures, shape and verdict of readings that count; what paper left open is never called level.

    ``tilt`` is the judgement of the whole bed's tilt by the same readings; without it they are judged by themselves.
    """
    flatness = assess_flatness(survey)
    shape = decompose(survey, bed)
    if felt is not None and felt.open.any():
        return flatness, shape, judge_open(felt.at_least, first_layer, has_screws)
    return flatness, shape, judge(survey, flatness, shape, first_layer, has_screws, tilt, compensation)


def store_survey(
    session: Session,
    visit_id: int,
    survey: Survey,
    *,
    client_key: str,
    source: str,
    original: str | None = None,
    assumptions: Sequence[str] = (),
    noise: float | None = None,
    bed_temperature: float | None = None,
    at: datetime | None = None,
    felt: FeltBed | None = None,
    feels: Sequence[Feel] = (),
    walk: Walk | None = None,
) -> SurveyRecord:
    """Store the readings of a visit, with a line in the logbook.

    A reading that does not belong to this bed is set aside: it is kept and shown, and counts for nothing until a person
    puts it back.  ``walk`` is the walk that gave the readings, when their times are known.

    ``noise`` is what the way of reading itself is trusted to (standard deviation, mm), when it says so;
    ``bed_temperature`` (°C) is that of the setup bar when not given.  By paper ``felt`` is what the feels say and
    ``feels`` are these themselves, in the order of the readings.
    The same ``client_key`` with the same readings (a request sent again after
    the line dropped) stores nothing and returns what is there.

    Raises
    ------
    NotFoundError, ConflictError
        When the visit is gone or closed, or the key stands for something else.
    """
    visit = get_visit(session, visit_id, lock=True)
    known = sent_before(
        session,
        SurveyRecord,
        client_key,
        "Other readings were stored with this key, or these were deleted since.",
        lambda there: _same_readings(load_taken(session, there.id).survey, survey),
        visit_id=visit_id,
    )
    if known is not None:
        return known
    if visit.ended_at is not None:
        raise ConflictError("This visit is closed. Open it again, or begin a new one.")
    printer = visit.printer
    bed = bed_of(printer)
    left_open_by_paper = felt is not None and bool(felt.open.any())
    trusted = noise_in(session, visit, noise)
    seconds = walk.seconds if walk is not None and walk.drift is not None else None
    drift_sd = walk.drift_sd if walk is not None else None
    fit = fit_bed(
        survey,
        bed,
        trusted.sd,
        trusted.dof,
        settle=not left_open_by_paper,
        seconds=None if seconds is None else seconds.tolist(),
        drift_sd=drift_sd,
    )
    aside = np.zeros(len(survey), dtype=bool)
    aside[list(fit.aside)] = True
    counting = Taken(survey, aside, ~aside, None).counting()
    tilt = None if left_open_by_paper else judge_tilt(fit, visit.first_layer)
    flatness, shape, verdict = assess(
        counting, bed, visit.first_layer, bool(printer.screws), felt, tilt, printer.compensation
    )
    # of a bed that is known on one side only no more is said than it is at the least
    left_open = verdict.level == OPEN
    spread = felt.at_least if felt is not None and left_open else counting.spread
    text = list(assumptions)
    if walk is not None and walk.sentence:
        text.append(walk.sentence)
    if aside.any():
        text.append(_say_aside(int(aside.sum())))
    record = SurveyRecord(
        visit=visit,
        taken_at=at or utcnow(),
        client_key=client_key,
        source=source,
        original=original,
        assumptions=text,
        first_layer=visit.first_layer,
        count=len(survey),
        spread=spread,
        peak_to_valley=flatness.peak_to_valley,
        rms=flatness.rms,
        tilt_x=shape.tilt_x,
        tilt_y=shape.tilt_y,
        shape=shape.name,
        verdict=verdict.level,
        noise=noise,
        bed_temperature=visit.bed_temperature if bed_temperature is None else bed_temperature,
        surface=visit.surface,
        drift=walk.drift if walk is not None else None,
        drift_sd=drift_sd,
        **_tilt_noise(fit),
    )
    session.add(record)
    session.flush()
    rows = zip(survey.x.tolist(), survey.y.tolist(), survey.height.tolist(), strict=True)
    session.execute(
        insert(Reading),
        [
            {
                "survey_id": record.id,
                "place": i,
                "x": x,
                "y": y,
                "height": h,
                "aside": True if aside[i] else None,
                "second": None if seconds is None else float(seconds[i]),
            }
            | _felt_at(felt, feels, i)
            for i, (x, y, h) in enumerate(rows)
        ],
    )
    write_entry(
        session,
        "survey",
        f"{len(survey)} readings: {'at least ' if left_open else ''}{millimetres(spread)} from highest to lowest",
        sentence_of(verdict)
        if left_open
        else f"Tilt {millimetres(shape.tilt_x, signed=True)} left to right, "
        f"{millimetres(shape.tilt_y, signed=True)} front to back; without tilt "
        f"{millimetres(flatness.peak_to_valley)}. {word_of(verdict)}.",
        at=at,
        printer=printer,
        visit=visit,
        subject=record,
    )
    return record


def _say_aside(count: int) -> str:
    return (
        f"{count} reading{'s do' if count > 1 else ' does'} not belong to this bed and {'are' if count > 1 else 'is'} set aside. "
        "Probe there again, or put it back."
    )


def _tilt_noise(fit: BedFit) -> dict[str, float]:
    """Standard deviation of the tilt along X and Y by the noise of the readings alone, mm over the bed."""
    size = (fit.bed.width, fit.bed.depth)
    return {f"noise_{axis}": float(np.sqrt(fit.noise_plane[i, i])) * size[i] for i, axis in enumerate("xy")}


def _felt_at(felt: FeltBed | None, feels: Sequence[Feel], i: int) -> dict[str, Any]:
    low, high = (None, None) if felt is None else (float(felt.low[i]), float(felt.high[i]))
    feel = feels[i] if feels else None
    return {
        "feel": feel.feel if feel else None,
        "at_z": feel.z if feel else None,
        "low": low if low is not None and math.isfinite(low) else None,
        "high": high if high is not None and math.isfinite(high) else None,
    }


def _same_readings(survey: Survey, other: Survey) -> bool:
    pairs = ((survey.x, other.x), (survey.y, other.y), (survey.height, other.height))
    return all(np.array_equal(*pair) for pair in pairs)


_fits: OrderedDict[tuple[Any, ...], BedFit] = OrderedDict()
_fits_lock = Lock()


def fit_of(session: Session, record: SurveyRecord, taken: Taken | None = None) -> BedFit:
    """Return what the counting readings of a stored survey say about the whole bed."""
    taken = taken or load_taken(session, record.id)
    trusted = noise_in(session, record.visit, record.noise)
    bed = bed_of(record.visit.printer)
    state = (
        record.client_key,
        trusted.sd,
        trusted.dof,
        bed,
        taken.aside.tobytes(),
        taken.kept.tobytes(),
        record.drift_sd,
    )
    with _fits_lock:
        if state in _fits:
            _fits.move_to_end(state)
            return _fits[state]
    keep = ~taken.aside
    fit = fit_bed(
        taken.counting(),
        bed,
        trusted.sd,
        trusted.dof,
        kept=np.flatnonzero(taken.kept[keep]).tolist(),
        settle=False,
        seconds=None if taken.seconds is None else taken.seconds[keep].tolist(),
        drift_sd=record.drift_sd,
    )
    with _fits_lock:
        _fits[state] = fit
        while len(_fits) > MAX_FITS:
            _fits.popitem(last=False)
    return fit


def judged(session: Session, record: SurveyRecord) -> tuple[Survey, Flatness, Shape, Verdict, Tilt | None]:
    """Judge a stored survey as everything stands now: counting readings, figures, shape, verdict, and its tilt."""
    printer = record.visit.printer
    bed = bed_of(printer)
    taken = load_taken(session, record.id)
    felt = load_felt(session, record.id, bed)
    left_open = felt is not None and bool(felt.open.any())
    tilt = None if left_open else judge_tilt(fit_of(session, record, taken), record.visit.first_layer)
    survey = taken.counting()
    assessment = assess(
        survey, bed, record.visit.first_layer, bool(printer.screws), felt, tilt, printer.compensation
    )
    return survey, *assessment, tilt


def rejudge(session: Session, record: SurveyRecord) -> None:
    """Write down anew what a survey says, after a reading was put back, the probe was tested or the first layer changed."""
    if record.verdict == OPEN:
        return
    survey, flatness, shape, verdict, _ = judged(session, record)
    record.spread, record.peak_to_valley, record.rms = (
        survey.spread,
        flatness.peak_to_valley,
        flatness.rms,
    )
    record.tilt_x, record.tilt_y, record.shape = shape.tilt_x, shape.tilt_y, shape.name
    record.verdict, record.first_layer = verdict.level, record.visit.first_layer
    for name, value in _tilt_noise(fit_of(session, record)).items():
        setattr(record, name, value)
    session.flush()


def rejudge_visit(session: Session, visit: Visit) -> None:
    """Judge all surveys of a visit anew."""
    query = select(SurveyRecord).where(SurveyRecord.visit_id == visit.id, SurveyRecord.deleted_at.is_(None))
    for record in session.scalars(query):
        rejudge(session, record)


def set_reading_aside(session: Session, survey_id: int, place: int, aside: bool) -> SurveyRecord:
    """Set a reading aside, or put it back to count; everything that stands on the survey follows.

    Raises
    ------
    NotFoundError, ConflictError
    """
    record = get_survey(session, survey_id, lock=True)
    visit = get_visit(session, record.visit_id, lock=True)
    if visit.ended_at is not None:
        raise ConflictError("This visit is closed. Open it again, or begin a new one.")
    if record.verdict == OPEN:
        raise ConflictError("Paper said only which way at some places, so no reading can be told to be odd.")
    query = select(Turning.id).where(Turning.survey_id == record.id, Turning.deleted_at.is_(None)).limit(1)
    if session.scalars(query).first() is not None:
        raise ConflictError("Screws were turned by this survey as it was. Measure again instead.")
    reading = session.get(Reading, (survey_id, place), with_for_update=True)
    if reading is None:
        raise NotFoundError("There is no such reading.")
    before = reading.aside
    reading.aside = aside
    session.flush()
    try:
        load_readings(session, survey_id)
    except CoreError as error:
        reading.aside = before
        session.flush()
        raise ConflictError(f"It has to stay: {sentence(error)}") from None
    rejudge(session, record)
    where = f"x {reading.x:g}, y {reading.y:g}"
    write_entry(
        session,
        "survey",
        f"Reading at {where} {'set aside' if aside else 'put back'}",
        f"{millimetres(reading.height, signed=True)} there. The bed is judged {'without' if aside else 'with'} it: "
        f"{millimetres(record.spread)} from highest to lowest.",
        printer=visit.printer,
        visit=visit,
    )
    return record


def set_survey_deleted(session: Session, survey_id: int, deleted: bool) -> SurveyRecord:
    """Delete a survey (its readings are kept), or bring it back."""
    record = get_survey(session, survey_id, deleted=not deleted, lock=True)
    # nobody records turns by it meanwhile
    session.execute(select(Visit.id).where(Visit.id == record.visit_id).with_for_update())
    turnings = session.scalars(
        select(Turning).where(Turning.survey_id == record.id, Turning.deleted_at.is_(None))
    ).all()
    if deleted and turnings:
        raise ConflictError("Screws were turned by this survey. Take back the turning first.")
    record.deleted_at = utcnow() if deleted else None
    set_entries_deleted(session, record, record.deleted_at)
    # what was done to the bed by it is not shown without it
    for adjustment in session.scalars(select(Adjustment).where(Adjustment.survey_id == record.id)):
        set_entries_deleted(session, adjustment, record.deleted_at or adjustment.deleted_at)
    return record
