"""Closed sets of visits, each value once."""

from __future__ import annotations

from enum import StrEnum


class StepName(StrEnum):
    """A step of a visit."""

    SOUND = "sound"
    WARM = "warm"
    TRUST = "trust"
    MEASURE = "measure"
    JUDGE = "judge"
    LEVEL = "level"
    COMPENSATE = "compensate"
    OFFSET = "offset"
    FIRST_LAYER = "first-layer"
    FINISH = "finish"


class StepState(StrEnum):
    """Where a step stands."""

    TO_DO = "to_do"
    DOING = "doing"
    DONE = "done"
    SKIPPED = "skipped"
    OUT_OF_DATE = "out_of_date"


class StandingState(StrEnum):
    """Whether what was known still holds."""

    HOLDS = "holds"
    DOUBTFUL = "doubtful"
    GONE = "gone"


class Thing(StrEnum):
    """What is known of a printer, and may be put in doubt."""

    SURVEY = "survey"
    PLAN = "plan"
    FORECAST = "forecast"
    MESH = "mesh"
    OFFSET = "offset"
    DISCS = "discs"
    LADDER = "ladder"
    TOUCHES = "touches"
    KNOBS = "knobs"


class EntryKind(StrEnum):
    """What a line of the logbook is about."""

    PRINTER = "printer"
    SURVEY = "survey"
    TURNING = "turning"
    VERDICT = "verdict"
    NOTE = "note"
    FINDING = "finding"
    TEST = "test"
    JOB = "job"
    ADJUSTMENT = "adjustment"
    OFFSET = "offset"
    CHANGE = "change"
    CASE = "case"
    PRINT = "print"


class MachineEvent(StrEnum):
    """What may have happened to a machine."""

    PLATE = "plate"
    LIFTED = "lifted"
    PRIED = "pried"
    KNOBS = "knobs"
    FOIL = "foil"
    SPRINGS = "springs"
    BEAM = "beam"
    NOZZLE = "nozzle"
    PROBE = "probe"
    BELTS = "belts"
    FIRMWARE = "firmware"
    MOVED = "moved"
    CRASH = "crash"
    MATERIAL = "material"
    OFFSET = "offset"
    MESH = "mesh"
    STEPS = "steps"
    CLEAR = "clear"


class DueKind(StrEnum):
    """What may be due at a printer, the most pressing first."""

    LOOK = "look"
    OUTCOME = "outcome"
    EXPERIMENT = "experiment"
    AFTER = "after"
    MEASURE = "measure"
    OFFSET = "offset"
    MESH = "mesh"
    CASE = "case"
    COAT = "coat"
    WASH = "wash"
    LEVEL = "level"
    NOZZLE = "nozzle"
    VISIT = "visit"
