"""Files of prints (G-code), read as a stream, and copies of them for a bed."""

from finchwort.formats.print_file.bent import Bender
from finchwort.formats.print_file.copying import Copy
from finchwort.formats.print_file.making import Text, bent_copy, changed_copy, moved_copy
from finchwort.formats.print_file.packing import pack_print, unpack_print
from finchwort.formats.print_file.reading import PrintReader, read_print
from finchwort.formats.print_file.source import MAX_BYTES, text_of

__all__ = [
    "MAX_BYTES",
    "Bender",
    "Copy",
    "PrintReader",
    "Text",
    "bent_copy",
    "changed_copy",
    "moved_copy",
    "pack_print",
    "read_print",
    "text_of",
    "unpack_print",
]
