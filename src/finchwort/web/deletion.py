"""One way to take a record back, and to bring it back, for every kind of record."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol

from apiflask import APIBlueprint
from sqlalchemy.orm import Session

from finchwort.web import schemas
from finchwort.web.database import session


class Numbered(Protocol):
    """A record with its number."""

    @property
    def id(self) -> Any:
        """Return its number."""


def deletable(
    blueprint: APIBlueprint, path: str, what: str, set_deleted: Callable[[Session, int, bool], Numbered]
) -> None:
    """Add the two routes by which a kind of record is deleted, and brought back.

    Parameters
    ----------
    blueprint : APIBlueprint
    path : str
        Where these records are, such as ``/offsets``.
    what : str
        One of them, in the words of the routes: ``offset``.
    set_deleted : callable
        The use case: session, number, and whether it is to be deleted.
    """
    key = f"{what}_id"

    def change(deleted: bool, **numbers: int) -> schemas.Done:
        return schemas.Done(id=set_deleted(session(), numbers[key], deleted).id)

    def delete(**numbers: int) -> schemas.Done:
        return change(True, **numbers)

    def restore(**numbers: int) -> schemas.Done:
        return change(False, **numbers)

    delete.__name__, restore.__name__ = f"delete_{what}", f"restore_{what}"
    delete.__doc__ = f"Delete the {what.replace('_', ' ')}; it can be brought back."
    restore.__doc__ = f"Bring the deleted {what.replace('_', ' ')} back."
    where = f"{path}/<int:{key}>"
    blueprint.delete(where)(blueprint.output(schemas.Done)(delete))
    blueprint.post(f"{where}/restore")(blueprint.output(schemas.Done)(restore))
