"""From records and core objects to what the API gives."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from finchwort.core.base.remarks import Remark
from finchwort.core.base.wording import lower_first, millimetres
from finchwort.core.diagnosis import Suit, suit
from finchwort.core.levelling import beam_span
from finchwort.core.machine import Compared
from finchwort.core.printers import Bed
from finchwort.core.probing import FeltBed, reach
from finchwort.core.surveys import BedFit, Flatness, Shape, Survey, Tilt, Verdict, good_spread
from finchwort.core.tramming import RoundReview
from finchwort.core.visits import After, Standing, Step, next_step
from finchwort.knowledge import materials, surfaces
from finchwort.messages.machine import TOLD_NAMES
from finchwort.messages.remarks import sentences, words
from finchwort.messages.surveys import SHAPES, places_sentence, verdict_word
from finchwort.messages.visits import words_of
from finchwort.services.first_layer.offsets import KeptOffset
from finchwort.services.printers.printers import PLAIN
from finchwort.services.visits.visits import visit_route
from finchwort.store.models import Entry, Printer, SurveyRecord, Visit
from finchwort.store.printers.printers import bed_of
from finchwort.store.surveys.surveys import Ground, Taken
from finchwort.store.visits.changes import WHATS
from finchwort.store.visits.visits import Round, verdict_of
from finchwort.web import schemas
from finchwort.web.height_map import verdict_out
from finchwort.web.probing.serializers import First, items_out, test_out
from finchwort.web.tramming.serializers import adjustment_out, review_out, turning_out


def compared_out(comparisons: Iterable[Compared]) -> list[schemas.ComparedOut]:
    """Give what a machine said beside the book."""
    return [
        schemas.ComparedOut.of(
            comparison,
            title=TOLD_NAMES[comparison.name],
            sentence=words(comparison.remark) if comparison.remark else "",
        )
        for comparison in comparisons
    ]


def bed_out(bed: Bed) -> schemas.Bed:
    """Give a bed."""
    return schemas.Bed.of(
        bed,
        plate=rectangle(bed.plate),
        keep_off=[schemas.KeepOffOut(**vars(place)) for place in bed.keep_off],
    )


def rectangle(sides: tuple[float, float, float, float]) -> schemas.Rectangle:
    """Give a rectangle from its left, front, right and back."""
    x_min, y_min, x_max, y_max = sides
    return schemas.Rectangle(x_min=x_min, y_min=y_min, x_max=x_max, y_max=y_max)


def places(points: Iterable[Sequence[float]]) -> list[schemas.XY]:
    """Give places on the bed."""
    return [schemas.XY(x=float(x), y=float(y)) for x, y in points]


def screws_out(printer: Printer | Ground) -> list[schemas.ScrewOut]:
    """Give a printer's screws."""
    return [schemas.ScrewOut.of(s) for s in printer.screws]


def printer_out(printer: Printer) -> schemas.PrinterOut:
    """Give a printer."""
    return schemas.PrinterOut(
        id=printer.id,
        version=printer.version,
        name=printer.name,
        width=printer.width,
        depth=printer.depth,
        origin=printer.origin,
        plate_width=printer.plate_width,
        plate_depth=printer.plate_depth,
        first_layer=printer.first_layer,
        good_spread=good_spread(printer.first_layer),
        thread_hand=printer.thread_hand,
        knob_view=printer.knob_view,
        tightening_lowers=printer.tightening_lowers,
        divisions=printer.divisions,
        repeatability=printer.repeatability,
        note=printer.note,
        screws=screws_out(printer),
        bed=bed_out(bed_of(printer)),
        pads=[schemas.PadOut(**pad) for pad in printer.pads],
        keep_off=[schemas.KeepOffOut(**place) for place in printer.keep_off],
        surfaces=[
            schemas.SurfaceOut.of(s, kind_name=surfaces()[s.kind].name if s.kind in surfaces() else "other")
            for s in printer.surfaces
        ],
        probe_reach=rectangle(reach(bed_of(printer), printer.probe_dx, printer.probe_dy)),
        beam_span=beam_span(printer.beam_left, printer.beam_right, printer.width),
        offset_warning=_offset_warning(printer.offset_kept),
        offset_kept=printer.offset_kept,
        materials=printer.materials,
        **{name: getattr(printer, name) for name in PLAIN},
    )


