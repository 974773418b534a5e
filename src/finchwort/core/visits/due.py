"""What is due at a printer today: from what is on record of it, the most pressing first."""

from __future__ import annotations

from dataclasses import dataclass

from finchwort.core.base.remarks import Remark, remark
from finchwort.core.printers import COAT_PRINTS, MANY_PRINTS
from finchwort.core.visits.events import Standing
from finchwort.core.visits.kinds import DueKind

LEFT_HOURS = 12.0
"""A visit that began so long ago and was not closed was left open (ours)."""
HOURS_A_DAY = 24.0
NOZZLE_HOURS = 400.0
"""After so many hours of printing the tip is looked at: brass wears (ours)."""


@dataclass(frozen=True)
class OpenCase:
    """A case that nobody closed.

    Attributes
    ----------
    case_id : int
    words : str
        In the person's own words.
    days : float
        Since it was opened.
    under_way : bool
        Whether a change was made of which nobody told yet what came of it.
    """

    case_id: int
    words: str
    days: float
    under_way: bool


@dataclass(frozen=True)
class OnRecord:
    """What is on record of a printer.

    Attributes
    ----------
    left : int
        Things left to do after something happened to it.
    bed, offset, mesh : Standing or None
        Whether its newest survey, offset and mesh still hold; None where there is none.
    surface : str
        What lies on it.
    prints, coats : int
        On that surface since it was washed.
    cases : tuple of OpenCase
    visit_hours : float or None
        Since the visit began that is open.
    level_days : float or None
        Since it was left level.
    level_lasts : float or None
        Days that its level lasts, by how it has drifted.
    nozzle_hours : float
        Of printing since the nozzle was changed, as far as it was told.
    """

    left: int = 0
    bed: Standing | None = None
    offset: Standing | None = None
    mesh: Standing | None = None
    surface: str = ""
    prints: int = 0
    coats: int = 0
    cases: tuple[OpenCase, ...] = ()
    visit_hours: float | None = None
    level_days: float | None = None
    level_lasts: float | None = None
    nozzle_hours: float = 0.0


@dataclass(frozen=True)
class Due:
    """One thing that is due.

    Attributes
    ----------
    kind : DueKind
    said : Remark
        What to do, and why.
    case_id : int or None
        Where it is about a case.
    """

    kind: DueKind
    said: Remark
    case_id: int | None = None

    @property
    def rank(self) -> int:
        """Place among the kinds, 0 the most pressing."""
        return list(DueKind).index(self.kind)


def due(known: OnRecord) -> tuple[Due, ...]:
    """Say what is due at a printer, the most pressing first.

    Where a list leads back to printing after something happened, that list stands alone for bed, offset and mesh:
    two lines never ask for one thing.  A bed in doubt is measured before offset and mesh are asked for.

    Examples
    --------
    >>> [one.kind.value for one in due(OnRecord(left=3, prints=12, surface="Sheet"))]
    ['after', 'wash']
    >>> due(OnRecord())
    ()
    """
    results = [*_cases(known), *_standing(known), *_surface(known), *_times(known)]
    return tuple(sorted(results, key=lambda one: one.rank))


def _cases(known: OnRecord) -> list[Due]:
    return [
        Due(DueKind.EXPERIMENT, remark("visits.due_experiment", case=case.words), case.case_id)
        if case.under_way
        else Due(
            DueKind.CASE,
            remark("visits.due_case", case=case.words, days=max(0, int(case.days))),
            case.case_id,
        )
        for case in known.cases
    ]


def _standing(known: OnRecord) -> list[Due]:
    if known.left:
        return [Due(DueKind.AFTER, remark("visits.due_after", left=known.left))]
    results = []
    if known.bed is not None and not known.bed.holds:
        # offset and mesh are of a bed: that one first, they are asked for when it is known again
        return [Due(DueKind.MEASURE, remark("visits.due_measure", why=known.bed.why))]
    if known.offset is not None and not known.offset.holds:
        results.append(Due(DueKind.OFFSET, remark("visits.due_offset", why=known.offset.why)))
    if known.mesh is not None and not known.mesh.holds:
        results.append(Due(DueKind.MESH, remark("visits.due_mesh", why=known.mesh.why)))
    return results


def _surface(known: OnRecord) -> list[Due]:
    # a wash takes the old coat off as well
    if known.coats and known.prints > COAT_PRINTS:
        said = remark("visits.due_coat", surface=known.surface, prints=known.prints)
        return [Due(DueKind.COAT, said)]
    if known.prints >= MANY_PRINTS:
        said = remark("visits.due_wash", surface=known.surface, prints=known.prints)
        return [Due(DueKind.WASH, said)]
    return []


def _times(known: OnRecord) -> list[Due]:
    results = []
    hours, days, lasts = known.visit_hours, known.level_days, known.level_lasts
    if hours is not None and hours >= LEFT_HOURS:
        said = remark("visits.due_visit", days=max(1, round(hours / HOURS_A_DAY)))
        results.append(Due(DueKind.VISIT, said))
    # a bed in doubt, or in an open visit, is looked at anyway; one that was left beyond good did not drift there
    asked = known.left or hours is not None or (known.bed is not None and not known.bed.holds)
    if days is not None and lasts and days >= lasts and not asked:
        results.append(Due(DueKind.LEVEL, remark("visits.due_level", days=max(1, round(days)))))
    if known.nozzle_hours >= NOZZLE_HOURS:
        results.append(Due(DueKind.NOZZLE, remark("visits.due_nozzle", hours=round(known.nozzle_hours))))
    return results
