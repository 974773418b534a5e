"""Which screw to turn, which way and how far; how a bed answers its knobs, and what a round of turning did."""

from finchwort.core.printers import Screw, check_screws
from finchwort.core.tramming.assessment import Outlook, look_ahead
from finchwort.core.tramming.bench import BENDS, CORNER_SURE, Bench, Done, Now, bench_of, follow
from finchwort.core.tramming.bending import Bends, Twisting, learn_bends
from finchwort.core.tramming.kinds import (
    BenchAsk,
    BenchPhase,
    BenchStepKind,
    Decision,
    TurnAction,
    TurnReason,
)
from finchwort.core.tramming.operator import Hand, learn_hand
from finchwort.core.tramming.order import Order, turning_order
from finchwort.core.tramming.plan import Plan, Turn, after_turns, change_of, margin_of_centre, plan_turns
from finchwort.core.tramming.response import (
    GAIN_SD,
    LOST_MEAN,
    MAX_MOVES,
    Move,
    Response,
    change_of_tilt,
    learn,
    make_move,
    prior_response,
    stack,
)
from finchwort.core.tramming.rounds import RoundReview, review_round
from finchwort.core.tramming.screws import HAND_SD, plane_change, plate_response, predict, twist_at
from finchwort.core.tramming.slipping import PRIOR, SLIPS, UNSTEADY, Slipping, find_slipping

__all__ = [
    "BENDS",
    "CORNER_SURE",
    "GAIN_SD",
    "HAND_SD",
    "LOST_MEAN",
    "MAX_MOVES",
    "PRIOR",
    "SLIPS",
    "UNSTEADY",
    "Bench",
    "BenchAsk",
    "BenchPhase",
    "BenchStepKind",
    "Bends",
    "Decision",
    "Done",
    "Hand",
    "Move",
    "Now",
    "Order",
    "Outlook",
    "Plan",
    "Response",
    "RoundReview",
    "Screw",
    "Slipping",
    "Turn",
    "TurnAction",
    "TurnReason",
    "Twisting",
    "after_turns",
    "bench_of",
    "change_of",
    "change_of_tilt",
    "check_screws",
    "find_slipping",
    "follow",
    "learn",
    "learn_bends",
    "learn_hand",
    "look_ahead",
    "make_move",
    "margin_of_centre",
    "plan_turns",
    "plane_change",
    "plate_response",
    "predict",
    "prior_response",
    "review_round",
    "stack",
    "turning_order",
    "twist_at",
]