def _offset_warning(kept: Sequence[str]) -> str | None:
    if len(kept) < 2:
        return None
    names = {"printer": "the printer", "slicer": "the slicer's profile", "start_code": "the start code"}
    places = " and ".join(names[item] for item in kept)
    return f"The Z offset is kept in {places} at once: they add up. Keep it in one place."


def suit_out(result: Suit) -> schemas.SuitOut:
    """Give how surface, material and temperatures go together."""
    bed, nozzle = result.bed_range or (None, None), result.nozzle_range or (None, None)
    return schemas.SuitOut.of(
        result,
        bed_low=bed[0],
        bed_high=bed[1],
        nozzle_low=nozzle[0],
        nozzle_high=nozzle[1],
        remarks=list(result.remarks),
    )


def figures_out(
    survey: Survey,
    flatness: Flatness,
    shape: Shape,
    verdict: Verdict,
    felt: FeltBed | None = None,
    fit: BedFit | None = None,
    tilt: Tilt | None = None,
) -> schemas.Figures:
    """Give the figures of a survey."""
    return schemas.Figures.of(
        shape,
        count=len(survey),
        spread=survey.spread,
        peak_to_valley=flatness.peak_to_valley,
        peak=flatness.peak,
        valley=flatness.valley,
        rms=flatness.rms,
        shape=shape.name,
        shape_sentence=SHAPES[shape.name],
        at_least=felt.at_least if felt is not None and felt.open.any() else None,
        open=felt.open.tolist() if felt is not None else [],
        tilt=tilt.rise if tilt else None,
        tilt_margin=tilt.margin if tilt else None,
        tilt_note=places_sentence(fit) if fit and tilt else None,
        noise_note=fit.assumed if fit and tilt else None,
        verdict=verdict_out(verdict),
    )


def aside_out(taken: Taken, fit: BedFit) -> list[schemas.AsideOut]:
    """Give the readings that count for nothing, and those that a person put back."""
    survey, result = taken.survey, []
    odd = np.flatnonzero(taken.aside | taken.kept)
    expected = fit.surface(survey.x[odd], survey.y[odd])
    for i, seen in zip(odd.tolist(), expected.tolist(), strict=True):
        stray = float(survey.height[i] - seen)
        way = "above" if stray > 0 else "below"
        where = f"x {survey.x[i]:g}, y {survey.y[i]:g}"
        counts = bool(taken.kept[i])
        text = (
            f"The reading at {where} counts on your word, {millimetres(abs(stray))} {way} what the others say."
            if counts
            else f"The reading at {where} stands {millimetres(abs(stray))} {way} what the others say, and is set aside. Look for "
            "debris there, and read it again."
        )
        result.append(
            schemas.AsideOut(
                place=i,
                x=float(survey.x[i]),
                y=float(survey.y[i]),
                height=float(survey.height[i]),
                stray=stray,
                counts=counts,
                sentence=text,
            )
        )
    return result


def survey_out(record: SurveyRecord) -> schemas.SurveyOut:
    """Give a stored survey."""
    return schemas.SurveyOut.of(
        record,
        verdict=verdict_of(record),
        word=verdict_word(
            verdict_of(record), bool(record.visit.printer.screws), record.visit.printer.compensation
        ),
    )


