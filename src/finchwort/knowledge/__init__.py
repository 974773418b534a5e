"""The trade's data, read from TOML and checked when loaded."""

from __future__ import annotations

import tomllib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from finchwort.core.diagnosis import (
    NEEDS,
    SHARES,
    Before,
    Cause,
    Check,
    Material,
    Model,
    Outcome,
    Pair,
    Sign,
    Surface,
)
from finchwort.core.first_layer import Trim
from finchwort.core.probing import DOINGS, FEATURES, JUDGEMENTS, Item, Mending


@dataclass(frozen=True)
class Thread:
    """A metric thread.

    Attributes
    ----------
    name : str
    pitch : float
        Travel per turn, mm.
    """

    name: str
    pitch: float


@cache
def threads() -> tuple[Thread, ...]:
    """Metric coarse threads that bed screws have.

    References
    ----------
    ISO 261, coarse pitch.

    Examples
    --------
    >>> {t.name: t.pitch for t in threads()}["M4"]
    0.7
    """
    data = _load("threads.toml")
    result = tuple(Thread(str(row["name"]), float(row["pitch"])) for row in data["thread"])
    for thread in result:
        if not 0.1 <= thread.pitch <= 10:
            raise ValueError(f"knowledge/threads.toml: {thread.name} has an impossible pitch")
    if len({t.name for t in result}) < len(result):
        raise ValueError("knowledge/threads.toml: a thread stands there twice")
    return result


DRAWINGS = frozenset(
    {"gap", "bead", "mesh", "turn", "flatness", "tilt", "rms", "bow", "repeat", "outlier", "soak", "fade"}
    | {"between", "probe", "ladder", "shim"}
)
"""Pictures that a term may be shown by."""


@dataclass(frozen=True)
class Term:
    """A word of the trade or of metrology, as it is used here.

    Attributes
    ----------
    key : str
    name : str
    says : str
        What it means, in one sentence.
    also : tuple of str
        Other words by which it is looked for; none of them is used on a page.
    draw : str
        Which picture shows it, one of `DRAWINGS`; empty for none.
    """

    key: str
    name: str
    says: str
    also: tuple[str, ...] = ()
    draw: str = ""


@cache
def terms() -> dict[str, Term]:
    """Terms by key, in the order of their names.

    References
    ----------
    Common practice; standards where the sentence names one.

    Examples
    --------
    >>> terms()["fade"].name
    'Fade height'
    """
    found: dict[str, Term] = {}
    for row in _load("terms.toml")["term"]:
        term = Term(row["key"], row["name"], row["says"], tuple(row.get("also", ())), row.get("draw", ""))
        if term.key in found:
            raise ValueError(f"knowledge/terms.toml: {term.key} stands there twice")
        if not term.says.endswith((".", ")")) or (term.draw and term.draw not in DRAWINGS):
            raise ValueError(f"knowledge/terms.toml: {term.key} has no sentence, or no such picture")
        found[term.key] = term
    return dict(sorted(found.items(), key=lambda one: one[1].name.casefold()))


@cache
def materials() -> dict[str, Material]:
    """Materials by name.

    References
    ----------
    Common practice.

    Examples
    --------
    >>> materials()["PETG"].nozzle_high
    250.0
    """
    results = {}
    for row in _load("surfaces.toml")["material"]:
        low, high = _range(row["nozzle"], f"nozzle of {row['name']}", 500)
        softens = row.get("softens")
        density = float(row["density"])
        if not 0.5 <= density <= 3:
            raise ValueError(f"knowledge/surfaces.toml: {row['name']} has an impossible density")
        results[row["name"]] = Material(
            row["name"],
            low,
            high,
            float(softens[0]) if softens else None,
            density,
            bool(row.get("purge", False)),
        )
    return results


