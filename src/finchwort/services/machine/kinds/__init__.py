"""The kinds of job there are: each is one class, with its parameters, what it says and what it does.

A new kind is a member of `finchwort.store.machine.kinds.JobKind`, a class here, and what it may be asked with in
`finchwort.web.schemas.machine`; a test of the house asks for all three.
"""

from __future__ import annotations

from finchwort.services.machine.kinds.base import Asked, JobType, Known, Stands
from finchwort.services.machine.kinds.heat import Heat
from finchwort.services.machine.kinds.offset import ReadOffset, SetOffset, Trim
from finchwort.services.machine.kinds.plain import Connect, Cool, Home, Temperatures
from finchwort.services.machine.kinds.switches import ProbeIn, ProbeOut, ProbeTest, Switches, Watch
from finchwort.services.machine.kinds.walks import Grid, Park, Repeatability, Soak
from finchwort.store.machine.kinds import JobKind

JOBS: dict[JobKind, type[JobType]] = {
    job.kind: job
    for job in (
        Connect,
        Temperatures,
        Home,
        Heat,
        Cool,
        Park,
        Switches,
        Watch,
        ProbeOut,
        ProbeIn,
        ProbeTest,
        Repeatability,
        Soak,
        Grid,
        ReadOffset,
        SetOffset,
        Trim,
    )
}

__all__ = ["JOBS", "Asked", "Grid", "JobKind", "JobType", "Known", "Stands"]
