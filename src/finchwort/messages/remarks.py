"""What results say about themselves, in words."""

from __future__ import annotations

from collections.abc import Iterable
from importlib import import_module

from finchwort.core.base.remarks import Remark
from finchwort.messages.templates import Sentence, Sentences


def look_up(code: str, kind: str) -> Sentence:
    """Find the sentence of a code; only the messages of its area are loaded.

    Parameters
    ----------
    code : str
        An area and a word.
    kind : {"ERRORS", "REMARKS"}

    Raises
    ------
    KeyError
        When nobody wrote one.
    """
    area = code.partition(".")[0]
    sentence: Sentence = getattr(import_module(f"finchwort.messages.{area}"), kind)[code]
    return sentence


SAY = Sentences(lambda code: look_up(code, "REMARKS"))


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
