"""What a machine says of itself, held against the book."""

from finchwort.core.machine.kinds import (
    ToldName,
    ToldState,
)
from finchwort.core.machine.report import (
    SAME_OFFSET,
    Book,
    Compared,
    Rows,
    Told,
    compare,
)

__all__ = [
    "SAME_OFFSET",
    "Book",
    "Compared",
    "Rows",
    "Told",
    "ToldName",
    "ToldState",
    "compare",
]
