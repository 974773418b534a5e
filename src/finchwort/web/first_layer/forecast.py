"""The first layer, before plastic is used."""

from __future__ import annotations

import math

import numpy as np
from apiflask import APIBlueprint

from finchwort.core.first_layer import BANDS, TEXTURE, Bead, Forecast, Laid, agree, forecast_layer
from finchwort.core.printers import Bed, place_in_words
from finchwort.core.surveys import Relief
from finchwort.knowledge import trims
from finchwort.messages.first_layer import BAND_WORDS, bead_words, forecast_sentence, gap_sentence
from finchwort.services.first_layer.offsets import relief_of
from finchwort.services.first_layer.trials import judged_ladders
from finchwort.services.tramming.planning import plan_for
from finchwort.store.errors import ConflictError
from finchwort.store.models import SurveyRecord
from finchwort.store.printers.printers import bed_of
from finchwort.store.surveys.surveys import get_survey
from finchwort.web import schemas
from finchwort.web.database import session

blueprint = APIBlueprint("first_layer", __name__, url_prefix="/api", tag="first layer")


@blueprint.get("/surveys/<int:survey_id>/first-layer")
@blueprint.input(schemas.FirstLayerQuery, location="query")
@blueprint.output(schemas.FirstLayerOut)
def get_first_layer(survey_id: int, query_data: schemas.FirstLayerQuery) -> schemas.FirstLayerOut:
    """Foretell the first layer over the bed, with the offset right in the middle but for a shift."""
    record = get_survey(session(), survey_id)
    bed = bed_of(record.visit.printer)
    bead = Bead(query_data.width, record.visit.first_layer, query_data.flow)
    relief, change = _bed_at(record, query_data)
    result = forecast_layer(relief.heights, bead, relief.middle + query_data.shift)
    return _out(record, query_data, bed, bead, relief, result, change)


def _stages(record: SurveyRecord) -> list[str]:
    printer = record.visit.printer
    stages = ["measured"]
    if printer.screws:
        stages.append("plan")
    if printer.compensation != "none":
        stages.append("compensated")
    return stages


def _bed_at(
    record: SurveyRecord, query: schemas.FirstLayerQuery
) -> tuple[Relief, tuple[float, float, float] | None]:
    """The heights that the nozzle meets, and what the plan changes of them.

    A plan that was given before is taken as it is given back: while the tip is dragged it need not be made anew.
    """
    stage = query.stage
    if stage not in _stages(record):
        raise ConflictError(
            "This bed has no screws to turn." if stage == "plan" else "This printer has no compensation."
        )
    relief = relief_of(
        session(), record, record.visit.printer.compensation if stage == "compensated" else "none"
    )
    if stage != "plan":
        return relief, None
    if query.rise_x is None or query.rise_y is None or query.lift is None:
        change = plan_for(session(), record).change
    else:
        change = (query.rise_x, query.rise_y, query.lift)
    return relief.plus(*change), change


def laid_out(bead: Bead, laid: Laid, rough: float = 0.0) -> schemas.LaidOut:
    """Give a bead as it lies in a gap, on a plate with a texture so deep (mm)."""
    return schemas.LaidOut.of(
        laid,
        fill=laid.fill if math.isfinite(laid.fill) else None,
        words=bead_words(laid),
        sentence=gap_sentence(bead, laid.gap),
        notes=list(bead.notes(laid.gap, rough)),
    )


def _stands(record: SurveyRecord, bead: Bead) -> float | None:
    """How much higher the tip stands now than is right in the middle, as far as patches were judged, mm."""
    _, result = judged_ladders(session(), record.visit, bead)
    return None if result is None or result.one_sided is not None else -result.best


def _out(
    record: SurveyRecord,
    query: schemas.FirstLayerQuery,
    bed: Bed,
    bead: Bead,
    relief: Relief,
    forecast: Forecast,
    change: tuple[float, float, float] | None,
) -> schemas.FirstLayerOut:
    # a textured plate has pits that the melt fills first
    pitted = {kind for trim in trims() if trim.key == "rough" for kind in trim.surfaces}
    rough = TEXTURE if record.visit.surface_kind in pitted else 0.0
    places = []
    for at in (int(forecast.gap.argmin()), int(forecast.gap.argmax())):
        row, column = divmod(at, relief.xs.size)
        x, y = float(relief.xs[column]), float(relief.ys[row])
        laid = bead.at_gap(float(forecast.gap[row, column]))
        places.append(
            schemas.PlaceOut(x=x, y=y, name=place_in_words(bed, x, y), laid=laid_out(bead, laid, rough))
        )
    return schemas.FirstLayerOut.of(
        bead,
        survey_id=record.id,
        stage=query.stage,
        stages=_stages(record),
        shift=query.shift,
        columns=relief.xs.size,
        rows=relief.ys.size,
        gaps_um=np.rint(forecast.gap * 1000).astype(int).ravel().tolist(),
        limits=list(bead.limits()),
        bands=[
            schemas.BandOut(band=name, words=BAND_WORDS[name], share=forecast.shares[name]) for name in BANDS
        ],
        best=query.shift + forecast.best,
        best_share=forecast.best_share,
        closest=query.shift + forecast.closest,
        touches=forecast.touches,
        change=None
        if change is None
        else schemas.PlaneChange(rise_x=change[0], rise_y=change[1], lift=change[2]),
        stands=_stands(record, bead),
        sentence=forecast_sentence(forecast),
        agrees=agree(record.verdict, forecast, bead) if query.stage == "measured" else None,
        middle=laid_out(bead, bead.at_gap(bead.height + query.shift), rough),
        places=places,
    )
