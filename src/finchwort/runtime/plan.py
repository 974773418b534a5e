"""What is to run over a folder."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

SHARE_PORT = 8443


@dataclass(frozen=True)
class Plan:
    """What is to run.

    Attributes
    ----------
    folder : Path
    port : int
        Of the pages, on the loopback address.
    database_port : int or None
        A free one when not given.
    fresh : bool
        Forget what is stored.
    log : bool
        Write what the parts say into the log; otherwise it goes to the terminal.
    share : bool or None
        Open or close the way in from the network; None leaves it as it was.
    share_port : int
    share_addresses : sequence of str
        Where to listen for devices; this computer's addresses in local networks when empty.
    backups : bool
    demo : bool
        The demo workshop can be started beside it.
    stop_by : str
        How it is stopped, in words.
    advice : str or None
        What to do when the port is taken.
    """

    folder: Path
    port: int
    database_port: int | None = None
    fresh: bool = False
    log: bool = True
    share: bool | None = None
    share_port: int = SHARE_PORT
    share_addresses: Sequence[str] = ()
    backups: bool = True
    demo: bool = True
    stop_by: str = "finchwort stop"
    advice: str | None = None
