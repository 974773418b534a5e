"""What is worth knowing about a print before it is started: findings with their place in the file."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

from finchwort.core.files.kinds import Weight
from finchwort.core.files.preflight_parts import part_findings
from finchwort.core.files.preflight_place import place_findings
from finchwort.core.files.preflight_settings import setting_findings
from finchwort.core.files.preflight_start import start_findings
from finchwort.core.files.print_file import PrintFile
from finchwort.core.files.target import Finding, Target

ORDER = (Weight.CHANGE, Weight.ASK, Weight.MIND, Weight.GOOD)


@dataclass(frozen=True)
class Preflight:
    """All findings of a print.

    Attributes
    ----------
    findings : tuple of Finding
        What has to be changed first; within a weight by their place in the file.
    """

    findings: tuple[Finding, ...] = field(default=())

    @property
    def worst(self) -> Weight:
        """The gravest weight there is."""
        return min((one.weight for one in self.findings), key=ORDER.index, default=Weight.GOOD)


def preflight(print_: PrintFile, target: Target) -> Preflight:
    """Look through a print.

    Parameters
    ----------
    print_ : PrintFile
    target : Target
        Where it is to be printed; what is not known is asked for, or not judged.

    Returns
    -------
    Preflight
    """

    def all_of() -> Iterator[Finding]:
        yield from place_findings(print_, target)
        yield from start_findings(print_, target)
        yield from setting_findings(print_, target)
        yield from part_findings(print_, target)

    found = sorted(all_of(), key=lambda one: (ORDER.index(one.weight), one.line or 0))
    return Preflight(tuple(found))
