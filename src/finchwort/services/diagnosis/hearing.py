"""A complaint in somebody's own words: which signs it speaks of.  Nothing leaves the device's server for it."""

from __future__ import annotations

import itertools
import re
from dataclasses import dataclass
from functools import cache

from rapidfuzz.distance import DamerauLevenshtein

from finchwort.knowledge import beliefs, sayings

CLAUSE = re.compile(r"[.;:!?\n]+|,|\bbut\b|\band then\b|\bthough\b|\balthough\b|\bwhile\b", re.IGNORECASE)
WORD = re.compile(r"[a-zà-ÿ0-9'/%.]+")
DENIALS = frozenset(
    ["no", "not", "never", "without", "isn't", "aren't", "doesn't", "don't", "didn't", "wasn't"]
)
ENDINGS = ("ing", "ies", "ed", "es", "s")
MOST_JOINED = 14
"""Two clauses of more words are not read as one (ours)."""
MOST_HEARD = 8
"""So many signs are proposed to be confirmed (ours)."""


@dataclass(frozen=True)
class Heard:
    """A sign that words speak of.

    Attributes
    ----------
    sign : str
    words : str
        The clause that speaks of it.
    denied : bool
        Whether it says that it is not so.
    weight : int
        Words of the phrase that were found.
    """

    sign: str
    words: str
    denied: bool
    weight: int


def hear(text: str) -> tuple[Heard, ...]:
    """Find the signs that a complaint speaks of, to be confirmed by the person.

    Parameters
    ----------
    text : str

    Returns
    -------
    tuple of Heard
        The plainest first, each sign once.

    Examples
    --------
    >>> [(h.sign, h.denied) for h in hear("The corners lift after an hour, no gaps between the lines")][:2]
    [('corners_later', False), ('gaps', True)]
    """
    best: dict[str, Heard] = {}
    clauses = [clause for clause in CLAUSE.split(text[:500]) if clause.strip()]
    # what is begun in one clause is often said in the next: heard too, after what stands in one
    joined = [" ".join(pair) for pair in itertools.pairwise(clauses)]
    for clause in [*clauses, *(one for one in joined if len(one.split()) <= MOST_JOINED)]:
        words = WORD.findall(clause.lower().replace("’", "'"))
        if not words:
            continue
        stems = [_stem(word) for word in words]
        for sign, phrases in _phrases().items():
            for phrase in phrases:
                places = _found(phrase, words, stems)
                if places is None:
                    continue
                own = {word for part in phrase for word in part}
                before = words[max(0, min(places) - 3) : min(places)]
                denied = any(word in DENIALS and word not in own for word in before)
                heard = Heard(sign, clause.strip(), denied, len(phrase))
                if sign not in best or heard.weight > best[sign].weight:
                    best[sign] = heard
    signs = {sign.key: sign for sign in beliefs().signs}
    # words that say more of one thing are not heard as all of it: "the skirt does not stick"
    best = {
        key: heard
        for key, heard in best.items()
        if not any(
            other in best and best[other].words == heard.words and best[other].weight > heard.weight
            for other in signs[key].follows
        )
    }
    # what follows from something heard is not asked for as well
    implied = {other for key, heard in best.items() if not heard.denied for other in signs[key].follows}
    left = [heard for key, heard in best.items() if key not in implied]
    return tuple(sorted(left, key=lambda heard: (-heard.weight, list(signs).index(heard.sign))))[:MOST_HEARD]


def _found(phrase: tuple[tuple[str, ...], ...], words: list[str], stems: list[str]) -> list[int] | None:
    places: list[int] = []
    for part in phrase:
        place = next(
            (
                i
                for i, (word, stem) in enumerate(zip(words, stems, strict=True))
                if i not in places and any(_same(wanted, word, stem) for wanted in part)
            ),
            None,
        )
        if place is None:
            return None
        places.append(place)
    return places


def _same(wanted: str, word: str, stem: str) -> bool:
    if word == wanted or stem == _stem(wanted):
        return True
    # a slip of the finger in a long word
    return min(len(wanted), len(word)) >= 6 and DamerauLevenshtein.distance(wanted, word, score_cutoff=1) <= 1


@cache
def _stem(word: str) -> str:
    for ending in ENDINGS:
        if word.endswith(ending) and len(word) - len(ending) >= 3:
            return word[: -len(ending)]
    return word


@cache
def _phrases() -> dict[str, tuple[tuple[tuple[str, ...], ...], ...]]:
    return {
        sign: tuple(tuple(tuple(part.split("|")) for part in phrase.split()) for phrase in phrases)
        for sign, phrases in sayings().items()
    }
