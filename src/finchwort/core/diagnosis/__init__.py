"""Why a first layer does not stick: causes, evidence, the next check, and what to do."""

from finchwort.core.diagnosis.actions import Wanted, conclude, number_remedy
from finchwort.core.diagnosis.check_selection import (
    Proposal,
    entropy,
    next_step,
    propose_checks,
    repair_order,
)
from finchwort.core.diagnosis.compatibility import NEEDS, Material, Pair, Suit, Surface, suit
from finchwort.core.diagnosis.evidence import MIN_DOUBT, Known, beyond, gather, soft
from finchwort.core.diagnosis.inference import BOTH, Model
from finchwort.core.diagnosis.kinds import (
    AdviceLevel,
    Answer,
    CaseStep,
    Corners,
    NextMove,
    Strength,
    Suitability,
)
from finchwort.core.diagnosis.model import CLEAR, SHARES, Cause, Check, Finding, Outcome, Sign, no, yes
from finchwort.core.diagnosis.part_check import advise_brim, check_settings, cost_of
from finchwort.core.diagnosis.prior_update import NOTHING, TABLE_CASES, Counts, add_counts, learn
from finchwort.core.diagnosis.ranking import Diagnosis, Ranked, Reason, diagnose, rank_causes

__all__ = [
    "BOTH",
    "CLEAR",
    "MIN_DOUBT",
    "NEEDS",
    "NOTHING",
    "SHARES",
    "TABLE_CASES",
    "AdviceLevel",
    "Answer",
    "CaseStep",
    "Cause",
    "Check",
    "Corners",
    "Counts",
    "Diagnosis",
    "Finding",
    "Known",
    "Material",
    "Model",
    "NextMove",
    "Outcome",
    "Pair",
    "Proposal",
    "Ranked",
    "Reason",
    "Sign",
    "Strength",
    "Suit",
    "Suitability",
    "Surface",
    "Wanted",
    "add_counts",
    "advise_brim",
    "beyond",
    "check_settings",
    "conclude",
    "cost_of",
    "diagnose",
    "entropy",
    "gather",
    "learn",
    "next_step",
    "no",
    "number_remedy",
    "propose_checks",
    "rank_causes",
    "repair_order",
    "soft",
    "suit",
    "yes",
]
