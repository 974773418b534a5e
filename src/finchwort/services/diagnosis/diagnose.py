"""The only road to a diagnosis: what is known of a case, weighed by what this workshop believes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError
from finchwort.core.base.wording import millimetres, turn_in_figures
from finchwort.core.diagnosis import (
    Cause,
    Diagnosis,
    Finding,
    Known,
    Model,
    Move,
    Proposal,
    Wanted,
    advise_brim,
    diagnose,
    gather,
    number_remedy,
    propose_checks,
    raised,
    rank_causes,
    telling_signs,
)
from finchwort.core.first_layer import KEPT_IN, Bead
from finchwort.knowledge import beliefs
from finchwort.services.diagnosis.evidence import known_of
from finchwort.services.diagnosis.prior import believed, model_for
from finchwort.services.first_layer.offsets import refuse_contact
from finchwort.services.tramming.planning import plan_for
from finchwort.services.visits.standing import known_survey
from finchwort.store.diagnosis.cases import (
    checks_of,
    closed_as,
    dealt_with,
    findings_of,
    setup_of,
    tried_of,
)
from finchwort.store.diagnosis.models import Trouble
from finchwort.store.first_layer.offsets import BY_HAND, ledger_of, newest_offset
from finchwort.store.models import Printer, Visit
from finchwort.store.surveys.surveys import newest_surveys
from finchwort.store.visits.standing import newest_visit

THINNEST = 0.05
"""Steps on a doubt leave at least so much of the first layer, mm (ours)."""


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
        The next checks, the one that saves most minutes first.
    move : Move
        What to do next.
    telling : tuple of str
        Signs not answered yet that tell most.
    more : tuple of Proposal
        Checks that are not worth proposing, for somebody who has looked all the same.
    """

    diagnosis: Diagnosis
    known: Known
    measured: tuple[Finding, ...]
    proposals: tuple[Proposal, ...]
    move: Move
    telling: tuple[str, ...]
    more: tuple[Proposal, ...]


def diagnose_case(session: Session, case: Trouble) -> Diagnosed:
    """Rank the causes of a case and weigh its next checks."""
    model = model_for(session, case.printer, case.circumstances)
    known = known_of(session, case)
    measured = tuple(gather(known))
    findings = _findings(case, measured)
    alarm = raised(findings)
    diagnosis, proposals = diagnose(
        findings,
        model,
        done=checks_of(case),
        tried=tried_of(case),
        has=features_of(case.printer),
        dealt_with=alarm is not None and dealt_with(case, alarm),
    )
    if diagnosis.move is None:
        raise AssertionError("a diagnosis with its checks says what to do next")
    told = {finding.sign for finding in findings if finding.told is not None}
    posterior = model.posterior(findings, checks_of(case), tried_of(case))
    telling = telling_signs(model, posterior, told)
    every = propose_checks(
        model,
        posterior,
        done={key for key, _ in checks_of(case)},
        has=features_of(case.printer),
        told=told,
        tried=tried_of(case),
        alarm=alarm,
        every=True,
    )
    proposed = {offer.check.key for offer in proposals}
    more = tuple(offer for offer in every if offer.check.key not in proposed)
    return Diagnosed(diagnosis, known, measured, proposals, diagnosis.move, telling, more)


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


def remedy_for(session: Session, case: Trouble, found: Diagnosed, cause: str) -> Wanted:
    """Give the remedy of a cause with the numbers of this printer.

    Raises
    ------
    ChoiceError
    """
    known = {item.key: item for item in beliefs().causes}
    if cause not in known:
        raise ChoiceError("diagnosis.no_cause_called_2", cause=cause)
    part = found.known.part
    brim = advise_brim(*part, material=setup_of(case).get("material") or "") if part else None
    alarm = found.diagnosis.alarm is not None
    wanted = number_remedy(known[cause].number, found.known, brim, alarm=alarm)
    if known[cause].number == "turns":
        return replace(wanted, after=turns_of(session, case.printer) or wanted.after)
    if wanted.closer is None:
        return wanted
    steps = sum(key == cause for key, _ in tried_of(case))
    book = next_offset(session, case.printer, wanted.closer)
    if book is None and steps:
        # nobody wrote down that the tip was moved: what the patches said of it is spent
        blind = replace(found.known, offset_error=None)
        wanted = number_remedy(known[cause].number, blind, brim, alarm=alarm)
    touching = _touching(session, case, found.known, wanted.closer, steps)
    if touching:
        return replace(wanted, after="not yet: level first", prediction=touching, closer=None)
    if book is None:
        return wanted
    place, before, after = book
    return replace(
        wanted,
        before=f"{millimetres(before, signed=True)} in {KEPT_IN[place]}",
        after=f"type {millimetres(after, signed=True)} ({wanted.after})",
    )


def _touching(session: Session, case: Trouble, known: Known, closer: float | None, steps: int) -> str | None:
    """Say so when the tip would touch the highest place after a step, were the offset right to begin with.

    What patches measured is no doubt, and neither is a way that leads away from the plate.
    """
    if closer is None or closer <= 0:
        return None
    measured = known.offset_error is not None and known.offset_error >= closer
    layer = known.first_layer if measured else known.first_layer - (steps + 1) * closer
    if layer < THINNEST:
        return "So many steps closer leave no room for a first layer. Find the offset again with paper."
    visit = session.get(Visit, case.visit_id) if case.visit_id else newest_visit(session, case.printer_id)
    return refuse_contact(session, visit, Bead(max(0.42, 1.2 * known.first_layer), layer))


def turns_of(session: Session, printer: Printer) -> str:
    """Say what the plan of the newest survey turns, a knob after the other; empty where there is no such plan."""
    newest = newest_surveys(session, printer.id, 1, known=True)
    if not newest or not printer.screws or known_survey(session, printer, newest[0]).gone:
        return ""
    turns = [turn for turn in plan_for(session, newest[0]).turns if not turn.leave]
    return ", ".join(
        f"{turn.screw.name} {'tighter' if turn.rounded > 0 else 'looser'} by "
        f"{turn_in_figures(turn.rounded, turn.screw.divisions)}"
        for turn in turns
    )


def next_offset(session: Session, printer: Printer, closer: float) -> tuple[str, float, float] | None:
    """Say where an offset is trimmed, what stands there and what is typed instead, mm; None where no number is kept."""
    newest = newest_offset(session, printer.id)
    if newest is None or newest.reason in BY_HAND or newest.closer_is != printer.closer_is:
        return None
    place = "printer" if "printer" in newest.parts else next(iter(newest.parts))
    before = float(newest.parts[place])
    after = ledger_of(newest, printer).moved(place, closer)
    return place, before, round(after, 4)


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
