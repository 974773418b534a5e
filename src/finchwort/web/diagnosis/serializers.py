"""Cases as they are shown: causes with reasons and remedies, the next check, what happened."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from finchwort.core.base.remarks import Remark
from finchwort.core.diagnosis import (
    CLEAR,
    Diagnosis,
    Finding,
    Proposal,
    Ranked,
    Reason,
    conclude,
    next_step,
)
from finchwort.knowledge import beliefs
from finchwort.services.diagnosis.diagnose import Diagnosed, remedy_for
from finchwort.store.diagnosis import cases as store
from finchwort.store.diagnosis.models import CaseEvent, Trouble
from finchwort.store.printers.printers import bed_of
from finchwort.web import schemas, serializers

STRONG, CLEARLY = 8.0, 3.5
"""From these factors on a reason speaks strongly, or clearly (ours)."""
SHOWN = 6
PAGES = {
    "offset_closer": "offset",
    "offset_farther": "offset",
    "offset_anew": "offset",
    "turns": "level",
    "bed_to_table": "table",
    "steps": "extrusion",
    "brim": "part",
}
"""Where a remedy is done or its numbers are found."""
ALONE = {"table": "Surfaces and materials", "part": "Check the part", "extrusion": "Extrusion sums"}
"""Pages of their own."""
STEPS = {
    "offset": "Z offset",
    "measure": "Measure",
    "trust": "Trust",
    "warm": "Warm up",
    "sound": "Sound",
    "level": "Level",
    "looks": "Corner by corner",
    "compensate": "Mesh",
}
"""Pages within a visit."""
RISKS = {1: "only looks", 2: "tries something", 3: "takes apart"}
PROPOSED = 12
NOTED = 0.62
"""What is known without being asked is shown when it says more than this for or against (ours)."""


def groups_out(answers: Mapping[str, str]) -> list[schemas.SignGroup]:
    """Give the signs that can be asked for, by their groups."""
    known = beliefs()
    return [
        schemas.SignGroup(
            key=key,
            name=name,
            signs=[
                schemas.SignOut.of(sign, answer=answers.get(sign.key, "unknown"))
                for sign in known.signs
                if sign.group == key and not sign.measured
            ],
        )
        for key, name in known.groups.items()
    ]


def lines_out(cases: Sequence[Trouble], diagnoses: Mapping[int, Diagnosis]) -> list[schemas.CaseLine]:
    """Give cases as lines of a list, with the likeliest cause of those that are open."""
    return [_line_out(case, diagnoses.get(case.id)) for case in cases]


def _line_out(case: Trouble, diagnosis: Diagnosis | None) -> schemas.CaseLine:
    end = store.closed_as(case)
    return schemas.CaseLine.of(
        case,
        printer=case.printer.name,
        cause=_name(end.key) if end else None,
        likeliest=diagnosis.ranked[0].cause.name if diagnosis else None,
    )


def case_out(case: Trouble, diagnosed: Diagnosed) -> schemas.CaseOut:
    """Give a case with all that belongs to it."""
    result, offers = diagnosed.diagnosis, diagnosed.proposals
    end = store.closed_as(case)
    under_way = store.open_remedies(case)
    names = {circumstance.key: circumstance.name for circumstance in beliefs().circumstances}
    return schemas.CaseOut.of(
        case,
        printer=case.printer.name,
        bed=serializers.bed_out(bed_of(case.printer)),
        place=None if case.x is None or case.y is None else schemas.XY(x=case.x, y=case.y),
        circumstances=[names[key] for key in case.circumstances if key in names],
        closed=_name(end.key) if end else None,
        closed_note=end.note if end else "",
        sentence=result.sentence,
        alike=list(result.alike),
        ranked=[_ranked(item, diagnosed, case) for item in result.ranked[:SHOWN]],
        next=next_step(result.ranked[0].probability, offers),
        proposals=[_proposal(offer, case) for offer in offers[:PROPOSED]],
        evidence=[
            schemas.EvidenceOut(words=item.source, there=item.there)
            for item in _once(diagnosed.measured)
            if max(item.there, item.absent) >= NOTED
        ],
        groups=groups_out(store.answers_of(case)),
        under_way=_under_way(under_way[0]) if under_way else None,
        concluded=_concluded(case),
        events=[_event(event) for event in reversed(store.events_of(case))],
    )


def _once(findings: Sequence[Finding]) -> list[Finding]:
    """Two signs that stand on one measurement are told once, by the surer."""
    best: dict[Remark | None, Finding] = {}
    for finding in findings:
        before = best.get(finding.source)
        if before is None or max(finding.there, 0.5) > max(before.there, 0.5):
            best[finding.source] = finding
    return list(best.values())


def _reason(reason: Reason) -> schemas.ReasonOut:
    size = max(reason.factor, 1 / max(reason.factor, 1e-9))
    strength = "strongly" if size >= STRONG else "clearly" if size >= CLEARLY else "somewhat"
    return schemas.ReasonOut(words=reason.words, factor=reason.factor, strength=strength)


def _where(page: str, case: Trouble) -> schemas.WhereOut | None:
    """Say where a page is for this case; steps of a visit only where there is one."""
    if page in ALONE:
        return schemas.WhereOut(name=ALONE[page], path=f"/{page}")
    if page in STEPS and case.visit_id is not None:
        return schemas.WhereOut(name=STEPS[page], path=f"/visits/{case.visit_id}/{page}")
    return None


def _ranked(ranked: Ranked, diagnosed: Diagnosed, case: Trouble) -> schemas.RankedOut:
    cause = ranked.cause
    wish = remedy_for(diagnosed, cause.key)
    return schemas.RankedOut.of(
        cause,
        probability=ranked.probability,
        speaks_for=[_reason(r) for r in ranked.speaks_for],
        against=[_reason(r) for r in ranked.against],
        page=_where(PAGES.get(beliefs().numbers.get(cause.key, ""), ""), case),
        wanted=schemas.WantedOut.of(wish),
    )


def _proposal(proposal: Proposal, case: Trouble) -> schemas.ProposalOut:
    check = proposal.check
    return schemas.ProposalOut.of(
        check,
        page=_where(check.page, case),
        risk_words=RISKS[check.risk],
        why=proposal.why,
        gain=proposal.gain,
        meanings=[schemas.MeaningOut.of(m, cause=_name(m.cause)) for m in proposal.meanings],
    )


def _name(key: str) -> str:
    return next((cause.name for cause in beliefs().causes if cause.key == key), "Cause not found")


def _under_way(event: CaseEvent) -> schemas.UnderWay:
    cause = next(cause for cause in beliefs().causes if cause.key == event.key)
    data = event.data
    return schemas.UnderWay.of(
        cause,
        id=event.id,
        key=event.key,
        wanted=schemas.WantedOut(**{k: data.get(k, "") for k in ("what", "before", "after", "prediction")}),
        others=data.get("others", []),
    )


def _concluded(case: Trouble) -> str:
    """What the newest experiment lets one conclude."""
    ended = [
        e for e in store.events_of(case) if e.kind == "remedy" and e.value in (store.BETTER, store.NOT_BETTER)
    ]
    if not ended:
        return ""
    last = ended[-1]
    return conclude(last.value == store.BETTER, _name(last.key), last.data.get("others", []))


def _event(event: CaseEvent) -> schemas.EventOut:
    known = beliefs()
    if event.kind == "sign":
        ask = next((s.ask for s in known.signs if s.key == event.key), event.key)
        words = {"yes": f"Seen: {ask}", "no": f"Not seen: {ask}"}.get(event.value, f"Not looked: {ask}")
    elif event.kind == "check":
        check = next(c for c in known.checks if c.key == event.key)
        came = (
            check.clear
            if event.value == CLEAR
            else next(o.words for o in check.outcomes if o.key == event.value)
        )
        words = f"{check.title}: {came}"
    elif event.kind == "remedy":
        how = {"open": "begun", "better": "better", "not_better": "no better"}[event.value]
        change = event.data.get("what", "")
        after = event.data.get("after", "")
        what = f" ({change.lower()} {after})" if change and after else ""
        also = f", together with {', '.join(event.data['others'])}" if event.data.get("others") else ""
        words = f"Remedy for “{_name(event.key).lower()}”{what}{also}: {how}"
    elif event.kind == "close":
        words = f"Closed: {_name(event.key).lower()}"
    else:
        words = "Opened again"
    return schemas.EventOut.of(event, words=words)
