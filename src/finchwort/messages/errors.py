"""The sentence of an error: what cannot be used, and what to do instead."""

from __future__ import annotations

from finchwort.core.base.errors import CoreError
from finchwort.messages.remarks import SAY, look_up


def sentence(error: Exception) -> str:
    """Say what is wrong; what does not come from the core says so itself.

    Examples
    --------
    >>> from finchwort.core.base.errors import ChoiceError
    >>> sentence(ChoiceError("machine.no_job_called", kind="dance"))
    "There is no job called 'dance'."
    """
    if isinstance(error, CoreError):
        return SAY.fill(str(look_up(error.code, "ERRORS")), error.values)
    return str(error)
