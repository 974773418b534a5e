"""What results say about themselves, in words."""

from __future__ import annotations

from collections.abc import Iterable

from finchwort.core.base.remarks import Remark
from finchwort.messages import first_layer, visits
from finchwort.messages.templates import Sentence, Sentences

REMARKS: dict[str, Sentence] = {}
for area in (first_layer, visits):
    REMARKS |= area.REMARKS
SAY = Sentences(REMARKS)


def words(remark: Remark) -> str:
    """Say a remark.

    Examples
    --------
    >>> from finchwort.core.base.remarks import remark
    >>> words(remark("visits.months_ago", months=7))
    'It was found 7 months ago.'
    """
    return SAY.words(remark)


def sentences(remarks: Iterable[Remark]) -> list[str]:
    """Say several, each sentence once.

    Examples
    --------
    >>> from finchwort.core.base.remarks import remark
    >>> sentences([remark("visits.since", event="plate"), remark("visits.since", event="plate")])
    ['Another plate was laid on since.']
    """
    return SAY.all(remarks)
