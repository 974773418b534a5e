"""Pages that are asked for often are made once for each state of the records they stand on."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from flask import Response

from finchwort.web.database import session
from finchwort.web.schemas import Out

Made = TypeVar("Made")
_shown: dict[tuple[str, str], tuple[tuple[Any, ...], Any]] = {}
"""Each page as it was shown last, by the records it is of, with the state it stands on."""


def kept(name: str, state: tuple[Any, ...], make: Callable[[], Made]) -> Made:
    """Give what was made for this state of the records, or make it.

    Parameters
    ----------
    name : str
        Of what is made.
    state : tuple
        Changes with whatever it shows.
    make : callable
    """
    where = (str(session().get_bind().engine.url), name)
    known = _shown.get(where)
    if known is None or known[0] != state:
        known = _shown[where] = (state, make())
    made: Made = known[1]
    return made


def kept_page(name: str, state: tuple[Any, ...], make: Callable[[], Out]) -> Response:
    """Give a whole page as it was made for this state of the records, or make it; see `kept`."""
    return Response(kept(name, state, lambda: make().model_dump_json()), mimetype="application/json")
