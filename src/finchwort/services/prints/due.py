"""What is due at prints: a look, or to tell what came of them."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy.orm import Session

from finchwort.core.base.remarks import remark
from finchwort.core.visits import Due, DueKind
from finchwort.services.prints.watch import Watched, watch_all


def due_of(one: Watched) -> Due | None:
    """Say what is due at a print; None where nothing is."""
    name = one.print_.name
    if one.wanted is not None and not one.over:
        late = max(one.age - one.wanted.late, 0.0)
        return Due(DueKind.LOOK, remark("prints.due_look", name=name, look=one.wanted.kind.value, late=late))
    if one.over:
        ended = one.age if not one.runs or one.left is None else max(-one.left, 0.0)
        said = remark("prints.due_outcome", name=name, stopped=not one.runs, minutes=ended)
        return Due(DueKind.OUTCOME, said)
    return None


def due_at_prints(session: Session, now: datetime | None = None) -> list[tuple[Watched, Due]]:
    """Say what is due at prints, the most pressing first."""
    found = [(one, due_of(one)) for one in watch_all(session, now)]
    return [(one, due) for one, due in found if due is not None]
