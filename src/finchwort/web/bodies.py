"""How large the body of a request may be: files of prints are large, nothing else is."""

from __future__ import annotations

import copy
from typing import Any

from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser

from finchwort.formats.print_file import MAX_BYTES
from finchwort.web.security import FILES


class FileParser(HTTPRequestParser):  # type: ignore[misc]
    """Takes a large body for the routes that take files; it is laid on the disk, not into memory."""

    def parse_header(self, header_plus: bytes) -> None:
        """Read the head of a request."""
        super().parse_header(header_plus)
        if FILES.fullmatch(self.path) and self.command == "POST":
            self.adj: Any = copy.copy(self.adj)
            self.adj.max_request_body_size = MAX_BYTES + 1


class FileChannel(HTTPChannel):  # type: ignore[misc]
    """A connection whose requests are read so."""

    parser_class = FileParser
