"""Readings: understood, stored, shown as a map."""

from __future__ import annotations

import base64
import binascii
import math
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from threading import Lock
from typing import Any

import numpy as np
from apiflask import APIBlueprint
from flask import Response

from finchwort.core.base.errors import ChoiceError, CollinearError, Problem, TooFewReadingsError
from finchwort.core.printers import Bed, clear_of, places_doubt, suggest_points, suggest_screw_points
from finchwort.core.probing import (
    FEEL_MEANS,
    FEEL_SHORT,
    FEEL_WORDS,
    FEELS,
    ONE_SIDED,
    PAPER,
    STEPS,
    Feel,
    FeltBed,
    HandReading,
    compare_surveys,
    hand_survey,
    next_place,
    unknown_cells,
)
from finchwort.core.surveys import (
    BedFit,
    Relief,
    Survey,
    assess_flatness,
    averaged,
    fit_bed,
    judge_tilt,
    make_relief,
    measured_outline,
)
from finchwort.formats import Hint, read_survey, survey_csv, survey_json, survey_sdf
from finchwort.messages.errors import sentence
from finchwort.messages.probing import movement_sentence
from finchwort.services.probing.probe_tests import Noise, noise_in
from finchwort.services.surveys import surveys as service
from finchwort.store.errors import NotFoundError
from finchwort.store.models import Printer
from finchwort.store.printers.printers import bed_of, get_printer
from finchwort.store.surveys import surveys as store
from finchwort.store.visits.visits import get_visit
from finchwort.web import height_map as drawn
from finchwort.web import schemas, serializers
from finchwort.web.database import session
from finchwort.web.deletion import deletable

blueprint = APIBlueprint("surveys", __name__, url_prefix="/api", tag="surveys")

MAX_MAPS = 64
"""So many maps a process keeps ready; a survey never changes, and what it stands on carries a version."""
_maps: dict[tuple[Any, ...], str] = {}
_maps_lock = Lock()


@dataclass(frozen=True)
class _Understood:
    survey: Survey
    layout: str
    values: str
    unit: str
    assumptions: tuple[str, ...] = ()
    columns: int | None = None
    rows: int | None = None
    bounds: tuple[float, float, float, float] | None = None
    problems: tuple[Problem, ...] = ()
    unread: int = 0
    serpentine: bool = False
    noise: float | None = None
    felt: FeltBed | None = None
    feels: tuple[Feel, ...] = ()

    def doubt(self, printer: Printer) -> str | None:
        """Say what is odd about the places measured."""
        return places_doubt(bed_of(printer), self.survey.x.tolist(), self.survey.y.tolist())


def _understand(data: schemas.ReadingsIn, printer: Printer) -> _Understood:
    ways = (data.points, data.text, data.file, data.by_hand)
    if sum(way is not None for way in ways) != 1:
        raise ChoiceError("surveys.send_readings_points_text")
    if data.by_hand is not None:
        return _by_hand(data.by_hand, bed_of(printer))
    if data.text is not None or data.file is not None:
        hint = Hint(
            layout=data.layout,
            values=data.values,
            unit=data.unit,
            flip_x=data.flip_x,
            flip_y=data.flip_y,
            serpentine=data.serpentine,
            columns=data.columns,
            bounds=tuple(data.bounds.model_dump().values()) if data.bounds else None,
            bed=bed_of(printer),
        )
        result = read_survey(_decoded(data.file) if data.text is None else data.text, hint)
        return _Understood(
            result.survey,
            result.layout,
            result.values,
            result.unit,
            result.assumptions,
            result.columns,
            result.rows,
            result.bounds,
            result.problems,
            result.unread,
            result.serpentine,
        )
    values = data.values or "height"
    unit = data.unit or "mm"
    scale = (-1.0 if values == "gap" else 1.0) / (1000 if unit == "um" else 1)
    points = data.points or []
    survey, remark = averaged(
        [p.x for p in points], [p.y for p in points], [p.value * scale + 0.0 for p in points]
    )
    return _Understood(survey, "points", values, unit, (remark,) if remark else ())


