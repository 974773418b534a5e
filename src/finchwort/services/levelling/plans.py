"""Levelling without screws: shims under pads, tape, the cross beam; and what shape is left."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.base.errors import CoreError
from finchwort.core.levelling import (
    BeamPlan,
    Remedy,
    ShimPlan,
    Skew,
    TapePlan,
    beam_span,
    learn_carries,
    plan_beam,
    plan_row,
    plan_shims,
    plan_tape,
    remedies,
)
from finchwort.core.printers import usual_inset
from finchwort.core.probing import (
    EdgeShape,
    Laid,
    Line,
    compare_lines,
    compare_with_survey,
    lay_line,
    shape_of,
)
from finchwort.core.surveys import PRIOR_SD, TILT_SHARE, Odd, assess_flatness, find_odd, make_relief
from finchwort.services.probing.probe_tests import assess_test, noise_in
from finchwort.services.surveys.surveys import fit_of
from finchwort.store.errors import ConflictError
from finchwort.store.models import Adjustment, Printer, ProbingTest, SurveyRecord, Visit
from finchwort.store.printers.printers import bed_of, foils_of, get_workshop, pads_of
from finchwort.store.probing.probe_tests import newest, tests_of
from finchwort.store.surveys.surveys import OPEN, load_readings, refuse_open
from finchwort.store.visits.visits import list_rounds

GLASSES = ("glass", "coated_glass")
"""Surfaces that lie on their carrier as a stiff sheet."""
MAX_TRIALS = 6
"""So many beam moves are looked back on to learn what the screws carry."""


def shims_for(session: Session, record: SurveyRecord, lower_middle: float = 0.0) -> ShimPlan:
    """Work out stacks of foil for a stored survey.

    Raises
    ------
    ConflictError
        When the plate does not rest on pads.
    ChoiceError
        When there is no foil.
    """
    printer = record.visit.printer
    if not printer.pads:
        raise ConflictError("This plate does not rest on pads.")
    refuse_open(record)
    survey = load_readings(session, record.id)
    return plan_shims(
        survey,
        pads_of(printer),
        foils_of(get_workshop(session)),
        stiff=not printer.plate_bends,
        lower_middle=lower_middle,
        centre=bed_of(printer).centre,
        noise=noise_sd(session, record),
    )


def noise_sd(session: Session, record: SurveyRecord) -> float:
    """Return what one reading is trusted to, mm."""
    return fit_of(session, record).noise


def skew_of(session: Session, visit: Visit) -> Skew | None:
    """Return the beam as it was measured on both uprights in this visit."""
    test = newest(tests_of(session, visit.id), "beam")
    if test is None:
        return None
    try:
        result = assess_test(test.kind, test.data).result
    except (CoreError, KeyError):
        return None
    return result if isinstance(result, Skew) else None


@dataclass(frozen=True)
class Carries:
    """What hangs on a beam's two screws, and how that is known.

    Attributes
    ----------
    what : {"unknown", "nozzle", "bed"}
    learned : bool
        From a trial turn rather than from the set-up.
    """

    what: str
    learned: bool


def carries_of(session: Session, printer: Printer) -> Carries:
    """Find out what hangs on the two lead screws: as set up, or by what earlier moves did."""
    if printer.beam_carries != "unknown":
        return Carries(printer.beam_carries, False)
    query = (
        select(Adjustment)
        .where(
            Adjustment.printer_id == printer.id, Adjustment.kind == "beam", Adjustment.deleted_at.is_(None)
        )
        .order_by(Adjustment.id.desc())
        .limit(MAX_TRIALS)
    )
    for item in session.scalars(query):
        after = session.scalars(
            select(SurveyRecord)
            .where(
                SurveyRecord.visit_id == item.survey.visit_id,
                SurveyRecord.taken_at > item.made_at,
                SurveyRecord.deleted_at.is_(None),
            )
            .order_by(SurveyRecord.taken_at)
            .limit(1)
        ).first()
        if after is None or OPEN in (item.survey.verdict, after.verdict):
            continue
        pair = (load_readings(session, item.survey_id), load_readings(session, after.id))
        result = learn_carries(*pair, item.data["side"], item.data["rise"], noise_sd(session, after))
        if result != "unknown":
            return Carries(result, True)
    return Carries("unknown", False)


def beam_for(session: Session, record: SurveyRecord) -> tuple[BeamPlan, Carries]:
    """Work out which side of the cross beam to drive.

    Raises
    ------
    ConflictError
        When the beam does not hang on two lead screws.
    """
    printer = record.visit.printer
    if printer.beam_screws != 2:
        raise ConflictError("This printer's beam does not hang on two lead screws.")
    refuse_open(record)
    survey = load_readings(session, record.id)
    carries = carries_of(session, printer)
    plan = plan_beam(
        survey,
        beam_span(printer.beam_left, printer.beam_right, printer.width),
        noise=noise_sd(session, record),
        carries=carries.what,
        lead=printer.beam_lead,
        steps_per_turn=printer.beam_steps,
        skew=skew_of(session, record.visit),
        tolerance=TILT_SHARE * record.visit.first_layer,
        raises=printer.beam_raises,
        area=bed_of(printer),
    )
    return plan, carries


def beam_by_row(session: Session, visit: Visit, values: Sequence[float]) -> tuple[BeamPlan, Carries]:
    """Work out which side of the cross beam to drive by three heights, left to right.

    Raises
    ------
    ConflictError, CoreError
    """
    printer = visit.printer
    if printer.beam_screws != 2:
        raise ConflictError("This printer's beam does not hang on two lead screws.")
    carries = carries_of(session, printer)
    bed = bed_of(printer)
    noise = noise_in(session, visit).sd
    plan = plan_row(
        values,
        beam_span(printer.beam_left, printer.beam_right, printer.width),
        between=bed.width - 2 * usual_inset(bed),
        noise=PRIOR_SD if noise is None else noise,
        carries=carries.what,
        lead=printer.beam_lead,
        steps_per_turn=printer.beam_steps,
        skew=skew_of(session, visit),
        tolerance=TILT_SHARE * visit.first_layer,
        raises=printer.beam_raises,
    )
    return plan, carries


def tape_for(session: Session, record: SurveyRecord, thickness: float) -> TapePlan:
    """Say where tape goes under a loose plate or a glass, by the readings that count and what they are trusted to."""
    refuse_open(record)
    visit = record.visit
    return plan_tape(
        load_readings(session, record.id),
        thickness,
        bed=bed_of(visit.printer),
        fit=fit_of(session, record),
        under="glass" if visit.surface_kind in GLASSES else "plate",
    )


@dataclass(frozen=True)
class Left:
    """What no screw takes out, and what to do about it.

    Attributes
    ----------
    peak_to_valley : float
        mm
    odd : tuple of Odd
    remedies : tuple of Remedy
    fault : str or None
        What straightedges said about plate and carrier.
    """

    peak_to_valley: float
    odd: tuple[Odd, ...]
    remedies: tuple[Remedy, ...]
    fault: str | None


def left_of(session: Session, record: SurveyRecord) -> Left:
    """Judge the shape that is left once the tilt is out."""
    printer = record.visit.printer
    refuse_open(record)
    survey = load_readings(session, record.id)
    odd = find_odd(survey, noise_sd(session, record))
    flat = assess_flatness(survey).peak_to_valley
    fault = fault_of(session, record.visit)
    return Left(
        flat,
        odd,
        remedies(
            flat,
            record.visit.first_layer,
            (printer.plate_width, printer.plate_depth),
            odd=odd,
            compensation=printer.compensation,
            pads=bool(printer.pads),
            fault=fault,
        ),
        fault,
    )


def fault_of(session: Session, visit: Visit) -> str | None:
    """Compare the newest straightedge lines over plate and bare carrier of a visit that lay the same way."""
    lines: dict[str, dict[str, Line]] = {}
    for test in tests_of(session, visit.id):
        if test.kind == "line":
            way = lines.setdefault(test.data.get("direction") or "", {})
            result = assess_test("line", test.data).result
            if isinstance(result, Line):
                way[str(test.data.get("what"))] = result
    sentences = [
        compare_lines(way["plate"], way["carrier"])
        for way in lines.values()
        if {"plate", "carrier"} <= set(way)
    ]
    return sentences[-1] if sentences else None


@dataclass(frozen=True)
class EdgeLine:
    """A stored straightedge line in its place.

    Attributes
    ----------
    test : ProbingTest
    laid : Laid
    survey : str or None
        How it agrees with the newest survey of the visit.
    """

    test: ProbingTest
    laid: Laid
    survey: str | None


def edges_of(session: Session, visit: Visit, what: str = "plate") -> tuple[list[EdgeLine], EdgeShape]:
    """Return the lines of a visit whose direction was said, and the shape they show together.

    Parameters
    ----------
    what : {"plate", "carrier"}
        What the edge lay on.
    """
    bed = bed_of(visit.printer)
    relief = noise = None
    rounds = list_rounds(session, visit)
    if what == "plate" and rounds and rounds[-1].survey.verdict != OPEN:
        record = rounds[-1].survey
        relief, noise = make_relief(load_readings(session, record.id), bed), noise_sd(session, record)
    results = []
    for test in tests_of(session, visit.id):
        data = test.data
        if test.kind != "line" or data.get("what") != what or not data.get("direction"):
            continue
        try:
            laid = lay_line(bed, data["direction"], data["positions"], data["gaps"], data.get("across"))
        except CoreError:
            continue  # the bed was set up otherwise since
        text = (
            compare_with_survey(laid, relief.at(laid.x, laid.y), noise)
            if relief is not None and noise is not None
            else None
        )
        results.append(EdgeLine(test, laid, text))
    return results, shape_of([result.laid for result in results], bed)
