"""Prints as the API gives them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

from finchwort.core.base.wording import counted, lasting
from finchwort.core.diagnosis import cost_of
from finchwort.core.printers import COAT_PRINTS, MANY_PRINTS
from finchwort.core.prints import ClockedLook, LettingGo, PrintOutcome, Share, saved_by_stopping
from finchwort.knowledge import materials, surfaces
from finchwort.messages import prints as say
from finchwort.messages.remarks import words
from finchwort.services.prints.begin import Proposed, made_with
from finchwort.services.prints.due import due_of
from finchwort.services.prints.ending import usual_end, usual_letting_go
from finchwort.services.prints.statistics import BandResult, Results
from finchwort.services.prints.watch import Watched
from finchwort.store.models import Printer
from finchwort.store.printers.printers import bed_of
from finchwort.store.prints.models import PrintRun
from finchwort.web import schemas
from finchwort.web.serializers import bed_out

FAILED = (PrintOutcome.LET_GO, PrintOutcome.OTHER)
"""After these the material is lost."""


def form_out(printer: Printer, proposed: Proposed, running: Sequence[PrintRun]) -> schemas.PrintForm:
    """Give with what a print would be begun."""
    strip = proposed.strip
    return schemas.PrintForm.of(
        proposed,
        printer_id=printer.id,
        printer=printer.name,
        **strip,
        surfaces=[
            schemas.OnSurface(name=one.name, kind=one.kind, prints=one.prints_since_wash, coats=one.coats)
            for one in printer.surfaces
        ],
        notes=_notes(printer, strip["surface"], strip["material"]),
        running=running[0].id if running else None,
        running_name=say.named(running[0].name) if running else "",
    )


def _notes(printer: Printer, name: str, material_name: str) -> list[str]:
    surface = next((one for one in printer.surfaces if one.name == name), None)
    results = []
    if surface is not None and surface.coats and surface.prints_since_wash > COAT_PRINTS:
        results.append(
            f"{counted(surface.prints_since_wash, 'print')} on this coat: it is old. Wash it off and put on a thin new one."
        )
    elif surface is not None and surface.prints_since_wash >= MANY_PRINTS:
        results.append(
            f"{counted(surface.prints_since_wash, 'print')} since “{name}” was washed. Wash it first."
        )
    material = materials().get(material_name)
    if material is not None and material.purge:
        results.append(
            f"{material.name} oozes: purge first. Two clear purge lines are the sign that it may go on."
        )
    return results


def brief_out(one: Watched) -> schemas.PrintBrief:
    """Give a print in the list of those that run."""
    print_, due = one.print_, due_of(one)
    return schemas.PrintBrief.of(
        print_,
        printer=print_.printer.name,
        runs=one.runs,
        over=one.over,
        ends_at=_ends_at(one),
        looks=len(one.looks),
        last_seen=one.looks[-1].seen if one.looks else None,
        wanted=_wanted(one, one.wanted),
        coming=_wanted(one, one.coming),
        due_sentence=words(due.said) if due is not None else "",
    )


def print_out(one: Watched) -> schemas.PrintOut:
    """Give a print with its clock."""
    print_ = one.print_
    outcome = PrintOutcome(print_.outcome) if print_.outcome else None
    priced = print_.grams is not None and print_.price is not None
    return schemas.PrintOut.of(
        print_,
        printer=print_.printer.name,
        bed=bed_out(bed_of(print_.printer)),
        made_with=made_with(print_),
        why=say.why_so_often(print_.failures, print_.failure_hours, print_.slender, print_.look_every),
        ends_at=_ends_at(one),
        runs=one.runs,
        over=one.over,
        outcome_words=say.OUTCOMES[outcome] if outcome else "",
        how=say.HOW[LettingGo(print_.how)] if print_.how else "",
        cost=_share_of_cost(one) if outcome in FAILED and priced else None,
        looks=[schemas.PrintLookOut.of(look) for look in one.looks],
        clock=[_clock(print_, look) for look in one.clock],
        wanted=_wanted(one, one.wanted),
        coming=_wanted(one, one.coming),
        saves=_saves(one),
        usual_end=round(usual_end(one), 1),
        usual_letting_go=round(usual_letting_go(one), 1),
        outcomes=[schemas.ChoiceOut(key=key, words=text) for key, text in say.OUTCOMES.items()],
        hows=[schemas.ChoiceOut(key=key, words=text) for key, text in say.HOW.items()],
        cautions=[say.SCRAPES, say.UNATTENDED] if one.runs else [],
    )


def _at(print_: PrintRun, minutes: float) -> datetime:
    return print_.started_at + timedelta(minutes=minutes)


def _ends_at(one: Watched) -> datetime | None:
    return None if one.left is None else _at(one.print_, one.age + one.left)


def _clock(print_: PrintRun, look: ClockedLook) -> schemas.ClockOut:
    return schemas.ClockOut.of(
        look,
        title=say.TITLES[look.kind],
        due=_at(print_, look.due),
        late=_at(print_, look.late),
        at=None if look.at is None else _at(print_, look.at),
    )


def _wanted(one: Watched, look: ClockedLook | None) -> schemas.WantedLookOut | None:
    if look is None:
        return None
    return schemas.WantedLookOut(
        kind=look.kind,
        title=say.TITLES[look.kind],
        good=say.GOOD_NOW[look.kind],
        due=_at(one.print_, look.due),
        late=one.age > look.late,
    )


def _saves(one: Watched) -> str:
    print_ = one.print_
    if one.left is None or not print_.minutes:
        return ""
    minutes, grams = saved_by_stopping(one.left, print_.minutes, print_.grams)
    cost = None if grams is None or print_.price is None else cost_of(grams, print_.price)
    return say.saves(minutes, grams, cost)


def _share_of_cost(one: Watched) -> float:
    """What the material that was laid had cost; all of it where nobody knows how long the print takes."""
    print_ = one.print_
    assert print_.grams is not None and print_.price is not None
    laid = min(print_.ran / print_.minutes, 1.0) if print_.ran is not None and print_.minutes else 1.0
    return round(cost_of(print_.grams * laid, print_.price), 2)


def line_out(print_: PrintRun) -> schemas.PrintLine:
    """Give a print of which it was told what came of it."""
    outcome = PrintOutcome(print_.outcome or PrintOutcome.OTHER)
    return schemas.PrintLine.of(
        print_,
        printer=print_.printer.name,
        lasted=lasting(print_.ran) if print_.ran is not None else "",
        outcome=outcome,
        outcome_words=say.OUTCOMES[outcome],
    )


def _share(share: Share) -> schemas.ShareOut:
    return schemas.ShareOut.of(share, words=say.share_words(share))


def _band(band: BandResult) -> schemas.BandResultOut:
    return schemas.BandResultOut(bed=band.bed, share=_share(band.share))


def results_out(results: Results) -> schemas.PrintResultsOut:
    """Give what came of all prints."""
    known = surfaces()
    return schemas.PrintResultsOut(
        share=_share(results.share),
        pairs=[
            schemas.PairResultOut.of(
                one,
                surface=known[one.surface_kind].name if one.surface_kind in known else "Another surface",
                share=_share(one.share),
                bands=[_band(band) for band in one.bands],
                sentence=say.range_words(
                    (one.held_from, one.held_to)
                    if one.held_from is not None and one.held_to is not None
                    else None,
                    one.table,
                ),
            )
            for one in results.pairs
        ],
        printers=[
            schemas.PrinterResultOut(
                printer_id=one.printer.id,
                printer=one.printer.name,
                share=_share(one.share),
                sentence=say.hazard_words(one.hazard, one.still),
                bed=bed_out(bed_of(one.printer)),
                places=[schemas.XY(x=x, y=y) for x, y in one.places],
            )
            for one in results.printers
        ],
        months=[schemas.MonthResultOut(month=month, share=_share(share)) for month, share in results.months],
        coats=[say.coat_words(one.surface, one.printer, one.life) for one in results.coats],
    )
