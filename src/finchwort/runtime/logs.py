"""The log: one file that is turned over when it grows, written by one process, without secrets."""

from __future__ import annotations

import contextlib
import json
import logging
import os
import re
import subprocess
import threading
from collections.abc import Iterator, Mapping
from datetime import UTC, datetime
from logging.handlers import RotatingFileHandler
from pathlib import Path
from typing import Any, TextIO

import structlog

NAME = "finchwort.log"
MAX_BYTES, KEPT = 1_000_000, 5
LONGEST = 4_000
"""Characters of a line that are kept."""
SECRET = re.compile(r"(?i)^(.*_)?(code|token|password|passwd|secret|cookie|authorization|key)$")
_SECRETS_IN_TEXT = (
    (
        re.compile(r"(?i)\b(code|token|password|secret|cookie|authorization)(\s*[=:]\s*)\S+"),
        r"\1\2[left out]",
    ),
    (re.compile(r"(\w+://[^\s:/@]+):[^\s@/]+@"), r"\1:[left out]@"),
    (re.compile(r"(finchwort(?:-device)?=)[\w-]{20,}"), r"\1[left out]"),
)
LEFT_OUT = "[left out]"


def without_secrets(value: Any) -> Any:
    """Return what is logged without what must not stand in a file.

    Examples
    --------
    >>> without_secrets({"event": "asked", "token": "abc", "url": "mysql://me:pw@host/db"})
    {'event': 'asked', 'token': '[left out]', 'url': 'mysql://me:[left out]@host/db'}
    """
    if isinstance(value, Mapping):
        return {k: LEFT_OUT if SECRET.match(str(k)) else without_secrets(v) for k, v in value.items()}
    if isinstance(value, list):
        return [without_secrets(item) for item in value]
    if isinstance(value, str):
        for pattern, instead in _SECRETS_IN_TEXT:
            value = pattern.sub(instead, value)
    return value


class Log:
    """Writes what all parts say into one file; the only writer of it, so that it can be turned over."""

    def __init__(self, folder: Path) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self.path = folder / NAME
        self._handler = RotatingFileHandler(self.path, maxBytes=MAX_BYTES, backupCount=KEPT, encoding="utf-8")
        self._handler.setFormatter(logging.Formatter("%(message)s"))
        self.path.chmod(0o600)
        self._threads: list[threading.Thread] = []
        self._log = structlog.wrap_logger(
            _Lines(self._handler),
            processors=[
                structlog.processors.add_log_level,
                structlog.processors.TimeStamper(fmt="iso", utc=True),
                lambda _logger, _name, event: without_secrets(event),
                structlog.processors.JSONRenderer(),
            ],
        )

    def say(self, sentence: str, part: str = "finchwort", level: str = "info", **more: Any) -> None:
        """Write a line."""
        getattr(self._log, level)(sentence, part=part, **more)

    def listen(self, part: str, process: subprocess.Popen[Any]) -> None:
        """Write down what a process says, until it ends."""
        thread = threading.Thread(target=self._pump, args=(part, process), daemon=True)
        thread.start()
        self._threads = [thread for thread in self._threads if thread.is_alive()] + [thread]

    def _pump(self, part: str, process: subprocess.Popen[Any]) -> None:
        assert process.stdout is not None
        with process.stdout as text:
            for raw in iter(text.readline, b""):
                line = raw.decode(errors="replace").rstrip()[:LONGEST]
                if not line:
                    continue
                try:
                    event = json.loads(line)
                    sentence = str(event.pop("event"))
                except (ValueError, AttributeError, KeyError, TypeError):
                    event, sentence = {}, line
                level = str(event.pop("level", "info"))
                event.pop("timestamp", None)
                event.pop("part", None)
                known = level if level in ("debug", "info", "warning", "error", "critical") else "info"
                self.say(sentence, part, known, **event)

    def close(self) -> None:
        """Write what is still on its way, and close the file."""
        for thread in self._threads:
            thread.join(5)
        self._handler.close()


class _Lines:
    """What structlog writes to: each level is one line of the file."""

    def __init__(self, handler: logging.Handler) -> None:
        self._handler = handler

    def msg(self, line: str) -> None:
        """Write a line."""
        self._handler.handle(logging.makeLogRecord({"msg": line}))

    debug = info = warning = error = critical = msg


def read_log(folder: Path, last: int, part: str | None = None) -> list[dict[str, Any]]:
    """Return the last lines of the log, oldest first."""
    results: list[dict[str, Any]] = []
    files = [folder / NAME, *(folder / f"{NAME}.{i}" for i in range(1, KEPT + 1))]
    for path in files:
        lines = list(_lines(path, part))
        results = lines[-(last - len(results)) :] + results if last > len(results) else results
    return results


def _lines(path: Path, part: str | None) -> Iterator[dict[str, Any]]:
    try:
        with open(path, encoding="utf-8", errors="replace") as file:
            for raw in file:
                line = parse(raw)
                if line and (part is None or line.get("part") == part):
                    yield line
    except OSError:
        return


def parse(raw: str) -> dict[str, Any] | None:
    """Read a line of the log; half a line is none."""
    try:
        line = json.loads(raw)
    except ValueError:
        return None
    return line if isinstance(line, dict) else None


def in_words(line: dict[str, Any]) -> str:
    """Return a line as a person reads it.

    Examples
    --------
    >>> in_words({"timestamp": "2026-01-02T03:04:05.6Z", "level": "info", "part": "web", "event": "Ready.", "n": 2})
    '2026-01-02 03:04:05  web  Ready.  n=2'
    """
    more = [f"{k}={v}" for k, v in line.items() if k not in ("timestamp", "level", "part", "event")]
    level = [str(line["level"]).upper()] if line.get("level") not in ("info", "debug", None) else []
    at = str(line.get("timestamp", datetime.now(UTC).isoformat()))[:19].replace("T", " ")
    return "  ".join([at, str(line.get("part", "")), *level, str(line.get("event", "")), *more])


def tail(folder: Path, stopping: threading.Event, part: str | None = None) -> Iterator[dict[str, Any]]:
    """Give lines of the log as they come, also when it is turned over, until told to stop."""
    path = folder / NAME
    with contextlib.ExitStack() as held:
        file = _open_at_end(path, held)
        while not stopping.is_set():
            turned = file is None or not _is_still(path, file)
            # what was written before it was turned over is read to its end
            for raw in file or ():
                line = parse(raw)
                if line and (part is None or line.get("part") == part):
                    yield line
            if turned:
                held.close()
                file = (
                    held.enter_context(open(path, encoding="utf-8", errors="replace"))
                    if path.exists()
                    else None
                )
            else:
                stopping.wait(0.3)


def _open_at_end(path: Path, held: contextlib.ExitStack) -> TextIO | None:
    if not path.exists():
        return None
    file = held.enter_context(open(path, encoding="utf-8", errors="replace"))  # noqa: SIM115
    file.seek(0, 2)
    return file


def _is_still(path: Path, file: TextIO) -> bool:
    try:
        return path.stat().st_ino == os.fstat(file.fileno()).st_ino
    except OSError:
        return False
