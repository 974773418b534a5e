"""What is found out before measuring: the walk round, and tests of switches, warmth, probe, beam and plate."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError, CoreError
from finchwort.core.base.wording import lower_first, micro, millimetres
from finchwort.core.levelling import Skew, assess_beam
from finchwort.core.printers import Screw
from finchwort.core.probing import (
    FINDINGS,
    Item,
    Line,
    Repeatability,
    Soak,
    SoakAround,
    Summary,
    SwitchFinding,
    TestKind,
    assess_line,
    assess_repeatability,
    assess_summary,
    diagnose_probe,
    diagnose_switches,
    fit_soak,
    fit_soak_around,
    items_for,
    weakened,
)
from finchwort.core.visits import Before
from finchwort.knowledge import walk_round
from finchwort.messages.probing import (
    around_sentence,
    line_sentence,
    soak_sentence,
    trust_sentences,
    trust_word,
)
from finchwort.messages.remarks import words
from finchwort.store.errors import ConflictError
from finchwort.store.models import Finding, Printer, ProbingTest, SurveyRecord, Visit
from finchwort.store.printers.printers import features_of, screws_of
from finchwort.store.probing.probe_tests import latest_findings, newest, tests_of
from finchwort.store.records import sent_before, set_deleted, utcnow
from finchwort.store.visits.logbook import set_entries_deleted, write_entry
from finchwort.store.visits.visits import get_visit

KINDS = tuple(TestKind)
TITLES = {
    "repeatability": "Probe tested",
    "soak": "Warm-up watched",
    "switches": "Switches tested",
    "beam": "Cross beam measured",
    "line": "Straightedge laid on",
}


@dataclass(frozen=True)
class Assessed:
    """A test with what it says.

    Attributes
    ----------
    kind : one of ``KINDS``
    level : str
        The verdict as a word for machines.
    word : str
        The verdict in a few words for people.
    sentences : tuple of str
    result : Repeatability, Soak, SoakAround, Skew, Line or tuple of SwitchFinding
    """

    kind: str
    level: str
    word: str
    sentences: tuple[str, ...]
    result: Repeatability | Soak | SoakAround | Skew | Line | tuple[SwitchFinding, ...]


def assess_test(kind: str, data: Mapping[str, Any], screws: Sequence[Screw] = ()) -> Assessed:
    """Work out what a test says from its raw data.

    Parameters
    ----------
    kind : one of ``KINDS``
    data : mapping
        repeatability: ``heights`` (mm), optionally ``times`` (s), or ``summary``.  soak: ``times``, ``heights``, for places in turn also
        ``spots`` (x and y, mm) and ``at`` (which of them, for each).  switches:
        ``untouched``, ``pressed``, optionally ``wiring`` and ``probe``.  beam: ``left``, ``right``, ``span``, ``screws``,
        ``lead``, optionally ``screw_span`` (mm).  line: ``positions``, ``gaps`` (mm), ``what``.

    Raises
    ------
    CoreError
        When it makes no sense.
    """
    if kind == "repeatability":
        test = touches_of(data)
        return Assessed(kind, test.level, trust_word(test), trust_sentences(test, screws), test)
    words = {"steady": "Steady", "moving": "Still moving", "unclear": "Too early to say"}
    if kind == "soak" and data.get("spots"):
        if not data.get("at"):
            raise ChoiceError("probing.place_each_reading")
        spots = [(spot["x"], spot["y"]) for spot in data["spots"]]
        around = fit_soak_around(data["times"], data["heights"], data["at"], spots)
        word = "The shape stands" if around.state == "steady" else words[around.state]
        return Assessed(kind, around.state, word, (around_sentence(around),), around)
    if kind == "soak":
        soak = fit_soak(data["times"], data["heights"])
        return Assessed(kind, soak.state, words[soak.state], (soak_sentence(soak),), soak)
    if kind == "switches":
        return _assess_switches(data)
    if kind == "beam":
        skew = assess_beam(
            data["left"],
            data["right"],
            data["span"],
            data.get("screws", 2),
            lead=data.get("lead", 8.0),
            screw_span=data.get("screw_span"),
        )
        level, word = ("square", "Square") if skew.square else ("skewed", "Skewed")
        return Assessed(kind, level, word, (skew.sentence,), skew)
    if kind == "line":
        line = assess_line(data["positions"], data["gaps"])
        return Assessed(kind, line.name, line.name.capitalize(), (line_sentence(line),), line)
    raise ChoiceError("probing.no_test_called", kind=kind)


def touches_of(data: Mapping[str, Any]) -> Repeatability:
    """Work out what touches at one place say, told one by one or summed up by the machine."""
    if data.get("heights"):
        return assess_repeatability(data["heights"], data.get("times"))
    if data.get("summary"):
        return assess_summary(Summary(**data["summary"]))
    raise ChoiceError("probing.test_needs_heights")


def _assess_switches(data: Mapping[str, Any]) -> Assessed:
    results: tuple[SwitchFinding, ...] = ()
    if data.get("untouched"):
        results = diagnose_switches(data["untouched"], data.get("pressed") or {}, data.get("wiring"))
    probe = data.get("probe")
    if probe:
        results += (diagnose_probe(probe["stowed"], probe["deployed"], probe.get("touched")),)
    if not results:
        raise ChoiceError("probing.put_states_switches_2")
    kinds = {result.kind for result in results}
    if kinds <= {"good"}:
        level, word = "good", "All switches right"
    elif kinds <= {"good", "waiting"}:
        level, word = "waiting", "Press the others too"
    else:
        level, word = "bad", "Something is wrong"
    return Assessed("switches", level, word, tuple(words(result.remark) for result in results), results)


def record_finding(session: Session, visit_id: int, item: str, state: str, note: str = "") -> Finding:
    """Note what the walk round found at an item; the newest word counts.

    Raises
    ------
    ChoiceError, ConflictError, NotFoundError
    """
    visit = get_visit(session, visit_id, lock=True)
    _open(visit)
    known = {walk_item.key: walk_item for walk_item in walk_items(visit.printer)}
    if item not in known:
        raise ChoiceError("probing.walk_round_printer_no", item=item)
    if state not in (*FINDINGS, "open"):
        raise ChoiceError("probing.item_good_bad_skipped")
    before = latest_findings(session, visit_id).get(item)
    finding = Finding(visit_id=visit_id, item=item, state=state, note=note.strip())
    session.add(finding)
    session.flush()
    if state == "bad" and (before is None or before.state != "bad"):
        title = known[item].title
        write_entry(
            session,
            "finding",
            f"Not as it should be: {lower_first(title)}",
            note.strip(),
            printer=visit.printer,
            visit=visit,
        )
    return finding


def walk_items(printer: Printer) -> list[Item]:
    """The walk-round items that concern a printer."""
    return items_for(walk_round(), features_of(printer))


def store_test(
    session: Session,
    visit_id: int,
    kind: str,
    data: dict[str, Any],
    *,
    client_key: str,
    source: str = "typed",
    at: datetime | None = None,
) -> ProbingTest:
    """Store a test of a visit, with a line in the logbook.

    Raises
    ------
    ConflictError, NotFoundError, CoreError
    """
    visit = get_visit(session, visit_id, lock=True)
    taken = "Another test was stored with this key, or this one was deleted since."
    known = sent_before(session, ProbingTest, client_key, taken, visit_id=visit_id, kind=kind, data=data)
    if known is not None:
        return known
    _open(visit)
    assessment = assess_test(kind, data, screws_of(visit.printer))
    test = ProbingTest(
        visit=visit,
        taken_at=at or utcnow(),
        client_key=client_key,
        kind=kind,
        source=source,
        data=data,
        level=assessment.level,
        surface=visit.surface,
    )
    session.add(test)
    session.flush()
    write_entry(
        session,
        "test",
        f"{TITLES[kind]}: {lower_first(assessment.word)}",
        f"{' '.join(assessment.sentences)}",
        at=at,
        printer=visit.printer,
        visit=visit,
        subject=test,
    )
    return test


def set_test_deleted(session: Session, test_id: int, deleted: bool) -> ProbingTest:
    """Delete a test, or bring it back."""
    test = set_deleted(session, ProbingTest, test_id, deleted, "There is no such test.")
    _open(get_visit(session, test.visit_id, lock=True))
    set_entries_deleted(session, test, test.deleted_at)
    return test


def before_of(session: Session, visit: Visit, tests: Sequence[ProbingTest] | None = None) -> Before:
    """Sum up what was found out before measuring, for the route."""
    tests = tests_of(session, visit.id) if tests is None else tests
    items = {item.key for item in walk_items(visit.printer)}
    results = {key: finding for key, finding in latest_findings(session, visit.id).items() if key in items}
    soak, trust = newest(tests, "soak"), newest(tests, "repeatability")
    return Before(
        looked_at=len(results),
        bad=sum(result.state == "bad" for result in results.values()),
        items=len(items),
        soak=soak.level if soak else None,
        trust=trust.level if trust else None,
    )


def weaknesses(
    session: Session, visit: Visit, tests: Sequence[ProbingTest] | None = None
) -> dict[str, list[str]]:
    """Say for each judgement what weakens it in this visit."""
    tests = tests_of(session, visit.id) if tests is None else tests
    states = {key: finding.state for key, finding in latest_findings(session, visit.id).items()}
    items = walk_items(visit.printer)
    words = {name: weakened(items, states, name) for name in ("trust", "warm", "map", "plan")}
    soak, trust = newest(tests, "soak"), newest(tests, "repeatability")
    if soak is not None and soak.level == "moving":
        text = "The bed was still moving when it was last watched: what it does after the survey is in no reading."
        words["map"].append(text)
        words["plan"].append(text)
    if trust is not None and trust.level == "poor":
        text = "The probe repeats poorly: find the cause before you correct anything."
        words["map"].append(text)
        words["plan"].append(text)
    switches = newest(tests, "switches")
    if switches is not None and switches.level == "bad":
        words["trust"].append(
            "A switch or the probe reports wrongly: do not home or probe until that is mended."
        )
    beam = newest(tests, "beam")
    if beam is not None and beam.level == "skewed":
        words["plan"].append(
            "The cross beam is skewed: the tilt from left to right comes back after a restart."
        )
    return words


@dataclass(frozen=True)
class Noise:
    """What one reading of a survey is trusted to.

    Attributes
    ----------
    sd : float or None
        mm; none when only the readings themselves can tell.
    dof : float
        Degrees of freedom behind it.
    source : str
        Where it comes from, in words that end a sentence.
    """

    sd: float | None
    dof: float
    source: str


def noise_for(session: Session, record: SurveyRecord) -> Noise:
    """Find what a survey's readings are trusted to: its own way of reading, the visit's test, the printer."""
    return noise_in(session, record.visit, record.noise)


def noise_in(session: Session, visit: Visit, own: float | None = None) -> Noise:
    """Find what readings of a visit are trusted to; ``own`` is what their way of reading says itself, mm."""
    if own is not None:
        return Noise(own, math.inf, "the way it was read")
    test = newest(tests_of(session, visit.id), "repeatability")
    if test is not None:
        try:
            touches = touches_of(test.data)
        except (CoreError, KeyError):
            touches = None
        if touches is not None:
            left_out = ", without its drift and what stood out" if touches.drifting or touches.aside else ""
            return Noise(
                touches.noise, touches.noise_dof, f"this visit's test of {touches.touches} touches{left_out}"
            )
    printer = visit.printer
    if printer.repeatability is not None:
        return Noise(printer.repeatability, math.inf, "the repeatability set for this printer")
    return Noise(None, math.inf, "how well the readings fit")


def describe_test(assessed: Assessed) -> str:
    """Give a test's number for a list."""
    result = assessed.result
    if isinstance(result, Repeatability):
        return f"range {micro(result.range)}, standard deviation {micro(result.sd)}, {result.touches} touches"
    if isinstance(result, Soak):
        return f"{result.heights.size} readings over {(result.times[-1] - result.times[0]) / 60:.0f} min"
    if isinstance(result, SoakAround):
        span = max(item.times[-1] for item in result.against) - min(item.times[0] for item in result.against)
        return f"{len(result.spots)} places in turn over {span / 60:.0f} min"
    if isinstance(result, Skew):
        return f"{millimetres(result.difference, signed=True)} over {result.span:g} mm"
    if isinstance(result, Line):
        return f"middle {millimetres(result.bow, signed=True)}"
    return ", ".join(f"{item.switch}: {item.kind}" for item in result)


def _open(visit: Visit) -> None:
    if visit.ended_at is not None:
        raise ConflictError("This visit is closed. Open it again, or begin a new one.")
