"""Tests of probe and machine, and findings of the walk round, as they were recorded."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.store.models import Finding, ProbingTest


def latest_findings(session: Session, visit_id: int) -> dict[str, Finding]:
    """Return the newest finding of each item."""
    findings: dict[str, Finding] = {}
    query = select(Finding).where(Finding.visit_id == visit_id).order_by(Finding.id)
    for finding in session.scalars(query):
        if finding.state == "open":
            findings.pop(finding.item, None)
        else:
            findings[finding.item] = finding
    return findings


def tests_of(session: Session, visit_id: int) -> list[ProbingTest]:
    """Return the tests of a visit, oldest first."""
    query = (
        select(ProbingTest)
        .where(ProbingTest.visit_id == visit_id, ProbingTest.deleted_at.is_(None))
        .order_by(ProbingTest.taken_at, ProbingTest.id)
    )
    return list(session.scalars(query))


def newest(tests: Sequence[ProbingTest], kind: str) -> ProbingTest | None:
    """Return the newest test of a kind."""
    return next((test for test in reversed(tests) if test.kind == kind), None)
