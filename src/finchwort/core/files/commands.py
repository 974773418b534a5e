"""Commands of a file beside its moves, and what its remarks say of lines."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np

from finchwort.core.base.geometry import Column, Indices
from finchwort.core.files.kinds import ROLES, LineRole, Told


@dataclass(frozen=True)
class Command:
    """One command.

    Attributes
    ----------
    what : Told
    line : int
        Of the file, counted from 1.
    value : float
        °C, per cent or mm; not a number where none was given.
    text : str
        As it stands there, shortened.
    """

    what: Told
    line: int
    value: float = float("nan")
    text: str = ""


@dataclass(frozen=True)
class Hints:
    """What remarks say: from a line on, or of that line alone.

    Attributes
    ----------
    roles, names : tuple of (line, value)
        From that line on; an empty name ends the one before.
    single : mapping
        Line to role, where a remark stands behind a move.
    """

    roles: Sequence[tuple[int, LineRole | None]] = ()
    names: Sequence[tuple[int, str]] = ()
    single: dict[int, LineRole] = field(default_factory=dict)

    def name_at(self, line: int) -> str:
        """Name that holds at a line; empty when there is none."""
        at = bisect_right(self.names, line, key=lambda one: one[0])
        return self.names[at - 1][1] if at else ""

    def roles_at(self, lines: Indices) -> Column:
        """Place among ``ROLES`` of the role that holds at each line, shape (n,); -1 where none is named."""
        begins = np.array([line for line, _ in self.roles], dtype=np.intp)
        values = np.array([-1, *(_place(role) for _, role in self.roles)], dtype=np.int8)
        found: Column = values[np.searchsorted(begins, lines, side="right")]
        if self.single:
            order = np.argsort(lines, kind="stable")
            alone = np.fromiter(self.single, dtype=np.intp)
            named = np.array([_place(role) for role in self.single.values()], dtype=np.int8)
            begin, end = (np.searchsorted(lines, alone, side, order) for side in ("left", "right"))
            for i in np.flatnonzero(end > begin).tolist():
                found[order[begin[i] : end[i]]] = named[i]
        return found


def _place(role: LineRole | None) -> int:
    return -1 if role is None else ROLES.index(role)


def in_force(commands: Iterable[Command], whats: Sequence[Told], lines: Indices, before: float) -> Column:
    """Value that commands have set at each line.

    Parameters
    ----------
    commands : iterable of Command
        In the order of the file.
    whats : sequence of Told
    lines : ndarray of int, shape (n,)
    before : float
        Until the first of them.

    Returns
    -------
    ndarray, shape (n,)

    Examples
    --------
    >>> told = [Command(Told.BED, 2, 60.0), Command(Told.BED, 9, 50.0)]
    >>> in_force(told, [Told.BED], np.array([1, 5, 9]), 0.0).tolist()
    [0.0, 60.0, 50.0]
    """
    chosen = [one for one in commands if one.what in whats and np.isfinite(one.value)]
    begins = np.array([one.line for one in chosen], dtype=np.intp)
    values = np.array([before, *(one.value for one in chosen)])
    return values[np.searchsorted(begins, lines, side="right")]
