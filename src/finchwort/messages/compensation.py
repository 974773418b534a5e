"""What is said of meshes and fade."""

from __future__ import annotations

ERRORS = {
    "compensation.columns_rows_mesh_grow": "Columns and rows of a mesh grow from one to the next.",
    "compensation.compensation_cannot_fade_out": "Compensation cannot fade out within the first layer.",
    "compensation.deviation_layer_fade_height": "Deviation, layer and fade height must be numbers.",
    "compensation.fade_height_never_mm": "A fade height is 0 (never) to 1000 mm.",
    "compensation.height_mesh_missing": "A height of the mesh is missing.",
    "compensation.machine_interpolates_mesh_bilinearly": (
        "A machine interpolates its mesh bilinearly or bicubically."
    ),
    "compensation.mesh_height_every_column": "A mesh has a height for every column of every row.",
    "compensation.mesh_points_side": "A mesh has {min_side} to {max_side} points a side.",
    "compensation.no_mesh_compensate": "There is no mesh to compensate with.",
}
"""What is said of input that cannot be used, by the code of its error."""
