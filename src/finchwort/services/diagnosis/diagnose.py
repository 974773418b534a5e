"""The only road to a diagnosis: what is known of a case, weighed by what this workshop believes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError
from finchwort.core.diagnosis import (
    Cause,
    Diagnosis,
    Finding,
    Known,
    Model,
    Proposal,
    Wanted,
    diagnose,
    gather,
    number_remedy,
    rank_causes,
)
from finchwort.knowledge import beliefs
from finchwort.services.diagnosis.evidence import known_of
from finchwort.services.diagnosis.prior import believed, model_for
from finchwort.store.diagnosis.cases import checks_of, closed_as, findings_of, tried_of
from finchwort.store.diagnosis.models import Trouble
from finchwort.store.models import Printer


@dataclass(frozen=True, eq=False)
class Diagnosed:
    """A case with what it comes to.

    Attributes
    ----------
    diagnosis : Diagnosis
    known : Known
        What surveys, tests, offset, mesh and table say of it.
    measured : tuple of Finding
        The same as findings, those too that the person's own answers go before.
    proposals : tuple of Proposal
        The next checks, the one that tells most for its minutes first.
    """

    diagnosis: Diagnosis
    known: Known
    measured: tuple[Finding, ...]
    proposals: tuple[Proposal, ...]


def diagnose_case(session: Session, case: Trouble) -> Diagnosed:
    """Rank the causes of a case and weigh its next checks."""
    model = model_for(session, case.printer, case.circumstances)
    known = known_of(session, case)
    measured = tuple(gather(known))
    diagnosis, proposals = diagnose(
        _findings(case, measured),
        model,
        done=checks_of(case),
        tried=tried_of(case),
        has=features_of(case.printer),
    )
    return Diagnosed(diagnosis, known, measured, proposals)


def diagnose_cases(session: Session, cases: Sequence[Trouble]) -> dict[int, Diagnosis]:
    """Rank the causes of those cases that are open, by their ids; what they share is worked out once."""
    causes: tuple[Cause, ...] | None = None
    models: dict[tuple[int, tuple[str, ...]], Model] = {}
    results = {}
    for case in cases:
        if closed_as(case):
            continue
        causes = causes or believed(session)[0]
        like = case.printer_id, tuple(sorted(case.circumstances))
        if like not in models:
            models[like] = model_for(session, case.printer, case.circumstances, causes)
        findings = _findings(case, tuple(gather(known_of(session, case))))
        results[case.id] = rank_causes(models[like], findings, checks_of(case), tried_of(case))
    return results


def remedy_for(case: Diagnosed, cause: str) -> Wanted:
    """Give the remedy of a cause with the numbers of this printer.

    Raises
    ------
    ChoiceError
    """
    if all(item.key != cause for item in beliefs().causes):
        raise ChoiceError("diagnosis.no_cause_called_2", cause=cause)
    return number_remedy(beliefs().numbers.get(cause, ""), case.known)


def features_of(printer: Printer) -> tuple[str, ...]:
    """Name what a printer has, for the checks that need it."""
    has = {
        "probe": printer.probe_kind != "none",
        "screws": bool(printer.screws),
        "beam": bool(printer.beam_screws),
        "compensation": printer.compensation != "none",
    }
    return tuple(name for name, there in has.items() if there)


def _findings(case: Trouble, measured: Sequence[Finding]) -> list[Finding]:
    """What the person looked at counts before what was measured of the same sign."""
    seen = findings_of(case)
    asked = {finding.sign for finding in seen}
    return [*seen, *(finding for finding in measured if finding.sign not in asked)]
