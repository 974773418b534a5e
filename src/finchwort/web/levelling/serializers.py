"""Shims, beam, remedies, meshes and drift as the API gives them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from datetime import datetime

import numpy as np

from finchwort.core.base.wording import micro, millimetres
from finchwort.core.compensation import MeanOnly, mean_only
from finchwort.core.levelling import BeamPlan, Foil, ShimPlan, TapePlan, how_far, piece_in_words
from finchwort.core.surveys import Verdict
from finchwort.core.surveys import height_map as reliefs
from finchwort.core.visits import Chart
from finchwort.messages.levelling import (
    consequences,
    hump_sentence,
    remedy_title,
    tape_plan_sentence,
    tape_sentence,
)
from finchwort.messages.levelling.cards import Deck, Way
from finchwort.messages.remarks import sentences, words
from finchwort.messages.tramming import centre_sentence
from finchwort.services.compensation.mesh import Compensated, StoredMesh
from finchwort.services.levelling.plans import Carries, Left
from finchwort.services.tramming.adjustments import describe
from finchwort.services.visits.drift import Drift
from finchwort.store.models import SurveyRecord, Workshop
from finchwort.store.printers.printers import bed_of, foils_of
from finchwort.web import schemas
from finchwort.web.height_map import relief_out, rounded, verdict_out


def foils_out(workshop: Workshop) -> schemas.FoilsOut:
    """Give what foil lies in the drawer."""
    return schemas.FoilsOut(
        foils=[schemas.FoilOut.of(foil, pieces=list(foil.pieces)) for foil in foils_of(workshop)],
        version=workshop.version,
    )


def _stack_words(sizes: Sequence[float], foils: Sequence[Foil]) -> str:
    if not sizes:
        return "nothing"
    words = " + ".join(piece_in_words(size, foils) for size in sizes)
    if len(sizes) == 1:
        return words if words.endswith(")") else f"{words} mm"
    return f"{words} = {sum(sizes):.2f} mm"


def shims_out(
    record: SurveyRecord,
    plan: ShimPlan,
    relief: reliefs.Relief,
    rise: float,
    verdict: Verdict,
    foils: Sequence[Foil] = (),
) -> schemas.ShimPlanOut:
    """Give stacks of foil with the bed they should make; ``rise`` of its mean in mm."""
    if plan.done:
        text = f"Leave the pads as they are: no foil in the drawer makes it better than {millimetres(plan.spread_before)} by more than the readings can tell."
    else:
        wished = (
            f", the middle {millimetres(plan.middle_after or 0.0)} lower than the rim as you wished"
            if plan.wished
            else ""
        )
        text = (
            f"From {millimetres(plan.spread_before)} to an expected {millimetres(plan.spread_after)} between highest and "
            f"lowest reading{wished}. {centre_sentence(rise, 0.0)} Measure each stack with calipers before you lay it."
        )
    if not plan.proven:
        text += " Time ran out before this was proven best; it is the best found."
    return schemas.ShimPlanOut.of(
        plan,
        survey_id=record.id,
        stacks=[
            schemas.StackOut.of(
                stack.pad,
                now=list(stack.pad.stack),
                foils=list(stack.foils),
                thickness=stack.thickness,
                change=stack.change,
                words=_stack_words(stack.foils, foils),
            )
            for stack in plan.stacks
        ],
        sentence=text,
        heights=rounded(plan.predicted.height),
        relief=relief_out(relief, plan.predicted.height - plan.predicted.height.mean()),
        verdict=verdict_out(verdict),
    )


def tapes_out(plan: TapePlan) -> schemas.TapesOut:
    """Give where tape goes."""
    return schemas.TapesOut(
        kind=plan.kind,
        places=[
            schemas.TapeOut.of(
                place,
                pieces=[schemas.PieceOut.of(piece) for piece in place.pieces],
                sentence=tape_sentence(place),
            )
            for place in plan.places
        ],
        humps=[schemas.HumpOut.of(hump, sentence=hump_sentence(hump)) for hump in plan.humps],
        sentence=tape_plan_sentence(plan),
    )


def deck_out(deck: Deck, survey: int | None) -> schemas.DeckOut:
    """Give the cards of one stand at the printer."""
    return schemas.DeckOut.of(
        deck,
        lines=list(deck.lines),
        cards=[
            schemas.CardOut(
                title=card.title,
                where=card.where,
                lines=list(card.lines),
                marks=[schemas.XY(x=x, y=y) for x, y in card.marks],
            )
            for card in deck.cards
        ],
        ways=[_way_out(way) for way in deck.ways],
        survey_id=survey,
    )


def _way_out(way: Way) -> schemas.WayOut:
    adjustment: schemas.ShimsDone | schemas.TapeDone | schemas.BeamDone
    if way.kind == "shims":
        stacks = [schemas.StackIn(name=n, foils=sizes) for n, sizes in way.data["stacks"].items()]
        adjustment = schemas.ShimsDone(kind="shims", stacks=stacks)
    elif way.kind == "tape":
        places = [schemas.TapePlace(**item) for item in way.data["places"]]
        adjustment = schemas.TapeDone(kind="tape", places=places)
    else:
        adjustment = schemas.BeamDone(kind="beam", **way.data)
    return schemas.WayOut(label=way.label, adjustment=adjustment)


def beam_out(record: SurveyRecord | None, plan: BeamPlan, carries: Carries) -> schemas.BeamPlanOut:
    """Give what to do at the cross beam."""
    return schemas.BeamPlanOut.of(
        plan,
        survey_id=record.id if record is not None else None,
        drives=[schemas.DriveOut.of(d, degrees=d.turns * 360, words=how_far(d)) for d in plan.drives],
        carries=carries.what,
        learned=carries.learned,
    )


def left_out(left: Left, first_layer: float) -> schemas.LeftOut:
    """Give what is left and what to do about it."""
    return schemas.LeftOut(
        peak_to_valley=left.peak_to_valley,
        share=left.peak_to_valley / first_layer,
        odd=[schemas.OddOut.of(item, indices=list(item.indices)) for item in left.odd],
        remedies=[
            schemas.RemedyOut.of(
                remedy,
                title=remedy_title(remedy),
                sentence=words(remedy.remark),
                consequences=consequences(remedy),
            )
            for remedy in left.remedies
        ],
        fault=left.fault,
    )


KINDS = {
    "none": "This printer is set up without compensation; shown is what a mesh would do.",
    "mean": "This machine applies only the mean of its points: everything moves up or down together, and tilt and shape remain.",
    "mesh": "This machine follows a mesh.",
}


def stored_out(stored: StoredMesh) -> schemas.StoredMeshOut:
    """Give the mesh that a printer is believed to hold."""
    title, detail = describe(stored.record)
    return schemas.StoredMeshOut.of(
        stored.record, detail=f"{title}. {detail}", outdated=sentences(stored.outdated)
    )


def compensation_out(
    record: SurveyRecord,
    compensated: Compensated,
    relief: reliefs.Relief,
    verdict: Verdict,
    advice: str,
    order: list[str],
    table: str,
    commands: str,
    stored: StoredMesh | None,
) -> schemas.CompensationOut:
    """Give a mesh and what comes of it."""
    if compensated.left is None:
        left = "Too few readings to say what the mesh leaves between its points."
    else:
        how = (
            "by the curvature between its points and the noise of the readings"
            if compensated.left.by == "curvature"
            else "by the readings that it does not go through"
        )
        left = (
            f"Between its points this mesh leaves {micro(compensated.left.rms)} (root mean square, {how}), "
            f"19 of 20 places less than {millimetres(max(compensated.left.worst, 0.01))}."
        )
        if compensated.left.rim is not None:
            left += f" Beyond its outermost points, where the machine carries their height on, it leaves {micro(compensated.left.rim)}."
        left += " The map shows at each reading the most that is left round it."
    bed = bed_of(record.visit.printer)
    nodes = np.stack(np.meshgrid(compensated.mesh.xs, compensated.mesh.ys), axis=-1).reshape(-1, 2)
    return schemas.CompensationOut.of(
        compensated,
        survey_id=record.id,
        kind_sentence=KINDS[compensated.kind],
        columns=int(compensated.mesh.xs.size),
        rows=int(compensated.mesh.ys.size),
        fade=compensated.fade.height,
        fade_sentence=compensated.fade.sentence,
        fade_share=compensated.fade.share,
        left_rms=compensated.left.rms if compensated.left else None,
        left_worst=compensated.left.worst if compensated.left else None,
        left_rim=compensated.left.rim if compensated.left else None,
        left_sentence=left,
        methods_sentence=compensated.methods,
        advice=advice,
        heights=rounded(compensated.after.height),
        relief=relief_out(relief, compensated.after.height),
        nodes=[schemas.XY(x=float(x), y=float(y)) for x, y in nodes],
        verdict=verdict_out(verdict),
        order=order,
        table=table,
        commands=commands,
        stored=stored_out(stored) if stored else None,
        mean=mean_out(mean_only(compensated.survey, bed, record.visit.first_layer))
        if compensated.kind == "mean"
        else None,
    )


def mean_out(result: MeanOnly) -> schemas.MeanOut:
    """Give what compensation by the mean does."""
    return schemas.MeanOut.of(
        result,
        corners=[schemas.CornerOut(name=name, height=height) for name, height in result.corners],
        sentences=list(result.sentences),
    )


def _chart_out(chart: Chart | None) -> schemas.ChartOut | None:
    if chart is None:
        return None
    return schemas.ChartOut(
        mean=chart.mean,
        lower=max(0.0, chart.lower),
        upper=chart.upper,
        outside=list(chart.outside),
        jumps=list(chart.jumps),
    )


def drift_out(drift: Drift, again: datetime | None) -> schemas.DriftOut:
    """Give run charts and forecast."""
    if drift.tilt is None:
        text = f"{len(drift.found)} visits so far; limits need five."
    elif drift.tilt.outside or drift.tilt.jumps:
        odd = sorted({*drift.tilt.outside, *drift.tilt.jumps})
        days = ", ".join(f"{drift.found[i].at:%d %b}" for i in odd)
        text = (
            f"Out of the ordinary: {days}. Something happened before that visit; the logbook may tell what."
        )
    else:
        text = "Every visit found it within the limits: what wanders is the ordinary."
    forecast = drift.forecast
    return schemas.DriftOut.of(
        forecast,
        found=[schemas.FoundOut.of(item) for item in drift.found],
        tilt=_chart_out(drift.tilt),
        flatness=_chart_out(drift.flatness),
        monthly=forecast.monthly if forecast.monthly is None or math.isfinite(forecast.monthly) else None,
        look_again=again,
        chart_sentence=text,
    )
