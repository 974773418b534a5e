"""What a session asked for already, kept until it writes or ends."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Any, TypeVar

from sqlalchemy import event
from sqlalchemy.orm import Session

KEPT = "finchwort-memo"
T = TypeVar("T")


def once(session: Session, key: Hashable, ask: Callable[[], T]) -> T:
    """Ask once in a session; what was answered holds until the session writes anything or its transaction ends."""
    kept: dict[Hashable, Any] = session.info.setdefault(KEPT, {})
    if key not in kept:
        kept[key] = ask()
    return kept[key]


def _forget(session: Session, *_: Any) -> None:
    session.info.pop(KEPT, None)


for name in ("after_flush", "after_bulk_update", "after_bulk_delete"):
    event.listen(
        Session, name, _forget if name == "after_flush" else lambda context: _forget(context.session)
    )
for name in ("after_commit", "after_rollback", "after_soft_rollback"):
    event.listen(Session, name, _forget)
