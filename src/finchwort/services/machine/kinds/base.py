"""What all kinds of job have in common."""

from __future__ import annotations

import hashlib
import json
import math
from abc import ABC, abstractmethod
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, fields
from typing import Any, ClassVar, Self

from finchwort.core.base.errors import NonFiniteError
from finchwort.services.machine.port import Desk, MachinePort
from finchwort.store.errors import ConflictError
from finchwort.store.machine.kinds import JobKind
from finchwort.store.models import Printer

MOVES = "The head and the bed move by themselves: keep hands, hair and sleeves out, and a hand near the power switch."
STILL_HOT = "Heaters that are on stay on."


@dataclass(frozen=True)
class Stands:
    """What is known of the Z offset in a machine.

    Attributes
    ----------
    told : float or None
        As the machine said just now, mm.
    tells : bool or None
        Whether this kind of machine says it; None when it was not asked just now.
    written : float or None
        As it was written down, mm.
    """

    told: float | None = None
    tells: bool | None = None
    written: float | None = None


@dataclass(frozen=True)
class Known:
    """What is known beyond the wish when a job is asked for.

    Attributes
    ----------
    seconds : float or None
        This printer's pace, s a place.
    stands : Stands
        What is known of the offset in the machine.
    highest : float or None
        The highest ground there may be against Z = 0, mm; None when nobody knows.
    pressed : bool
        Whether the newest strip would not move: then nothing brings the tip closer.
    """

    seconds: float | None = None
    stands: Stands = field(default_factory=Stands)
    highest: float | None = None
    pressed: bool = False


@dataclass(frozen=True)
class Asked:
    """A job that could be begun.

    Attributes
    ----------
    job : JobType
        What will be done.
    sentence : str
        What will happen.
    cautions : tuple of str
    total : int
        Touches it will make; 0 when that is not known.
    moves, heats : bool
    minutes : float or None
    confirm : str or None
        What the person has to say was done, word for word, before this begins: the loudest that there is.
    """

    job: JobType
    sentence: str
    cautions: tuple[str, ...] = ()
    total: int = 0
    moves: bool = False
    heats: bool = False
    minutes: float | None = None
    confirm: str | None = None

    @property
    def kind(self) -> JobKind:
        """Return what kind of job it is."""
        return self.job.kind

    @property
    def params(self) -> dict[str, Any]:
        """Return what the one who does it needs to know, as it is stored."""
        return self.job.params

    @property
    def token(self) -> str:
        """Stands for this very sentence: what the person has read and agreed to."""
        text = "\n".join(
            (self.kind, self.sentence, *self.cautions, self.confirm or "", repr(sorted(self.params.items())))
        )
        return hashlib.sha256(text.encode()).hexdigest()[:24]


@dataclass(frozen=True)
class JobType(ABC):
    """One kind of job; an instance holds what one job of it needs to know, checked.

    Attributes
    ----------
    kind : JobKind
    homes : bool
        The machine finds its zero in it, and a probe that does not see the plate lets the tip run into it.
    walks : bool
        The head travels over the bed in it.
    steps : bool
        It takes one reading after the other, and can be stopped after the one under way.
    needs : tuple of str
        What of the machine it begins with, as far as something found bad speaks against it: home, probe, heat.
    keeps : int or None
        From so many touches on the readings of one that broke off make a survey or a test.
    """

    kind: ClassVar[JobKind]
    homes: ClassVar[bool] = False
    walks: ClassVar[bool] = False
    steps: ClassVar[bool] = False
    needs: ClassVar[tuple[str, ...]] = ()
    keeps: ClassVar[int | None] = None

    @classmethod
    @abstractmethod
    def ask(cls, printer: Printer, wish: Mapping[str, Any], known: Known) -> Asked:
        """Check what is wished and say what will happen.

        Raises
        ------
        CoreError, ConflictError
        """

    @abstractmethod
    def do(self, desk: Desk, machine: MachinePort) -> str:
        """Do it; return the closing sentence.

        Raises
        ------
        LineError, LimitError
            And what the desk raises when it is to end.
        """

    @property
    def params(self) -> dict[str, Any]:
        """Return what it needs to know, as it is stored."""
        stored: dict[str, Any] = json.loads(json.dumps(asdict(self)))
        return stored

    @classmethod
    def of(cls, params: Mapping[str, Any]) -> Self:
        """Return a job from what was stored of it; what an older Finchwort stored besides is left out."""
        return cls(**{f.name: params[f.name] for f in fields(cls) if f.name in params})


def number(wish: Mapping[str, Any], name: str) -> float:
    """Return a number of a wish.

    Raises
    ------
    NonFiniteError
    """
    value = wish.get(name)
    if value is None or not math.isfinite(value):
        raise NonFiniteError("machine.place_needs", name=name)
    return float(value)


def refuse_without_probe(printer: Printer) -> None:
    """Raise `ConflictError` for a printer that has nothing to touch its bed with."""
    if printer.probe_kind == "none":
        raise ConflictError(
            f"{printer.name} is set up without a probe. Say in its set-up what touches the bed."
        )


def home_first(desk: Desk, machine: MachinePort) -> None:
    """Home before a walk."""
    desk.tell("Homing.")
    machine.home()
    desk.between()
