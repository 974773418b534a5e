"""What the last tests of a printer found wrong: said again before anything homes, touches or heats."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.base.wording import lower_first
from finchwort.core.probing import warnings
from finchwort.messages.remarks import words
from finchwort.messages.visits import words_of
from finchwort.services.probing.probe_tests import assess_test, walk_items
from finchwort.services.visits.follow_up import after_of
from finchwort.store.models import Finding, Printer, ProbingTest, Visit
from finchwort.store.records import utcnow

BEFORE_HOMING = ("tip", "mount", "seat", "switch", "clips")
"""Steps after an event without which nothing should be homed."""
RIGHT = ("good", "waiting")
MAX_FINDINGS = 300
"""So many of the newest are looked at: some twenty walks round."""


@dataclass(frozen=True)
class Faults:
    """What speaks against a job.

    Attributes
    ----------
    said : tuple of str
    switches : bool
        A switch or the probe reported wrongly, so that a person has to say that it was mended.
    """

    said: tuple[str, ...] = ()
    switches: bool = False


def faults_of(session: Session, printer: Printer, doing: Sequence[str]) -> Faults:
    """Say what the last tests and the last walk round found wrong that matters to what is begun with: home, probe, heat."""
    if not doing:
        return Faults()
    sentences: list[str] = []
    wrong = _switches(session, printer) if "home" in doing else []
    sentences += wrong
    states, items = _found(session, printer), walk_items(printer)
    sentences += [text for what in doing for text in warnings(items, states, what)]
    after = after_of(session, printer) if "home" in doing else None
    if after is not None:
        sentences += [
            f"Not ticked off yet: {lower_first(words.title)}. {words.how}"
            for words in (words_of(after, step) for step in after.left if step.name in BEFORE_HOMING)
        ]
    return Faults(tuple(dict.fromkeys(sentences)), bool(wrong))


def _found(session: Session, printer: Printer) -> dict[str, str]:
    """The newest state of each item of the walk round, in whichever visit: what was bad stays so until it is found good."""
    query = (
        select(Finding.item, Finding.state)
        .join(Visit)
        .where(Visit.printer_id == printer.id, Visit.deleted_at.is_(None))
        .order_by(Finding.id.desc())
        .limit(MAX_FINDINGS)
    )
    results: dict[str, str] = {}
    for item, state in session.execute(query):
        results.setdefault(item, state)
    return results


def walked_of(session: Session, printer: Printer) -> dict[str, tuple[str, bool, float]]:
    """What the newest look at each item of the walk round found: its title, whether it was bad, and days since."""
    query = (
        select(Finding.item, Finding.state, Finding.created_at)
        .join(Visit)
        .where(Visit.printer_id == printer.id, Visit.deleted_at.is_(None))
        .order_by(Finding.id.desc())
        .limit(MAX_FINDINGS)
    )
    titles = {item.key: item.title for item in walk_items(printer)}
    results: dict[str, tuple[str, bool, float]] = {}
    for item, state, at in session.execute(query):
        if item in titles and state in ("good", "bad"):
            days = (utcnow() - at).total_seconds() / 86400
            results.setdefault(item, (titles[item], state == "bad", max(0.0, days)))
    return results


def _switches(session: Session, printer: Printer) -> list[str]:
    """What the newest test of the switches found wrong, which one and how."""
    query = (
        select(ProbingTest)
        .join(Visit)
        .where(Visit.printer_id == printer.id, Visit.deleted_at.is_(None))
        .where(ProbingTest.kind == "switches", ProbingTest.deleted_at.is_(None))
        .order_by(ProbingTest.id.desc())
        .limit(1)
    )
    test = session.scalars(query).first()
    if test is None or test.level != "bad":
        return []
    when = f"{test.taken_at:%Y-%m-%d %H:%M} UTC"
    findings = assess_test("switches", test.data).result
    return [
        f"The last test of the switches, {when}: {words(finding.remark)}"
        for finding in (findings if isinstance(findings, tuple) else ())
        if finding.kind not in RIGHT
    ]