@cache
def surfaces() -> dict[str, Surface]:
    """Kinds of surface by key, each with the bed temperature of the materials that hold on it.

    References
    ----------
    Common practice.

    Examples
    --------
    >>> surfaces()["smooth_pei"].pairs["PETG"]
    Pair(bed_low=70.0, bed_high=85.0, need='release', bonds=False)
    """
    results = {}
    for row in _load("surfaces.toml")["surface"]:
        pairs = {}
        strange = set(row) - {"key", "name"} - set(materials())
        if strange:
            raise ValueError(
                f"knowledge/surfaces.toml: {row['key']} names {strange.pop()}, which is no material"
            )
        for name in materials():
            if name not in row:
                continue
            pair, what = row[name], f"{name} on {row['key']}"
            if pair.get("bonds"):
                pairs[name] = Pair(None, None, None, True)
                continue
            low, high = _range(pair["bed"], what, 200)
            if pair.get("need") not in (None, *NEEDS):
                raise ValueError(f"knowledge/surfaces.toml: {what} needs something unknown")
            pairs[name] = Pair(low, high, pair.get("need"))
        if row["key"] in results:
            raise ValueError(f"knowledge/surfaces.toml: {row['key']} stands there twice")
        results[row["key"]] = Surface(row["key"], row["name"], pairs)
    return results


@cache
def walk_round() -> tuple[Item, ...]:
    """What to look at before anything is measured.

    References
    ----------
    Common practice.

    Examples
    --------
    >>> walk_round()[0].key
    'carriage'
    """
    results = []
    for row in _load("walkround.toml")["item"]:
        needs, weakens = tuple(row.get("needs", ())), tuple(row["weakens"])
        if set(needs) - set(FEATURES) or set(weakens) - set(JUDGEMENTS):
            raise ValueError(f"knowledge/walkround.toml: {row['key']} needs or weakens something unknown")
        key, title, how, good, ignore = (str(row[name]) for name in ("key", "title", "how", "good", "ignore"))
        warns = tuple(row.get("warns", ()))
        if set(warns) - set(DOINGS):
            raise ValueError(f"knowledge/walkround.toml: {row['key']} warns of something unknown")
        mending = Mending(str(row["mend"]), int(row["minutes"]), str(row["part"]))
        if not all((key, title, how, good, ignore, mending.how, mending.minutes, mending.part)):
            raise ValueError(f"knowledge/walkround.toml: {row['key']} leaves something unsaid")
        caution = str(row.get("caution", ""))
        results.append(Item(key, title, how, good, ignore, caution, needs, weakens, warns, mending))
    if len({item.key for item in results}) < len(results):
        raise ValueError("knowledge/walkround.toml: an item stands there twice")
    return tuple(results)


@dataclass(frozen=True)
class Circumstance:
    """Something about a case that makes causes likelier before anything is looked at.

    Attributes
    ----------
    key, name : str
    odds : dict of str to float
        Factors, by cause.
    """

    key: str
    name: str
    odds: dict[str, float]


@dataclass(frozen=True)
class Beliefs:
    """What is believed of first layers that fail.

    Attributes
    ----------
    causes, signs, checks : tuple
        See `finchwort.core.causes`.
    groups : dict of str to str
        Names of the signs' groups, in order.
    numbers : dict of str to str
        Which number a cause's remedy wants, by cause.
    circumstances : tuple of Circumstance
    before : tuple of Before
        What people have often tried already.
    schools : dict of str to str
        Which of `schools` concern a cause's remedy, by cause.
    """

    causes: tuple[Cause, ...]
    signs: tuple[Sign, ...]
    checks: tuple[Check, ...]
    groups: dict[str, str]
    numbers: dict[str, str]
    circumstances: tuple[Circumstance, ...]
    before: tuple[Before, ...]
    schools: dict[str, str]


