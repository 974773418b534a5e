"""What a person says about a text, and what came of reading it."""

from __future__ import annotations

from dataclasses import dataclass

from finchwort.core.base.errors import CoreError, Problem
from finchwort.core.printers import Bed
from finchwort.core.surveys import Survey


@dataclass(frozen=True)
class Hint:
    """What the person says about a text; ``None`` leaves it to be guessed.

    Attributes
    ----------
    layout : {"points", "grid", "indices", "list"}, optional
        Indices are column and row numbers instead of places; a list holds a grid's values one after the other.
    values : {"height", "gap"}, optional
        Heights are positive towards the nozzle, gaps away from it.
    unit : {"mm", "um"}, optional
        Unit of the heights or gaps.
    flip_y : bool
        Grid: the first line is the back row.  Points: front and back are swapped.
    flip_x : bool
        Left and right are swapped.
    serpentine : bool
        Grid and list: every second row was walked backwards.
    columns : int, optional
        List: so many values make a row.
    bounds : tuple of float, optional
        x_min, y_min, x_max, y_max of a grid's outer readings, mm.
    bed : Bed, optional
        The bed they belong to; needed to swap sides of points and to place a grid without bounds.
    """

    layout: str | None = None
    values: str | None = None
    unit: str | None = None
    flip_y: bool = False
    flip_x: bool = False
    serpentine: bool = False
    columns: int | None = None
    bounds: tuple[float, float, float, float] | None = None
    bed: Bed | None = None


@dataclass(frozen=True)
class ReadResult:
    """A survey and what was taken for granted in reading it.

    Attributes
    ----------
    survey : Survey
    layout : {"points", "grid", "indices", "list"}
    columns, rows : int or None
        Size of the grid.
    values : {"height", "gap"}
    unit : {"mm", "um"}
    bounds : tuple of float or None
    assumptions : tuple of str
        Sentences.
    problems : tuple of Problem
    unread : int
        How many lines could not be read, also those beyond ``MAX_PROBLEMS``.
    serpentine : bool
        Whether every second row was turned around.
    """

    survey: Survey
    layout: str
    columns: int | None
    rows: int | None
    values: str
    unit: str
    bounds: tuple[float, float, float, float] | None
    assumptions: tuple[str, ...]
    problems: tuple[Problem, ...]
    unread: int
    serpentine: bool = False


class UnreadableTextError(CoreError):
    """No readings in a text; its ``problems`` are a tuple of `Problem`."""

    def __init__(self, code: str, problems: tuple[Problem, ...] = (), **values: object) -> None:
        super().__init__(code, **values)
        self.problems = problems
