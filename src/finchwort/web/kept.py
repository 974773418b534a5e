"""Pages that are asked for often are made once for each state of the records they stand on."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from flask import Response

from finchwort.web.database import session
from finchwort.web.schemas import Out

_shown: dict[tuple[str, str], tuple[tuple[Any, ...], str]] = {}
"""Each page as it was shown last, by the records it is of, with the state it stands on."""


def kept_page(name: str, state: tuple[Any, ...], make: Callable[[], Out]) -> Response:
    """Give a page as it was made for this state of the records, or make it.

    Parameters
    ----------
    name : str
        Of the page.
    state : tuple
        Changes with whatever the page shows.
    make : callable
    """
    where = (str(session().get_bind().engine.url), name)
    kept = _shown.get(where)
    if kept is None or kept[0] != state:
        kept = _shown[where] = (state, make().model_dump_json())
    return Response(kept[1], mimetype="application/json")