def _by_hand(given: schemas.HandIn, bed: Bed) -> _Understood:
    readings = [
        HandReading(p.x, p.y, p.value, p.feel, p.stop, p.z, given.thickness, given.step) for p in given.points
    ]
    result = hand_survey(readings, given.way, given.plus_is_high, bed)
    return _Understood(
        result.survey,
        "points",
        "height",
        "mm",
        result.remarks,
        noise=result.noise,
        felt=result.felt,
        feels=result.feels,
    )


def _decoded(file: str | None) -> bytes:
    try:
        return base64.b64decode(file or "", validate=True)
    except (binascii.Error, ValueError):
        raise ChoiceError("surveys.file_arrived_damaged_choose") from None


@blueprint.get("/feels")
@blueprint.output(schemas.Feels)
def get_feels() -> schemas.Feels:
    """Give how a strip may feel under the nozzle, from far to close."""
    feels = [
        schemas.FeelOut(
            key=key,
            words=FEEL_WORDS[key],
            short=FEEL_SHORT[key],
            means=FEEL_MEANS[key],
            only_bound=key in ONE_SIDED,
        )
        for key in FEELS
    ]
    return schemas.Feels(feels=feels, paper=PAPER, steps=list(STEPS))


@blueprint.post("/printers/<int:printer_id>/preview")
@blueprint.input(schemas.PreviewIn)
@blueprint.output(schemas.PreviewOut)
def preview(printer_id: int, json_data: schemas.PreviewIn) -> schemas.PreviewOut:
    """Show what would be stored, without storing it.

    Points that are still being typed may be too few or on one line: that is not an error, but a wait.
    """
    printer = get_printer(session(), printer_id)
    try:
        result = _understand(json_data, printer)
    except (TooFewReadingsError, CollinearError) as error:
        if json_data.points is None and json_data.by_hand is None:
            raise
        return schemas.PreviewOut(waiting=schemas.Waiting(reason=sentence(error)))
    return schemas.PreviewOut(preview=_preview(json_data, printer, result))


def _preview(json_data: schemas.PreviewIn, printer: Printer, understood: _Understood) -> schemas.Preview:
    bed, survey = bed_of(printer), understood.survey
    first_layer = json_data.first_layer or printer.first_layer
    left_open = understood.felt is not None and bool(understood.felt.open.any())
    noise = _trusted(json_data, printer, understood.noise)
    fit = fit_bed(survey, bed, noise.sd, noise.dof, settle=not left_open)
    aside = np.zeros(len(survey), dtype=bool)
    aside[list(fit.aside)] = True
    taken = store.Taken(survey, aside, np.zeros_like(aside), None)
    counting = taken.counting()
    tilt = None if left_open else judge_tilt(fit, first_layer)
    parts = service.assess(
        counting, bed, first_layer, bool(printer.screws), understood.felt, tilt, printer.compensation
    )
    relief = make_relief(counting, bed, parts[0].plane)
    by_points = json_data.points is not None or json_data.by_hand is not None
    return schemas.Preview.of(
        understood,
        bounds=serializers.rectangle(understood.bounds) if understood.bounds else None,
        assumptions=list(understood.assumptions),
        lines=[schemas.LineProblem.of(p) for p in understood.problems],
        doubt=understood.doubt(printer) or relief.doubt,
        bed=serializers.bed_out(bed),
        screws=serializers.screws_out(printer),
        x=drawn.rounded(survey.x),
        y=drawn.rounded(survey.y),
        height=drawn.rounded(survey.height),
        outline=serializers.places(measured_outline(survey)),
        relief=drawn.relief_out(relief, survey.height),
        unknown=_unknown(understood.felt, bed, relief),
        aside=serializers.aside_out(taken, fit),
        next_place=_next_place(counting, fit, first_layer, printer) if by_points and not left_open else None,
        figures=serializers.figures_out(counting, *parts, understood.felt, fit, tilt),
    )


