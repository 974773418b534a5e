"""A dialect: what a kind of machine is told, and how its answers are understood.  Kept in a TOML file."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from pathlib import Path

NEEDED = ("home", "travel", "lift", "touch", "bed", "nozzle", "temperatures", "switches", "stop")
"""Commands no dialect can do without."""
GROUPS = {
    "touch": {"x", "y", "z"},
    "temperatures": {"nozzle", "bed"},
    "switch": {"name", "state"},
    "resend": {"line"},
    "offset": {"value"},
    "identity": {"firmware"},
    "ability": {"name", "value"},
    "steps": {"x", "y", "z"},
    "compensation": {"on"},
    "mesh_row": {"values"},
}
"""What a reply's pattern must find by name."""
REPLIES = (
    "ok",
    "busy",
    "resend",
    "start",
    "halted",
    "error",
    "touch",
    "failed_touch",
    "temperatures",
    "switch",
    "offset",
    "identity",
    "ability",
    "steps",
    "compensation",
    "mesh_row",
    "no_mesh",
)
_TRIAL = {"value": 1.0, "x": 1.0, "y": 1.0, "z": 1.0, "feed": 1000.0, "temperature": 60.0, "number": 0}


class DialectError(ValueError):
    """A dialect file that cannot be used; the text says why."""


@dataclass(frozen=True)
class Dialect:
    """How to talk to a kind of machine.

    Attributes
    ----------
    name : str
    ending : str
        Of a line.
    numbered : bool
        Whether lines carry a number and a checksum.
    resend_ok : bool
        Whether a request to send a line again is followed by an "ok" of its own.
    patience : float
        Silence after which the machine counts as gone, s.
    longest : float
        How long it may say that it is busy, s.
    mesh_from : {"front", "back"}
        Whether the first row of a mesh it tells, or the one numbered 0, is at the front or at the back.
    commands : mapping of str to str
        Format strings.
    replies : mapping of str to pattern
    """

    name: str
    ending: str
    numbered: bool
    resend_ok: bool
    patience: float
    longest: float
    mesh_from: str
    commands: Mapping[str, str]
    replies: Mapping[str, re.Pattern]

    def say(self, command: str, **values: float) -> str:
        """Write a command; empty when this machine does not know it."""
        text = self.commands.get(command, "")
        return text.format(**values)

    def hear(self, reply: str, line: str) -> re.Match | None:
        """Match a line with a kind of reply."""
        pattern = self.replies.get(reply)
        return pattern.match(line) if pattern else None


def parse_dialect(text: str) -> Dialect:
    """Read a dialect.

    Raises
    ------
    DialectError
        With a sentence about what is wrong.
    """
    try:
        data = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise DialectError(f"This is no TOML: {error}.") from None
    commands = {key: str(value) for key, value in data.get("commands", {}).items()}
    missing = [name for name in NEEDED if not commands.get(name)]
    if missing:
        raise DialectError(
            f"The dialect lacks the command{'s' if len(missing) > 1 else ''} {', '.join(missing)}."
        )
    for name, command in commands.items():
        try:
            command.format(**_TRIAL)
        except (KeyError, ValueError, IndexError):
            raise DialectError(f"The command {name} cannot be filled in: {command}") from None
        if "\n" in command or "\r" in command:
            raise DialectError(f"The command {name} has more than one line.")
    replies = {}
    for name, pattern in data.get("replies", {}).items():
        if name not in REPLIES:
            raise DialectError(f"There is no reply called {name}.")
        try:
            replies[name] = re.compile(str(pattern), re.IGNORECASE)
        except re.error as error:
            raise DialectError(f"The reply {name} is no regular expression: {error}.") from None
        lacking = GROUPS.get(name, set()) - set(replies[name].groupindex)
        if lacking:
            raise DialectError(f"The reply {name} must find {', '.join(sorted(lacking))}.")
    for name in ("ok", "touch", "temperatures", "switch"):
        if name not in replies:
            raise DialectError(f"The dialect lacks the reply {name}.")
    line = data.get("line", {})
    mesh_from = str(line.get("mesh_from", "front"))
    if mesh_from not in ("front", "back"):
        raise DialectError("The first row of a mesh (mesh_from) is at the front or at the back.")
    return Dialect(
        name=str(data.get("name", "unnamed")),
        ending=str(line.get("ending", "\n")),
        numbered=bool(line.get("numbered", False)),
        resend_ok=bool(line.get("resend_ok", True)),
        patience=float(line.get("patience", 30.0)),
        longest=float(line.get("longest", 1800.0)),
        mesh_from=mesh_from,
        commands=commands,
        replies=replies,
    )


@cache
def dialects() -> dict[str, str]:
    """Names of the dialects that ship, by key."""
    folder = files(__package__).joinpath("dialects")
    found = {}
    for entry in folder.iterdir():
        if entry.name.endswith(".toml"):
            found[entry.name.removesuffix(".toml")] = parse_dialect(entry.read_text("utf-8")).name
    return dict(sorted(found.items()))


def load_dialect(key: str, folder: Path | None = None) -> Dialect:
    """Load a dialect by its key: one of a folder of one's own first, then one that ships.

    Raises
    ------
    DialectError
    """
    if not re.fullmatch(r"[a-z0-9_-]{1,40}", key):
        raise DialectError(f"{key!r} is no name of a dialect.")
    own = folder / f"{key}.toml" if folder else None
    if own is not None and own.is_file():
        return parse_dialect(own.read_text("utf-8"))
    shipped = files(__package__).joinpath("dialects", f"{key}.toml")
    if not shipped.is_file():
        raise DialectError(f"There is no dialect called {key}.")
    return parse_dialect(shipped.read_text("utf-8"))
