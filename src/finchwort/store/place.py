"""Where the records of a workshop lie, and what is known of the Finchwort that runs over them."""

from __future__ import annotations

import fcntl
import json
import os
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any

import platformdirs

ENVIRONMENT = "FINCHWORT_DATABASE_URL"
"""Names the database to the parts."""
ROOM = "FINCHWORT_DATA"
"""Names the folder of the records to the parts: nothing is stored when there is no room left in it."""
STATE = "running.json"
"""Written by the process that runs everything; read by the pages and the command line."""

TROUBLE = "trouble.json"
"""Beside the backups: why the last one was not made."""


def usual_folder() -> Path:
    """Return the folder of one's own workshop when none is named: in the user's data folder."""
    return Path(platformdirs.user_data_dir("finchwort", appauthor=False))


@dataclass(frozen=True)
class Place:
    """The folder of a workshop."""

    folder: Path

    @property
    def backups(self) -> Path:
        """Where backups go."""
        return self.folder / "backups"

    @property
    def logs(self) -> Path:
        """Where the log is written."""
        return self.folder / "logs"

    @property
    def authority(self) -> Path:
        """Where the certificates and their keys are kept."""
        return self.folder / "authority"

    @property
    def demo(self) -> Path:
        """Where the demo workshop lies that is looked at beside one's own."""
        return self.folder / "demo"


@dataclass
class Shared:
    """How it can be reached from the network."""

    urls: list[str] = field(default_factory=list)
    fingerprint: str = ""
    trouble: str = ""


@dataclass
class Running:
    """What the Finchwort that runs says of itself."""

    pid: int
    port: int
    since: str
    version: str
    parts: dict[str, bool] = field(default_factory=dict)
    shared: Shared | None = None
    demo: str | None = None
    demo_ready: bool = False
    can_share: bool = True
    can_demo: bool = False
    keeps: bool = True

    def write(self, folder: Path) -> None:
        """Write it down, at one stroke."""
        part = folder / f"{STATE}.part"
        part.write_text(json.dumps(asdict(self)))
        part.chmod(0o600)
        part.replace(folder / STATE)


def running(folder: Path) -> Running | None:
    """Tell what runs over a folder; None when nothing does, whatever an earlier run left there."""
    if not held(folder):
        return None
    try:
        text: dict[str, Any] = json.loads((folder / STATE).read_text())
        shared = text.pop("shared", None)
        result = Running(**text, shared=Shared(**shared) if shared else None)
        os.kill(result.pid, 0)
    except (OSError, ValueError, TypeError):
        return None
    return result


def held(folder: Path) -> bool:
    """Tell whether a process holds a folder: its lock is let go when that process dies."""
    try:
        with open(folder / "lock") as lock:
            fcntl.flock(lock, fcntl.LOCK_SH | fcntl.LOCK_NB)
    except FileNotFoundError:
        return False
    except OSError:
        return True
    return False


def backup_trouble(folder: Path) -> str:
    """Return why the last backup by itself was not made; empty when it was."""
    try:
        return str(json.loads((folder / TROUBLE).read_text()).get("trouble", ""))
    except (OSError, ValueError, AttributeError):
        return ""


def tell_backup_trouble(folder: Path, sentence: str) -> None:
    """Write down why no backup was made, or that there is no trouble any more."""
    folder.mkdir(parents=True, exist_ok=True)
    (folder / TROUBLE).write_text(json.dumps({"trouble": sentence}))
