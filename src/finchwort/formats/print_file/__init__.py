"""Files of prints (G-code), read as a stream."""

from finchwort.formats.print_file.packing import pack_print, unpack_print
from finchwort.formats.print_file.reading import PrintReader, read_print
from finchwort.formats.print_file.source import MAX_BYTES

__all__ = ["MAX_BYTES", "PrintReader", "pack_print", "read_print", "unpack_print"]
