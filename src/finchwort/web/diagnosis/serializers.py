"""Cases as they are shown: causes with reasons and remedies, the next check, what happened."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from finchwort.core.base.remarks import Remark
from finchwort.core.base.wording import counted, lower_first, millimetres
from finchwort.core.diagnosis import (
    ALARMS,
    CLEAR,
    WALKS,
    Alarm,
    Diagnosis,
    Finding,
    NextMove,
    Proposal,
    Ranked,
    Reason,
    conclude,
)
from finchwort.knowledge import beliefs, materials, schools
from finchwort.messages.diagnosis import ALARMS as ALARM_WORDS
from finchwort.services.diagnosis.diagnose import Diagnosed, remedy_for
from finchwort.store.diagnosis import cases as store
from finchwort.store.diagnosis.models import CaseEvent, Trouble
from finchwort.store.models import Printer
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
FROM_ABOVE = "Find the Z offset again with paper, from above. Do not trim it under a print."
"""Said in place of a trim once the tip has scraped or nothing came out."""
TWO_AT_ONCE = "Two things can be at work at once, so the chances add up to more than 100 %."
CAME = {"open": "begun", "better": "better", "little": "a little better", "not_better": "no better"}
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


def case_out(session: Session, case: Trouble, diagnosed: Diagnosed) -> schemas.CaseOut:
    """Give a case with all that belongs to it."""
    result, offers, move = diagnosed.diagnosis, diagnosed.proposals, diagnosed.move
    end = store.closed_as(case)
    under_way = store.open_remedies(case)
    alarm = _alarm(result.alarm, store.dealt_with(case, result.alarm)) if result.alarm else None
    names = {circumstance.key: circumstance.name for circumstance in beliefs().circumstances}
    return schemas.CaseOut.of(
        case,
        printer=case.printer.name,
        bed=serializers.bed_out(bed_of(case.printer)),
        place=None if case.x is None or case.y is None else schemas.XY(x=case.x, y=case.y),
        circumstances=[names[key] for key in case.circumstances if key in names],
        closed=_name(end.key) if end else None,
        closed_note=end.note if end else "",
        sentence=f"{alarm.title}. {result.sentence}" if alarm and not alarm.dealt_with else result.sentence,
        alike=list(result.alike),
        ranked=[_ranked(session, item, diagnosed, case) for item in result.ranked[:SHOWN]],
        shares=TWO_AT_ONCE if sum(item.probability for item in result.ranked[:SHOWN]) > 1.005 else "",
        alarm=alarm,
        next=move.kind,
        remedy=_remedy(session, move.key, diagnosed, case) if move.kind is NextMove.REMEDY else None,
        again=move.again,
        expected=move.expected,
        ended_by=move.key if move.kind is NextMove.DONE else "",
        ended_with=store.ended_with(case) if end else "",
        setup=setup_out(case.printer, store.setup_of(case), case.opened_at, case.visit_id is not None),
        before=before_out(store.before_of(case)),
        first=list(diagnosed.telling),
        proposals=[_proposal(offer, case) for offer in offers[:PROPOSED]],
        more=[_proposal(offer, case) for offer in (*offers[PROPOSED:], *diagnosed.more)],
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


def _remedy(session: Session, key: str, diagnosed: Diagnosed, case: Trouble) -> schemas.RankedOut:
    """The remedy that comes next: not always that of the likeliest cause."""
    cause = next(item for item in beliefs().causes if item.key == key)
    known = next((item for item in diagnosed.diagnosis.ranked if item.cause.key == key), None)
    return _ranked(session, known or Ranked(cause, 0.0, (), ()), diagnosed, case)


def alarms_out() -> list[schemas.AlarmOut]:
    """Give every alarm, with what raises it."""
    return [_alarm(kind, done=False) for kind in Alarm]


def _alarm(kind: Alarm, done: bool) -> schemas.AlarmOut:
    words = ALARM_WORDS[kind.value]
    return schemas.AlarmOut(
        key=kind,
        title=words.title,
        now=words.now,
        then=list(words.then),
        raised_by=[sorted(signs) for alarm, signs in ALARMS if alarm is kind],
        dealt_with=done,
    )


def before_out(told: Mapping[str, str]) -> list[schemas.BeforeOut]:
    """Give what people have often tried already, with what came of it."""
    return [
        schemas.BeforeOut(key=item.key, name=item.name, came=told.get(item.key)) for item in beliefs().before
    ]


SETTINGS: tuple[tuple[str, str, str, float | None, float | None], ...] = (
    ("surface", "Surface", "", None, None),
    ("material", "Material", "", None, None),
    ("bed_temperature", "Bed", "°C", 0, 200),
    ("nozzle_temperature", "Nozzle", "°C", 0, 500),
    ("first_layer", "First layer meant", "mm", 0.02, 2),
    ("height_set", "First layer in the slicer", "mm", 0.02, 2),
    ("speed", "First-layer speed", "mm/s", 1, 1000),
    ("fan", "Part fan, first layer", "%", 0, 100),
    ("width", "First-layer line width", "mm", 0.1, 3),
    ("hole", "Nozzle hole", "mm", 0.1, 2),
    ("foot_width", "Part, across", "mm", 0.5, 2000),
    ("foot_depth", "Part, deep", "mm", 0.5, 2000),
    ("part_height", "Part, height", "mm", 0.1, 2000),
    ("prints_since_wash", "Prints since the last wash", "", 0, 9999),
    ("washed_with", "Last washed with", "", None, None),
)
"""Settings of the print that failed: key, name, unit, least and most."""
WASHES = ("soap", "alcohol", "cleaner")


def setup_out(printer: Printer, setup: Mapping[str, Any], now: datetime, own: bool) -> schemas.SetupOut:
    """Give the setup of a print in one line, with its age."""
    settings = []
    for key, name, unit, low, high in SETTINGS:
        value = setup.get(key)
        choices: list[str] = []
        if key == "surface":
            choices = [surface.name for surface in printer.surfaces]
        elif key == "material":
            choices = list(materials())
        elif key == "washed_with":
            choices = list(WASHES)
        settings.append(
            schemas.SettingOut(
                key=key,
                name=name,
                unit=unit,
                value=value or None if choices else value,
                low=low,
                high=high,
                choices=choices,
            )
        )
    parts = [
        f"{lower_first(one.name)} {one.value:g} {one.unit}".strip()
        if isinstance(one.value, (int, float))
        else str(one.value)
        for one in settings
        if one.value is not None
    ]
    taken = setup.get("taken_at")
    source = ""
    if taken:
        days = max(0, (now - datetime.fromisoformat(taken)).days)
        age = "today" if days == 0 else f"{counted(days, 'day')} old"
        source = f"From the {'visit' if own else 'newest visit'}, {age}."
    if setup.get("file"):
        source = f"{source} What stands in {setup['file']} was taken from it.".strip()
    return schemas.SetupOut(line=", ".join(parts), source=source, settings=settings)


def _ranked(session: Session, ranked: Ranked, diagnosed: Diagnosed, case: Trouble) -> schemas.RankedOut:
    cause = ranked.cause
    wish = remedy_for(session, case, diagnosed, cause.key)
    disputed = schools().get(beliefs().schools.get(cause.key, ""), ())
    return schemas.RankedOut.of(
        cause,
        probability=ranked.probability,
        speaks_for=[_reason(r) for r in ranked.speaks_for],
        against=[_reason(r) for r in ranked.against],
        remedy=FROM_ABOVE if diagnosed.diagnosis.alarm and cause.number in WALKS else cause.remedy,
        page=_where(PAGES.get(cause.number, ""), case),
        wanted=schemas.WantedOut.of(wish),
        schools=[schemas.School.of(one) for one in disputed],
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
    ended = [e for e in store.events_of(case) if e.kind == "remedy" and e.value in store.ENDED]
    if not ended:
        return ""
    last = ended[-1]
    walks = any(cause.key == last.key and cause.number in WALKS for cause in beliefs().causes)
    text = conclude(last.value, _name(last.key), last.data.get("others", []), walks)
    if last.value == store.NOT_BETTER and "was" in last.data:
        text += f" Type {millimetres(last.data['was'], signed=True)} again."
    return text


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
        how = CAME[event.value]
        change = event.data.get("what", "")
        after = event.data.get("after", "")
        what = f" ({lower_first(change)} {after})" if change and after else ""
        also = f", together with {', '.join(event.data['others'])}" if event.data.get("others") else ""
        words = f"Remedy for “{lower_first(_name(event.key))}”{what}{also}: {how}"
    elif event.kind == "before":
        name = next((item.name for item in known.before if item.key == event.key), event.key)
        words = f"Tried before: {lower_first(name)}: {CAME.get(event.value, 'not told')}"
    elif event.kind == "safe":
        words = f"Done: {lower_first(ALARM_WORDS[event.key].title)}"
    elif event.kind == "setup":
        names = {key: (name, unit) for key, name, unit, *_ in SETTINGS}
        parts = [
            f"{lower_first(names[key][0])} {'unknown' if value in (None, '') else value} {names[key][1]}".strip()
            for key, value in event.data.items()
            if key in names
        ]
        words = f"Setup of the print: {', '.join(parts)}"
    elif event.kind == "close":
        words = f"Closed: {lower_first(_name(event.key))}"
    else:
        words = "Opened again"
    return schemas.EventOut.of(event, words=words)
