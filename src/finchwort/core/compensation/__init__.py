"""The mesh a machine follows: what it takes out, what it leaves, how it fades, and how fine it has to be."""

from finchwort.core.compensation.fade import Fade, advised_fade, fade_out
from finchwort.core.compensation.grid_advice import (
    HAND_SECONDS,
    MIN_KNOWN,
    advise_grid,
    mesh_errors,
    seconds_left,
    survey_minutes,
)
from finchwort.core.compensation.kinds import (
    Interpolation,
)
from finchwort.core.compensation.left_over import MeshLeft, left_between, left_by_mesh
from finchwort.core.compensation.mesh import (
    MAX_SIDE,
    METHODS,
    MIN_SIDE,
    ORDER,
    MeanOnly,
    Mesh,
    compensate,
    compensate_relief,
    interpolate,
    judge_method,
    make_mesh,
    mean_only,
)

__all__ = [
    "HAND_SECONDS",
    "MAX_SIDE",
    "METHODS",
    "MIN_KNOWN",
    "MIN_SIDE",
    "ORDER",
    "Fade",
    "Interpolation",
    "MeanOnly",
    "Mesh",
    "MeshLeft",
    "advise_grid",
    "advised_fade",
    "compensate",
    "compensate_relief",
    "fade_out",
    "interpolate",
    "judge_method",
    "left_between",
    "left_by_mesh",
    "make_mesh",
    "mean_only",
    "mesh_errors",
    "seconds_left",
    "survey_minutes",
]
