"""Which cards a person takes to the printer, by what carries its bed."""

from __future__ import annotations

import numpy as np
from sqlalchemy.orm import Session

from finchwort.core.levelling import TAPE, beam_span
from finchwort.core.surveys import TILT_SHARE
from finchwort.messages.levelling import hump_sentence
from finchwort.messages.levelling.cards import Deck, bare_deck, beam_deck, carriage_deck, foil_deck, tape_deck
from finchwort.messages.remarks import sentences
from finchwort.services.levelling.plans import beam_for, left_of, shims_for, tape_for
from finchwort.services.surveys.surveys import fit_of
from finchwort.services.visits.standing import survey_stands
from finchwort.store.models import SurveyRecord, Visit
from finchwort.store.printers.printers import foils_of, get_workshop
from finchwort.store.surveys.surveys import OPEN
from finchwort.store.visits.visits import list_rounds


def deck_of(session: Session, visit: Visit, *, lower_middle: float = 0.0, tape: float = TAPE) -> Deck:
    """Return the cards for the newest survey of a visit.

    Parameters
    ----------
    lower_middle : float
        How much lower the middle is wished, mm.
    tape : float
        One layer of it, mm.

    Raises
    ------
    ChoiceError
        When foil is wanted and the drawer is empty.
    """
    rounds = list_rounds(session, visit)
    if not rounds:
        return Deck("nothing", "Measure first", ("Cards come from readings: take a survey.",))
    record = rounds[-1].survey
    standing = survey_stands(session, record)
    if standing.gone:
        return Deck("nothing", "Measure again", tuple(sentences(standing.reasons[:1])))
    if record.verdict == OPEN:
        text = "Paper said only which way, so nobody knows how far. Level by paper, or read the Z at which it drags."
        return Deck("nothing", "How far is not known", (text,))
    return _by_support(session, record, lower_middle, tape)


def _by_support(session: Session, record: SurveyRecord, lower_middle: float, tape: float) -> Deck:
    printer = record.visit.printer
    if printer.beam_screws == 2:
        result = beam_deck(beam_for(session, record)[0], bool(printer.screws))
        if result:
            return result
    if printer.screws:
        return Deck("knobs", "Knobs to turn")
    if printer.pads:
        return foil_deck(shims_for(session, record, lower_middle), foils_of(get_workshop(session)))
    if printer.beam_screws == 1:
        fit = fit_of(session, record)
        span = beam_span(printer.beam_left, printer.beam_right, printer.width)
        result = carriage_deck(
            fit.plane.a * span,
            fit.margin(np.array([span, 0.0])),
            TILT_SHARE * record.visit.first_layer,
        )
        if result:
            return result
    plan = tape_for(session, record, tape)
    return tape_deck(plan) or bare_deck(
        left_of(session, record).remedies, list(map(hump_sentence, plan.humps))
    )
