"""What comes before every cause: the tip scrapes, it smells, the protection halted, nothing comes out and it clicks."""

from __future__ import annotations

from collections.abc import Iterable

from finchwort.core.diagnosis.kinds import Alarm
from finchwort.core.diagnosis.model import Finding

ALARMS: tuple[tuple[Alarm, frozenset[str]], ...] = (
    (Alarm.SMELL, frozenset({"smell"})),
    (Alarm.SCRAPING, frozenset({"scraping"})),
    (Alarm.HALTED, frozenset({"halted"})),
    (Alarm.HALTED, frozenset({"temp_drops"})),
    (Alarm.CLICKS, frozenset({"nothing_out", "clicks_first"})),
    (Alarm.CLICKS, frozenset({"nothing_out", "clicks_anywhere"})),
)
"""The gravest first, with the signs that raise it when all of them are told (common practice)."""


def raised(findings: Iterable[Finding]) -> Alarm | None:
    """Say which alarm is raised by what was told, whatever else was told beside it.

    Parameters
    ----------
    findings : iterable of Finding

    Returns
    -------
    Alarm or None

    Examples
    --------
    >>> from finchwort.core.diagnosis import no, yes
    >>> raised([yes("gaps"), yes("scraping"), no("see_through")])
    <Alarm.SCRAPING: 'scraping'>
    >>> raised([yes("nothing_out")]) is None
    True
    """
    told: dict[str, bool] = {}
    for finding in findings:
        told[finding.sign] = finding.told if finding.told is not None else finding.there > finding.absent
    seen = {sign for sign, there in told.items() if there}
    return next((alarm for alarm, signs in ALARMS if signs <= seen), None)