@cache
def beliefs() -> Beliefs:
    """Causes, signs and checks of first layers that fail.

    References
    ----------
    Common practice; likelihoods are first estimates.

    Examples
    --------
    >>> {c.key: c.weight for c in beliefs().causes}["oily_plate"]
    12.0
    """
    told, asked, checked = (_load(f"{name}.toml") for name in ("causes", "signs", "checks"))
    groups = {row["key"]: row["name"] for row in asked["group"]}
    signs = []
    for key, row in asked["sign"].items():
        if row["group"] not in groups:
            raise ValueError(f"knowledge/signs.toml: {key} is in no group")
        signs.append(
            Sign(
                key,
                row["ask"],
                row["group"],
                row.get("hint", ""),
                float(row.get("leak", 0.04)),
                row.get("drawing", ""),
                bool(row.get("measured", False)),
                float(row.get("told", 0.6)),
                float(row.get("mistaken", 0.01)),
                tuple(row.get("follows", ())),
            )
        )
    causes = tuple(
        Cause(
            row["key"],
            row["name"],
            float(row["weight"]),
            {key: SHARES[letter] for key, letter in row["signs"].items()},
            row["remedy"],
            row.get("keep", ""),
            float(row["minutes"]),
            row.get("tag", "P"),
            row.get("caution", ""),
            {key: float(share) for key, share in row.get("also", {}).items()},
            row.get("redo", ""),
            row.get("number", ""),
        )
        for row in told["cause"]
    )
    checks = tuple(
        Check(
            row["key"],
            row["title"],
            row["how"],
            float(row["minutes"]),
            int(row["risk"]),
            tuple(
                Outcome(o["key"], o["words"], dict(o["causes"]), float(o.get("leak", 0.03)))
                for o in row["outcomes"]
            ),
            row["clear"],
            tuple(row.get("needs", ())),
            row.get("caution", ""),
            row.get("page", ""),
            tuple(row.get("asks", ())),
            bool(row.get("prints", False)),
        )
        for row in checked["check"]
    )
    before = tuple(
        Before(row["key"], row["name"], dict(row["mends"]), tuple(row.get("skips", ())))
        for row in checked["before"]
    )
    circumstances = tuple(
        Circumstance(row["key"], row["name"], {k: float(v) for k, v in row["odds"].items()})
        for row in checked["context"]
    )
    Model(causes, signs, checks, before=before)  # refuses what names something unknown
    for circumstance in circumstances:
        strange = set(circumstance.odds) - {cause.key for cause in causes}
        if strange:
            raise ValueError(
                f"knowledge/checks.toml: {circumstance.key} names {strange.pop()}, which is no cause"
            )
    disputed = {row["key"]: row["schools"] for row in told["cause"] if "schools" in row}
    numbers = {row["key"]: row["number"] for row in told["cause"] if "number" in row}
    return Beliefs(causes, tuple(signs), checks, groups, numbers, circumstances, before, disputed)


@dataclass(frozen=True)
class School:
    """One way of cleaning or gluing, and when it is right."""

    name: str
    when: str
    mind: str


@cache
def schools() -> dict[str, tuple[School, ...]]:
    """Schools of cleaning, of adhesives, of levelling and of compensation.

    References
    ----------
    Common practice.

    Examples
    --------
    >>> [one.name for one in schools()["adhesive"]][:2]
    ['None', 'Glue stick']
    """
    data = _load("cleaning.toml")
    return {
        key: tuple(School(row["name"], row["when"], row["mind"]) for row in rows)
        for key, rows in data.items()
        if isinstance(rows, list)
    }


@cache
def sayings() -> dict[str, tuple[str, ...]]:
    """How people say what they see: phrases by sign.

    References
    ----------
    Common practice.

    Examples
    --------
    >>> sayings()["only_corners"]
    ('only|just corner|corners', 'four corners')
    """
    rows = _load("words.toml")["words"]
    strange = set(rows) ^ {sign.key for sign in beliefs().signs if not sign.measured}
    if strange:
        raise ValueError(f"knowledge/words.toml: {strange.pop()} is named in one place only")
    return {key: tuple(phrases) for key, phrases in rows.items()}


@cache
def trims() -> tuple[Trim, ...]:
    """How the Z offset is usually trimmed.

    References
    ----------
    Common practice.

    Examples
    --------
    >>> {t.key: t.closer for t in trims()}["rough"]
    (0.02, 0.05)
    """
    results = []
    for row in _load("trims.toml")["trim"]:
        low, high = (float(value) for value in row["closer"])
        if not -0.2 <= low <= high <= 0.2 or low * high < 0:
            raise ValueError(f"knowledge/trims.toml: {row['key']} has an impossible range")
        strange = set(row.get("materials", ())) - set(materials())
        strange |= set(row.get("surfaces", ())) - set(surfaces())
        if strange or row["tag"] not in "PDSM":
            raise ValueError(f"knowledge/trims.toml: {row['key']} names something unknown")
        results.append(
            Trim(
                row["key"],
                (low, high),
                row["why"],
                tuple(row.get("materials", ())),
                tuple(row.get("surfaces", ())),
                row.get("heated"),
                row["tag"],
            )
        )
    return tuple(results)


def _load(name: str) -> dict[str, Any]:
    return tomllib.loads(files(__package__).joinpath(name).read_text("utf-8"))


def _range(pair: Sequence[float], what: str, most: float) -> tuple[float, float]:
    low, high = (float(value) for value in pair)
    if not 0 <= low <= high <= most:
        raise ValueError(f"knowledge/surfaces.toml: {what} has an impossible temperature")
    return low, high
