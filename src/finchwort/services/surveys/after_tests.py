"""Tests of bed and probe that are stored, or taken back: how far a height is trusted follows, and with it every verdict."""

from __future__ import annotations

from typing import Any

from sqlalchemy.orm import Session

from finchwort.services.probing import probe_tests
from finchwort.services.surveys.surveys import rejudge_visit
from finchwort.store.models import ProbingTest
from finchwort.store.visits.visits import get_visit


def record_test(session: Session, visit_id: int, kind: str, data: dict[str, Any], **more: Any) -> ProbingTest:
    """Store a test of a visit, and judge its surveys by it; see `probe_tests.store_test`."""
    test = probe_tests.store_test(session, visit_id, kind, data, **more)
    rejudge_visit(session, get_visit(session, visit_id))
    return test


def set_test_deleted(session: Session, test_id: int, deleted: bool) -> ProbingTest:
    """Delete a test, or bring it back, and judge the surveys of its visit with what is left."""
    test = probe_tests.set_test_deleted(session, test_id, deleted)
    rejudge_visit(session, test.visit)
    return test
