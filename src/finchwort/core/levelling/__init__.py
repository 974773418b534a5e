"""Where no knob helps: foil under pads, tape, the cross beam, and what stays of the shape."""

from finchwort.core.levelling.beam import Skew, assess_beam, beam_span
from finchwort.core.levelling.foils import (
    MAX_COUNT,
    MAX_PADS,
    Foil,
    check_foils,
    check_stacks,
    count_drawer,
    measure_foil,
    piece_in_words,
)
from finchwort.core.levelling.gantry import (
    CARRIES,
    TURNS,
    BeamPlan,
    how_far,
    learn_carries,
    plan_beam,
    plan_row,
)
from finchwort.core.levelling.kinds import (
    AdjustmentKind,
    Means,
    MiddleShape,
    ResidualRemedy,
    SkewState,
    SpotKind,
)
from finchwort.core.levelling.lower_middle import lower_by, why_not_lower
from finchwort.core.levelling.pads import Pad, pad_response
from finchwort.core.levelling.residual import Remedy, glass_on_top, remedies
from finchwort.core.levelling.shims import FOIL_PRICE, GAP, ShimPlan, plan_shims
from finchwort.core.levelling.tape import TAPE, TapePlan, plan_tape

__all__ = [
    "CARRIES",
    "FOIL_PRICE",
    "GAP",
    "MAX_COUNT",
    "MAX_PADS",
    "TAPE",
    "TURNS",
    "AdjustmentKind",
    "BeamPlan",
    "Foil",
    "Means",
    "MiddleShape",
    "Pad",
    "Remedy",
    "ResidualRemedy",
    "ShimPlan",
    "Skew",
    "SkewState",
    "SpotKind",
    "TapePlan",
    "assess_beam",
    "beam_span",
    "check_foils",
    "check_stacks",
    "count_drawer",
    "glass_on_top",
    "how_far",
    "learn_carries",
    "lower_by",
    "measure_foil",
    "pad_response",
    "piece_in_words",
    "plan_beam",
    "plan_row",
    "plan_shims",
    "plan_tape",
    "remedies",
    "why_not_lower",
]
