"""What can be asked of a machine, by one word each."""

from __future__ import annotations

from enum import StrEnum


class JobKind(StrEnum):
    """A kind of job; its title is how it is called on the screens and in the logbook."""

    title: str  # type: ignore[assignment]

    def __new__(cls, word: str, title: str = "") -> JobKind:
        """Make a kind from its word and its title."""
        kind = str.__new__(cls, word)
        kind._value_, kind.title = word, title
        return kind

    CONNECT = "connect", "Connect"
    TEMPERATURES = "temperatures", "Read the temperatures"
    HOME = "home", "Home"
    HEAT = "heat", "Heat and wait"
    COOL = "cool", "Heaters off"
    PARK = "park", "Park over a place"
    SWITCHES = "switches", "Read the switches"
    WATCH = "watch", "Watch the switches"
    PROBE_OUT = "probe_out", "Put the probe out"
    PROBE_IN = "probe_in", "Take the probe in"
    PROBE_TEST = "probe_test", "Self-test of the probe"
    REPEATABILITY = "repeatability", "Touch one place again and again"
    SOAK = "soak", "Watch one place warm through"
    GRID = "grid", "Probe the bed"
    READ_OFFSET = "read_offset", "Read the Z offset"
    OFFSET = "offset", "Set the Z offset"
    TRIM = "trim", "Trim the tip"


class JobState(StrEnum):
    """Where a job stands."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    STOPPED = "stopped"
    INTERRUPTED = "interrupted"
    NOT_BEGUN = "not_begun"


UNDER_WAY = (JobState.WAITING, JobState.RUNNING)
BROKEN = (JobState.FAILED, JobState.STOPPED, JobState.INTERRUPTED)
OVER = (JobState.DONE, *BROKEN, JobState.NOT_BEGUN)
