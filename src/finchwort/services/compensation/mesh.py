"""Meshes: made from a survey, what they leave, and whether the stored one still holds."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from sqlalchemy.orm import Session

from finchwort.core.base.errors import CoreError, OutOfRangeError
from finchwort.core.base.geometry import Array
from finchwort.core.base.remarks import Remark
from finchwort.core.compensation import (
    MAX_SIDE,
    METHODS,
    MIN_KNOWN,
    MIN_SIDE,
    Fade,
    Mesh,
    MeshLeft,
    advised_fade,
    compensate,
    fade_out,
    judge_method,
    left_by_mesh,
    make_mesh,
)
from finchwort.core.probing import compare_surveys
from finchwort.core.surveys import Survey
from finchwort.core.visits import Happened, Standing, by_now
from finchwort.services.surveys.surveys import fit_of
from finchwort.services.visits.standing import days_since, stands
from finchwort.store.models import Adjustment, Printer, SurveyRecord, Visit
from finchwort.store.printers.printers import bed_of
from finchwort.store.surveys.surveys import load_readings, newest_surveys, refuse_open
from finchwort.store.tramming.adjustments import newest_adjustment
from finchwort.store.visits.events import mark_of
from finchwort.store.visits.standing import newest_visit

CHANGED = 3.0
"""A newer survey shows another bed when it differs by so many standard deviations of a reading (ours)."""
MIN_CHANGE = 0.03
"""And by so much, root mean square, mm (ours)."""


@dataclass(frozen=True)
class MeshWish:
    """How a mesh is wanted.

    Attributes
    ----------
    columns, rows : int or None
        As many as were measured, up to what is usual, when not given.
    method : str
    fade : float or None
        mm; advised when not given.
    """

    columns: int | None = None
    rows: int | None = None
    method: str = "bilinear"
    fade: float | None = None


@dataclass(frozen=True, eq=False)
class Compensated:
    """A mesh for a survey, and what comes of it.

    Attributes
    ----------
    survey : Survey
    mesh : Mesh
    method : str
    after : Survey
        Heights that the nozzle sees with this machine's compensation on, mm: round every reading the most that is left,
        as a mesh is not judged by its own points.
    kind : str
        What this machine's compensation really does.
    left : MeshLeft or None
        What the mesh leaves between its points and beyond them; none with too few readings.
    methods : str or None
        Which way of interpolating leaves less.
    fade : Fade
    deviation : float
        Largest height from the mean that is compensated, mm.
    """

    survey: Survey
    mesh: Mesh
    method: str
    after: Survey
    kind: str
    left: MeshLeft | None
    methods: str | None
    fade: Fade
    deviation: float


def mesh_for(session: Session, record: SurveyRecord, wish: MeshWish) -> Compensated:
    """Make a mesh from a stored survey.

    Raises
    ------
    OutOfRangeError, ChoiceError
    """
    refuse_open(record)
    survey = load_readings(session, record.id)
    columns = wish.columns or usual_side(survey.x)
    rows = wish.rows or usual_side(survey.y)
    if not (MIN_SIDE <= columns <= MAX_SIDE and MIN_SIDE <= rows <= MAX_SIDE):
        raise OutOfRangeError("compensation.mesh_points_side", min_side=MIN_SIDE, max_side=MAX_SIDE)
    mesh = make_mesh(survey, columns, rows)
    kind = record.visit.printer.compensation
    after = compensate(survey, mesh, "mesh" if kind == "none" else kind, wish.method)
    left = methods = None
    if len(survey) >= MIN_KNOWN:
        fit = fit_of(session, record)
        results: dict[str, MeshLeft] = {
            name: left_by_mesh(survey, mesh, fit.bed, fit.noise, name) for name in METHODS
        }
        left = results[wish.method]
        if kind != "mean":
            # at its own points a mesh leaves nothing: shown is what it leaves round them
            after = survey.with_heights(left.at_readings)
        methods = judge_method([(name, result.rms) for name, result in results.items()])
    deviation = float(np.abs(mesh.heights - mesh.heights.mean()).max())
    fade = advised_fade(deviation) if wish.fade is None else wish.fade
    return Compensated(
        survey=survey,
        mesh=mesh,
        method=wish.method,
        after=after,
        kind=kind,
        left=left,
        methods=methods,
        fade=fade_out(deviation, record.visit.first_layer, fade),
        deviation=deviation,
    )


def usual_side(places: Array) -> int:
    """Columns or rows as they were measured, or five for scattered readings."""
    count = np.unique(np.round(places, 1)).size
    return count if 3 <= count <= 15 else min(5, max(3, round(math.sqrt(len(places)))))


@dataclass(frozen=True)
class StoredMesh:
    """The mesh that a printer is believed to hold.

    Attributes
    ----------
    record : Adjustment
    standing : Standing
        Whether it still holds.
    """

    record: Adjustment
    standing: Standing

    @property
    def outdated(self) -> tuple[Remark, ...]:
        """What puts it out of date; empty while it holds."""
        return self.standing.reasons


def stored_mesh(session: Session, printer: Printer, visit: Visit | None = None) -> StoredMesh | None:
    """Return the newest mesh of a printer and whether it still holds.

    ``visit`` is the present one; its surface and temperature count as today's.
    """
    record = newest_adjustment(session, printer.id, "mesh")
    if record is None:
        return None
    visit = visit or newest_visit(session, printer.id)
    data = record.data
    now = by_now(
        surface=(data.get("surface", ""), visit.surface if visit else ""),
        temperature=(data.get("temperature"), visit.bed_temperature if visit else None),
        days=days_since(record.made_at),
    )
    if _changed_since(session, printer, record):
        now.append(Happened("measured"))
    mark = mark_of(session, record)
    return StoredMesh(record, stands(session, printer, "mesh", mark, now))


def _changed_since(session: Session, printer: Printer, mesh: Adjustment) -> bool:
    """Whether the newest survey differs from the mesh's own by more than noise."""
    newest = newest_surveys(session, printer.id, 1)
    if not newest or newest[0].id == mesh.survey_id:
        return False
    pair = load_readings(session, mesh.survey_id), load_readings(session, newest[0].id)
    try:
        moved = compare_surveys(*pair, bed_of(printer)).survey.height
    except CoreError:
        return False  # they share no place, so nothing can be said
    sd = fit_of(session, newest[0]).noise
    return float(moved.std()) > max(CHANGED * sd, MIN_CHANGE)
