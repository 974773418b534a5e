"""The trade's data, read from TOML and checked when loaded."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files


@dataclass(frozen=True)
class Thread:
    """A metric thread.

    Attributes
    ----------
    name : str
    pitch : float
        Travel per turn, mm.
    """

    name: str
    pitch: float


@cache
def threads() -> tuple[Thread, ...]:
    """Metric coarse threads that bed screws have.

    References
    ----------
    ISO 261, coarse pitch.

    Examples
    --------
    >>> {t.name: t.pitch for t in threads()}["M4"]
    0.7
    """
    data = tomllib.loads(files(__package__).joinpath("threads.toml").read_text("utf-8"))
    found = tuple(Thread(str(row["name"]), float(row["pitch"])) for row in data["thread"])
    for thread in found:
        if not 0.1 <= thread.pitch <= 10:
            raise ValueError(f"knowledge/threads.toml: {thread.name} has an impossible pitch")
    if len({t.name for t in found}) < len(found):
        raise ValueError("knowledge/threads.toml: a thread stands there twice")
    return found
