"""Who may what: what each request needs, and which role has it.

A reading request needs `LOOK`.  Every other one is named here; one that is not is refused to all devices, so that a new request is
thought of.  The computer that Finchwort runs on is the owner.
"""

from __future__ import annotations

from flask import g

from finchwort.services.access.devices import BENCH, MEMBER, OWNER, VIEWER
from finchwort.store.access.kinds import Need
from finchwort.store.errors import NotAllowedError

LOOK, STOP, RECORD, CHANGE, DELETE, COMMAND, OWN = tuple(Need)
MAY: dict[str, frozenset[str]] = {
    VIEWER: frozenset((LOOK, STOP)),
    BENCH: frozenset((LOOK, STOP, RECORD)),
    MEMBER: frozenset((LOOK, STOP, RECORD, CHANGE, DELETE, COMMAND)),
    OWNER: frozenset((LOOK, STOP, RECORD, CHANGE, DELETE, COMMAND, OWN)),
}
"""Whoever may look may also stop a machine: that is never wrong."""

NEEDS: dict[str, str] = {
    # what only reckons
    "printers.suggest": LOOK,
    "probing.preview_test": LOOK,
    "surveys.preview": LOOK,
    "tramming.what_if": LOOK,
    # what is written down; a job that heats or moves needs more, see `finchwort.web.machine`
    "beliefs.merge_counts": CHANGE,
    "beliefs.delete_import": DELETE,
    "beliefs.restore_import": DELETE,
    "beliefs.add_own": CHANGE,
    "beliefs.delete_pair": DELETE,
    "beliefs.restore_pair": DELETE,
    "bench.add_step": RECORD,
    "bench.undo_step": RECORD,
    "bench.finish": RECORD,
    "bench.add_looks": RECORD,
    "bench.add_look_turned": RECORD,
    "cases.open_case": RECORD,
    "cases.answer_sign": RECORD,
    "cases.add_check": RECORD,
    "cases.hear_words": RECORD,
    "cases.tell_before": RECORD,
    "cases.make_safe": RECORD,
    "cases.correct_setup": RECORD,
    "cases.begin_remedy": RECORD,
    "cases.end_remedy": RECORD,
    "cases.close_case": RECORD,
    "cases.reopen_case": RECORD,
    "cases.delete_case": DELETE,
    "cases.restore_case": DELETE,
    "cases.delete_event": DELETE,
    "cases.restore_event": DELETE,
    "calendar.get_calendar": OWN,
    "calendar.set_calendar": OWN,
    "prints.begin_print": RECORD,
    "prints.change_print": RECORD,
    "prints.add_look": RECORD,
    "prints.end_print": RECORD,
    "prints.reopen_print": RECORD,
    "prints.delete_print": DELETE,
    "prints.restore_print": DELETE,
    "prints.delete_look": DELETE,
    "prints.restore_look": DELETE,
    "changes.add_change": RECORD,
    "changes.tick_step": RECORD,
    "changes.leave_out_rest": RECORD,
    "changes.delete_change": DELETE,
    "changes.restore_change": DELETE,
    "files.add_file": RECORD,
    "files.change_file": RECORD,
    "files.make_copy": RECORD,
    "files.delete_file": DELETE,
    "files.restore_file": DELETE,
    "levelling.post_beam_row": RECORD,
    "levelling.add_adjustment": RECORD,
    "levelling.put_foils": RECORD,
    "levelling.put_foil_under": RECORD,
    "levelling.delete_adjustment": DELETE,
    "levelling.restore_adjustment": DELETE,
    "logbook.add_note": RECORD,
    "logbook.delete_entry": DELETE,
    "logbook.restore_entry": DELETE,
    "machine.ask": RECORD,
    "machine.add_job": RECORD,
    "machine.keep_job": RECORD,
    "machine.see_job": RECORD,
    "machine.set_cold": RECORD,
    "machine.stop_job": STOP,
    "offsets.add_offset": RECORD,
    "offsets.by_paper": RECORD,
    "offsets.by_patches": RECORD,
    "offsets.by_trim": RECORD,
    "offsets.delete_offset": DELETE,
    "offsets.restore_offset": DELETE,
    "pasted.sort_pasted": RECORD,
    "pasted.keep_told": RECORD,
    "printers.create_printer": CHANGE,
    "printers.change_printer": CHANGE,
    "printers.rename_workshop": CHANGE,
    "printers.use_surface": RECORD,
    "printers.delete_printer": DELETE,
    "printers.restore_printer": DELETE,
    "probing.add_finding": RECORD,
    "probing.add_test": RECORD,
    "probing.delete_test": DELETE,
    "probing.restore_test": DELETE,
    "surveys.add_survey": RECORD,
    "surveys.set_aside": RECORD,
    "surveys.delete_survey": DELETE,
    "surveys.restore_survey": DELETE,
    "tramming.add_turning": RECORD,
    "tramming.set_learned": CHANGE,
    "tramming.delete_turning": DELETE,
    "tramming.restore_turning": DELETE,
    "trials.add_ladder": RECORD,
    "trials.add_judged_bed": RECORD,
    "trials.delete_trial": DELETE,
    "trials.restore_trial": DELETE,
    "visits.start_visit": RECORD,
    "visits.change_visit": RECORD,
    "visits.finish_visit": RECORD,
    "visits.reopen_visit": RECORD,
    "visits.delete_visit": DELETE,
    "visits.restore_visit": DELETE,
    "access.get_devices": OWN,
    "access.change_device": OWN,
    "access.remove_device": OWN,
    "access.make_code": OWN,
    "access.get_code": OWN,
    "access.withdraw_code": OWN,
    "access.get_audit": OWN,
    "access.get_sharing": OWN,
    "access.set_sharing": OWN,
    "keeping.get_backups": OWN,
    "keeping.make_backup": OWN,
    "keeping.set_schedule": OWN,
    "keeping.download": OWN,
    "begin.want_demo": OWN,
    "begin.get_demo": OWN,
}

SENTENCES: dict[str, str] = {
    RECORD: "This device may look, but not write anything down. Its owner can give it another role.",
    CHANGE: "This device may not change a set-up. Use another one, or ask the owner for another role.",
    DELETE: "This device may not delete or take back anything. Use another one, or ask the owner for another role.",
    COMMAND: "This device may not heat or move a machine. Use another one, or ask the owner for another role.",
    OWN: "Only the owner may do this.",
}


def need_of(endpoint: str | None, reading: bool) -> str | None:
    """Return what a request needs; None when nobody thought of it."""
    return NEEDS.get(endpoint or "", LOOK if reading else None)


def may(need: str) -> bool:
    """Tell whether who asks has what is needed."""
    return need in MAY[g.get("role", OWNER)]


def demand(need: str) -> None:
    """Refuse who does not have what is needed.

    Raises
    ------
    NotAllowedError
    """
    if not may(need):
        raise NotAllowedError(SENTENCES.get(need, "This device may not do this."))