def _trusted(json_data: schemas.PreviewIn, printer: Printer, own: float | None) -> Noise:
    """What these readings are trusted to: by their visit, or by the printer's set-up."""
    if json_data.visit is not None:
        visit = get_visit(session(), json_data.visit)
        if visit.printer_id == printer.id:
            return noise_in(session(), visit, own)
    return Noise(own if own is not None else printer.repeatability, math.inf, "")


def _next_place(survey: Survey, fit: BedFit, first_layer: float, printer: Printer) -> str:
    """Where to touch next, of the places that are usual."""
    bed = bed_of(printer)
    usual = [place for place in clear_of(bed, suggest_points(bed, 3, 3)) if place]
    places = [*usual, *suggest_screw_points(bed, [(s.x, s.y) for s in printer.screws])]
    return next_place(survey, fit, first_layer, places).sentence


@blueprint.post("/visits/<int:visit_id>/surveys")
@blueprint.input(schemas.SurveyIn)
@blueprint.output(schemas.SurveyOut, status_code=201)
def add_survey(visit_id: int, json_data: schemas.SurveyIn) -> schemas.SurveyOut:
    """Store the readings of a visit."""
    visit = get_visit(session(), visit_id)
    result = _understand(json_data, visit.printer)
    doubt = result.doubt(visit.printer)
    record = service.store_survey(
        session(),
        visit_id,
        result.survey,
        client_key=json_data.client_key,
        source=json_data.by_hand.way if json_data.by_hand else json_data.source,
        original=json_data.text,
        noise=result.noise,
        felt=result.felt,
        feels=result.feels,
        assumptions=(*result.assumptions, doubt) if doubt else result.assumptions,
    )
    return serializers.survey_out(record)


@blueprint.get("/surveys/<int:survey_id>/map")
@blueprint.output(schemas.Map)
def get_map(survey_id: int) -> Response:
    """Give the map of a survey: as measured, and with the tilt taken out."""
    ground = store.load_ground(session(), survey_id)
    text = _maps.get(ground.state)
    if text is None:
        text = _draw(survey_id, ground)
        with _maps_lock:
            _maps[ground.state] = text
            while len(_maps) > MAX_MAPS:
                del _maps[next(iter(_maps))]
    return Response(text, mimetype="application/json")


def _draw(survey_id: int, ground: store.Ground) -> str:
    """Make the map of a survey as JSON."""
    bed = ground.bed
    record = store.get_survey(session(), survey_id)
    taken = store.load_taken(session(), survey_id)
    felt = store.load_felt(session(), survey_id, bed)
    fit = service.fit_of(session(), record, taken)
    survey, flatness, shape, verdict, tilt = service.judged(session(), record)
    plane = flatness.plane
    relief = make_relief(survey, bed, plane)
    level = survey.height - plane.at(survey.x, survey.y)
    shown = schemas.Map.model_construct(
        survey_id=survey_id,
        bed=serializers.bed_out(bed),
        screws=serializers.screws_out(ground),
        x=survey.x.tolist(),
        y=survey.y.tolist(),
        doubt=relief.doubt,
        measured=drawn.rounded(survey.height),
        level=drawn.rounded(level),
        outline=serializers.places(measured_outline(survey)),
        measured_relief=drawn.relief_out(relief, survey.height),
        level_relief=drawn.relief_out(relief.plus(-plane.a, -plane.b, -plane.c), level),
        unknown=_unknown(felt, bed, relief),
        aside=serializers.aside_out(taken, fit),
        figures=serializers.figures_out(survey, flatness, shape, verdict, felt, fit, tilt),
    )
    # written by pydantic itself: twice as fast as by way of plain objects
    return shown.model_dump_json()


