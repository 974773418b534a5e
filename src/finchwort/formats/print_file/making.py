"""Copies of files for a bed: bent, moved, or with one thing changed."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager

from finchwort.core.base.errors import ChoiceError
from finchwort.core.files import Bend, Change, Limits, PrintFile, Shift
from finchwort.core.printers import Bed
from finchwort.formats.print_file.bent import Bender
from finchwort.formats.print_file.changed import Changer, changer_of
from finchwort.formats.print_file.copying import Copy, Editor
from finchwort.formats.print_file.moved import Mover, find_stretch
from finchwort.formats.print_file.moved_part import PartMover

Text = Callable[[], Iterable[bytes]]
"""Gives the text of the file from its beginning, each time it is called."""


@contextmanager
def _writing(text: Text, print_: PrintFile, editor: Editor) -> Iterator[Copy]:
    copy = Copy()
    try:
        copy.write(text(), editor)
        if (copy.lines, copy.size) != (print_.lines, print_.size):
            raise ChoiceError("files.copy_other")
        yield copy
    except BaseException:
        copy.close()
        raise


def bent_copy(text: Text, print_: PrintFile, bend: Bend, limits: Limits) -> tuple[Copy, Bender]:
    """Bend the first layers of a file to a bed.

    Parameters
    ----------
    text : callable
        See `Text`.
    print_ : PrintFile
        What was read of it.
    bend : Bend
    limits : Limits

    Returns
    -------
    copy : Copy
        To be closed.
    bender : Bender
        What it came to.

    Raises
    ------
    CoreError
        When it would touch, be too fast, or the file cannot be rewritten.
    """
    bender = Bender(bend, limits)
    with _writing(text, print_, bender) as copy:
        return copy, bender


def moved_copy(text: Text, print_: PrintFile, shift: Shift, bed: Bed) -> Copy:
    """Move the print of a file, or one part of it; what comes before and after it stays.

    Raises
    ------
    CoreError
        When it would leave the area or meet something, or the file homes, parks or purges within its print; of a single part, when it would meet
        others, is laid in one go with them, or parts are printed one after the other.
    """
    stretch = find_stretch(text(), print_)
    half = print_.line_width / 2
    if shift.part is None:
        with _writing(text, print_, Mover(shift, stretch, bed, half)) as copy:
            return copy
    mover = PartMover(shift, stretch, bed, half, print_.layer)
    with _writing(text, print_, mover) as copy:
        mover.finish()
        return copy


def changed_copy(text: Text, print_: PrintFile, change: Change, now: float) -> Copy:
    """Change one thing of the first layer.

    Raises
    ------
    CoreError
        When there is no place for it in the file.
    """
    changer: Changer = changer_of(print_, change, now)
    with _writing(text, print_, changer) as copy:
        changer.finish()
        return copy
