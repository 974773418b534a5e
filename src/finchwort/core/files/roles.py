"""What the lines of a first layer are for, and whose they are."""

from __future__ import annotations

import numpy as np
from scipy import ndimage
from scipy.spatial import cKDTree

from finchwort.core.base.geometry import Column, Indices
from finchwort.core.files.commands import Hints
from finchwort.core.files.gathering import Level
from finchwort.core.files.kinds import ROLES, LineRole
from finchwort.core.files.squares import Grid, along, drawn

NEAR_BODY = 0.65
"""Lines within so many line widths of the layer above belong to the body, not to a brim (ours)."""
CLOSED = 1.2
"""A path whose ends lie within so many line widths is closed (ours)."""
BROAD = 2.0
"""Without a layer above, what is broader than so many lines is a part (ours)."""
NAMED = tuple(ROLES.index(one) for one in (LineRole.WALL, LineRole.FILL, LineRole.SUPPORT, LineRole.BRIM))


def components(grid: Grid, first: Level, usual: float) -> Column:
    """What hangs together: lines up to one and a half widths apart do."""
    return ndimage.label(drawn(grid, first.start, first.end, 0.75 * usual), structure=np.ones((3, 3)))[0]


def bodies(
    grid: Grid, first: Level, above: Level | None, component: Column, usual: float
) -> tuple[Column, Column]:
    """Squares below the layer above, holes filled, and their number part by part."""
    if above is not None:
        body = ~_outside(drawn(grid, above.start, above.end, NEAR_BODY * usual))
        label, many = ndimage.label(body, structure=np.ones((3, 3)))
        # only what stands on the first layer
        on = np.bincount(label[component > 0], minlength=many + 1)
        all_of = np.bincount(label.ravel(), minlength=many + 1)
        standing = on > 0.2 * all_of
        standing[0] = False
        if standing.any():
            label[~standing[label]] = 0
            return label > 0, label
    # one layer only: what is broad is a part
    inside = ndimage.distance_transform_edt(component > 0, sampling=grid.cell)
    many = int(component.max())
    thick = np.zeros(many + 1)
    np.maximum.at(thick, component.ravel(), inside.ravel())
    broad = thick > BROAD * usual
    if not broad[1:].any():
        broad[1:] = True
    broad[0] = False
    label = np.where(broad[component], component, 0)
    return label > 0, label


def _outside(body: Column) -> Column:
    """Squares from which the rim can be reached without crossing the body."""
    open_, _ = ndimage.label(~body)
    rim = np.unique(np.concatenate([open_[0], open_[-1], open_[:, 0], open_[:, -1]]))
    return np.isin(open_, rim[rim > 0])


def sort_out(
    first: Level,
    grid: Grid,
    component: Column,
    body: Column,
    label: Column,
    usual: float,
    hints: Hints,
) -> tuple[Column, Indices]:
    """LineRole and owner of every line; owners are numbers of bodies, -1 for none."""
    which, place = along(first, max(2 * grid.cell, usual / 2))
    row, column = grid.at(place)
    many = len(first.line)
    samples = np.bincount(which, minlength=many)
    covered = np.bincount(which, weights=body[row, column], minlength=many) / samples
    length = first.length
    paths, path = np.unique(first.path, return_inverse=True)
    share = _of_path(path, len(paths), covered * length) / np.maximum(
        _of_path(path, len(paths), length), 1e-9
    )
    middle = (first.start + first.end) / 2
    row, column = grid.at(middle)
    nearest = label[row, column]
    beside, within = np.flatnonzero(nearest == 0), np.flatnonzero(nearest > 0)
    if beside.size and within.size:
        _, at = cKDTree(middle[within]).query(middle[beside])
        nearest[beside] = nearest[within[at]]
    own = component[row, column]
    holding = np.zeros(int(component.max()) + 1, dtype=bool)
    holding[np.unique(component[label > 0])] = True
    holding[0] = False
    closed = _closed(first, path, len(paths), usual)
    on_body = share[path] >= 0.5
    with_body = holding[own]
    roles = np.full(many, ROLES.index(LineRole.PURGE), dtype=np.int8)
    # what goes round a body is a skirt, wherever it begins and ends; a purge line lies beside
    round_ = _going_round(own, with_body, first, grid, body)
    roles[round_[own]] = ROLES.index(LineRole.SKIRT)
    roles[with_body] = ROLES.index(LineRole.BRIM)
    roles[on_body] = np.where(closed[path[on_body]], ROLES.index(LineRole.WALL), ROLES.index(LineRole.FILL))
    owner = np.where(on_body | with_body, nearest, -1).astype(np.intp)
    # remarks name what lies on a body; whether a line holds to one is seen from where it lies
    said = hints.roles_at(first.line)
    named = on_body & np.isin(said, NAMED)
    roles[named] = said[named]
    return roles, owner


def _going_round(own: Indices, with_body: Column, first: Level, grid: Grid, body: Column) -> Column:
    """Which of what hangs together, without a body of its own, has a body within its bounds."""
    many = int(own.max(initial=0)) + 1
    bounds = np.tile([np.inf, np.inf, -np.inf, -np.inf], (many, 1))
    for ends in (first.start, first.end):
        for axis in (0, 1):
            np.minimum.at(bounds[:, axis], own, ends[:, axis])
            np.maximum.at(bounds[:, axis + 2], own, ends[:, axis])
    found = np.zeros(many, dtype=bool)
    for number in np.unique(own[~with_body]).tolist():
        rows, columns = grid.at(bounds[number].reshape(2, 2))
        found[number] = bool(body[rows[0] : rows[1] + 1, columns[0] : columns[1] + 1].any())
    return found


def _of_path(path: Indices, many: int, values: Column) -> Column:
    return np.bincount(path, weights=values, minlength=many)


def _closed(first: Level, path: Indices, many: int, usual: float) -> Column:
    """Which paths end where they began."""
    head = np.full(many, len(path), dtype=np.intp)
    np.minimum.at(head, path, np.arange(len(path)))
    tail = np.zeros(many, dtype=np.intp)
    np.maximum.at(tail, path, np.arange(len(path)))
    apart = np.hypot(*(first.end[tail] - first.start[head]).T)
    return (apart <= CLOSED * usual) & (_of_path(path, many, first.length) > 4 * usual)
