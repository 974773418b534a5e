"""What a machine says of itself, held against the book."""

from finchwort.core.machine.kinds import (
    ToldName,
    ToldState,
)
from finchwort.core.machine.report import (
    NAMES,
    SAME_OFFSET,
    Book,
    Compared,
    Rows,
    Told,
    compare,
    others,
    untold,
)

__all__ = [
    "NAMES",
    "SAME_OFFSET",
    "Book",
    "Compared",
    "Rows",
    "Told",
    "ToldName",
    "ToldState",
    "compare",
    "others",
    "untold",
]