@dataclass(frozen=True)
class Now:
    """What of the present a visit is judged by.

    Attributes
    ----------
    offset, printed : (state, why) or None
        See `finchwort.core.visits.route`.
    bed : Standing or None
        Whether its newest survey still shows the bed.
    after : After or None
        What is to be done after what happened.
    """

    offset: tuple[str, Remark] | None
    bed: Standing | None
    printed: tuple[str, Remark] | None
    after: After | None


def route_of(visit: Visit, rounds: Sequence[Round], first: First, now: Now) -> tuple[Step, ...]:
    """Give the route of a visit."""
    return visit_route(visit, rounds, first.before, now.offset, now.bed, now.printed)


def standing_out(standing: Standing | None) -> schemas.StandingOut | None:
    """Give whether something holds."""
    if standing is None:
        return None
    return schemas.StandingOut(state=standing.state, reasons=sentences(standing.reasons))


def next_out(steps: Sequence[Step]) -> schemas.NextOut | None:
    """Give the step that comes next."""
    step = next_step(steps)
    return schemas.NextOut(name=step.name, why=step.why) if step else None


def after_out(after: After | None) -> schemas.AfterOut | None:
    """Give what is to be done after what happened."""
    if after is None:
        return None
    events = [lower_first(WHATS[what]) for what in after.events]
    return schemas.AfterOut(
        title=f"After: {', '.join(events)}",
        steps=[schemas.AfterStepOut.of(step, **vars(words_of(after, step))) for step in after.steps],
        left=len(after.left),
    )


def visit_out(
    visit: Visit,
    rounds: Sequence[Round],
    reviews: Sequence[RoundReview | None],
    first: First,
    now: Now,
    keep: KeptOffset | None = None,
) -> schemas.VisitOut:
    """Give a visit with its rounds and what was found out before measuring."""
    suits = suit(
        surfaces().get(visit.surface_kind),
        materials().get(visit.material),
        visit.bed_temperature,
        visit.nozzle_temperature,
    )
    steps = route_of(visit, rounds, first, now)
    return schemas.VisitOut.of(
        visit,
        printer=printer_out(visit.printer),
        suit=suit_out(suits),
        route=[schemas.StepOut.of(s) for s in steps],
        rounds=[
            schemas.RoundOut(
                survey=survey_out(visit_round.survey),
                turning=turning_out(visit_round.turning, keep if visit_round is rounds[-1] else None)
                if visit_round.turning
                else None,
                adjustments=[adjustment_out(a) for a in visit_round.adjustments],
                moved=visit_round.moved
                or (visit_round is rounds[-1] and now.bed is not None and now.bed.gone),
                review=review_out(review) if review else None,
            )
            for visit_round, review in zip(rounds, reviews, strict=True)
        ],
        items=items_out(visit.printer, first.findings),
        tests=[test_out(test, first.tests) for test in first.tests],
        weaknesses=schemas.Weaknesses(**first.weaknesses),
        bed=standing_out(now.bed),
        after=after_out(now.after) if visit.ended_at is None else None,
        next=next_out(steps),
    )


def visit_line(visit: Visit, rounds: Sequence[Round]) -> schemas.VisitLine:
    """Give a visit as a line in a list."""
    last = rounds[-1].survey if rounds else None
    # a bed that paper left open has no number to be drawn
    known = rounds and not {rounds[0].survey.verdict, rounds[-1].survey.verdict} & {"open"}
    return schemas.VisitLine.of(
        visit,
        surveys=len(rounds),
        turnings=sum(visit_round.turning is not None for visit_round in rounds),
        first_spread=rounds[0].survey.spread if known else None,
        last_spread=last.spread if last and known else None,
        verdict=verdict_of(last) if last else None,
        word=verdict_word(verdict_of(last), bool(visit.printer.screws), visit.printer.compensation)
        if last
        else None,
    )


def entry_out(entry: Entry) -> schemas.EntryOut:
    """Give a line of the logbook."""
    return schemas.EntryOut.of(
        entry,
        printer=entry.printer.name if entry.printer else None,
        device=entry.device.name if entry.device else None,
    )