def _unknown(felt: FeltBed | None, bed: Bed, relief: Relief) -> list[list[int]]:
    """Runs of grid points that are not known: row, first column, one past the last."""
    if felt is None or not felt.open.any():
        return []
    results = []
    for row, cells in enumerate(unknown_cells(bed, felt.belief, relief.xs, relief.ys)):
        edges = np.flatnonzero(np.diff(np.concatenate([[0], cells.astype(int), [0]])))
        results += [[row, int(a), int(b)] for a, b in zip(edges[::2], edges[1::2], strict=True)]
    return results


@blueprint.put("/surveys/<int:survey_id>/readings/<int:place>")
@blueprint.input(schemas.AsideIn)
@blueprint.output(schemas.SurveyOut)
def set_aside(survey_id: int, place: int, json_data: schemas.AsideIn) -> schemas.SurveyOut:
    """Set a reading aside, or put it back to count."""
    return serializers.survey_out(service.set_reading_aside(session(), survey_id, place, json_data.aside))


@blueprint.get("/surveys/<int:survey_id>/minimum-zone")
@blueprint.output(schemas.MinimumZone)
def get_minimum_zone(survey_id: int) -> schemas.MinimumZone:
    """Give the flatness by the minimum zone, which takes longer than the rest."""
    store.get_survey(session(), survey_id)
    flatness = assess_flatness(store.load_readings(session(), survey_id), "minimum_zone")
    return schemas.MinimumZone(peak_to_valley=flatness.peak_to_valley)


@blueprint.get("/surveys/<int:survey_id>/movement")
@blueprint.input(schemas.MovementQuery, location="query")
@blueprint.output(schemas.MovementOut)
def get_movement(survey_id: int, query_data: schemas.MovementQuery) -> schemas.MovementOut:
    """Say where the bed moved since an earlier survey, cold against hot for instance."""
    after, before = store.get_survey(session(), survey_id), store.get_survey(session(), query_data.before)
    if after.visit.printer_id != before.visit.printer_id:
        raise ChoiceError("surveys.these_surveys_two_printers")
    bed = bed_of(after.visit.printer)
    result = compare_surveys(
        store.load_readings(session(), before.id), store.load_readings(session(), after.id), bed
    )
    moved = result.survey
    relief = make_relief(moved.with_heights(moved.height - result.mean), bed)
    return schemas.MovementOut(
        before_id=before.id,
        after_id=after.id,
        bed=serializers.bed_out(bed),
        x=drawn.rounded(moved.x),
        y=drawn.rounded(moved.y),
        moved=drawn.rounded(moved.height - result.mean),
        outline=serializers.places(measured_outline(moved)),
        relief=drawn.relief_out(relief, moved.height - result.mean),
        mean=result.mean,
        spread=moved.spread,
        sentence=movement_sentence(result),
    )


FILES: dict[str, tuple[str, str, Callable[[Survey, datetime], str | bytes]]] = {
    "csv": ("text/csv", "csv", lambda survey, _at: survey_csv(survey)),
    "json": ("application/json", "json", lambda survey, _at: survey_json(survey)),
    "sdf": ("text/plain", "sdf", lambda survey, at: survey_sdf(survey, at=at)),
    "bsdf": ("application/octet-stream", "sdf", lambda survey, at: survey_sdf(survey, binary=True, at=at)),
}
"""Ways in which readings can be had: type, ending, writer."""


@blueprint.get("/surveys/<int:survey_id>/readings.<form>")
@blueprint.doc(hide=True)
def get_file(survey_id: int, form: str) -> Response:
    """Give the readings as a file."""
    if form not in FILES:
        raise NotFoundError("Readings come as csv, json, sdf (ASCII) or bsdf (binary).")
    record = store.get_survey(session(), survey_id)
    kind, ending, write = FILES[form]
    data = write(store.load_readings(session(), survey_id), record.taken_at)
    name = f"survey-{record.id}-{record.taken_at:%Y-%m-%d}.{ending}"
    return Response(
        data,
        mimetype=kind,
        headers={"Content-Disposition": f"attachment; filename={name}"},
    )


deletable(blueprint, "/surveys", "survey", service.set_survey_deleted)
