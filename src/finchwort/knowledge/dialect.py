"""A dialect: what a kind of machine is told, and how its answers are understood.

A folder of its name holds up to four files: ``talk.toml`` (the line, what it is told to do, what it answers), ``ask.toml`` (what
it is asked about itself), ``print.toml`` (commands around a test print) and ``mesh.toml`` (how it takes a mesh).  Folders of
one's own go before those that ship; ``FINCHWORT_DIALECTS`` names the folder that they lie in.
"""

from __future__ import annotations

import os
import re
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from pathlib import Path
from typing import Any

FILES = ("talk", "ask", "print", "mesh")
SHIPPED = files(__package__).joinpath("dialects")
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
PRINT_NEEDS = ("units", "absolute", "relative_filament", "bed_wait", "nozzle_wait", "home")
"""Commands without which no test print can be written."""
STATES = ("open", "triggered")
"""States of a switch, whatever a machine calls them."""
USUAL = "open"
OWN = "FINCHWORT_DIALECTS"
"""Names the folder of one's own dialects, for every process."""
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
    states : mapping of str to str
        What this machine calls the states of a switch, and which of ``STATES`` it means.
    printing : mapping of str to str
        Commands around the moves of a test print; empty where they are not known.
    mesh : mapping of str to str
        Commands by which it takes a mesh; written out for the person, never sent.
    """

    name: str
    ending: str
    numbered: bool
    resend_ok: bool
    patience: float
    longest: float
    mesh_from: str
    commands: Mapping[str, str]
    replies: Mapping[str, re.Pattern[str]]
    states: Mapping[str, str]
    printing: Mapping[str, str]
    mesh: Mapping[str, str]

    def say(self, command: str, **values: float) -> str:
        """Write a command; empty when this machine does not know it."""
        text = self.commands.get(command, "")
        return text.format(**values)

    def hear(self, reply: str, line: str) -> re.Match[str] | None:
        """Match a line with a kind of reply."""
        pattern = self.replies.get(reply)
        return pattern.match(line) if pattern else None

    def hear_switch(self, line: str) -> tuple[str, str] | None:
        """Understand a line as the name of a switch and its state, one of ``STATES``."""
        heard = self.hear("switch", line)
        state = self.states.get(heard["state"].lower()) if heard else None
        return None if heard is None or state is None else (heard["name"].lower(), state)


def parse_dialect(talk: str, ask: str = "", printing: str = "", mesh: str = "") -> Dialect:
    """Read a dialect from the texts of its files.

    Raises
    ------
    DialectError
        With a sentence about what is wrong.
    """
    data, asked = _toml(talk), _toml(ask)
    commands = {key: str(value) for part in (data, asked) for key, value in part.get("commands", {}).items()}
    missing = [name for name in NEEDED if not commands.get(name)]
    if missing:
        raise DialectError(
            f"The dialect lacks the command{'s' if len(missing) > 1 else ''} {', '.join(missing)}."
        )
    _check_commands(commands, _TRIAL)
    replies = {}
    for name, pattern in (data.get("replies", {}) | asked.get("replies", {})).items():
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
    words = data.get("states", {})
    if set(words) - set(STATES):
        raise DialectError(f"A switch is {' or '.join(STATES)}; the dialect says how the machine calls that.")
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
        states={str(words.get(state, state)).lower(): state for state in STATES},
        printing=_read_printing(printing),
        mesh=_check_commands(_flat(mesh), {"column": 0, "row": 0, "height": 0.1, "fade": 10.0}),
    )


def _toml(text: str) -> dict[str, Any]:
    try:
        return tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise DialectError(f"This is no TOML: {error}.") from None


def _flat(text: str) -> dict[str, str]:
    return {key: str(value) for key, value in _toml(text).items()}


def _read_printing(text: str) -> Mapping[str, str]:
    commands = _flat(text)
    missing = [name for name in PRINT_NEEDS if commands and name not in commands]
    if missing:
        raise DialectError(f"For a test print the dialect lacks {', '.join(missing)}.")
    return _check_commands(commands, {"temperature": 60.0, "text": "here"})


def _check_commands(commands: Mapping[str, str], trial: Mapping[str, Any]) -> Mapping[str, str]:
    for name, command in commands.items():
        try:
            command.format(**trial)
        except (KeyError, ValueError, IndexError):
            raise DialectError(f"The command {name} cannot be filled in: {command}") from None
        if "\n" in command or "\r" in command:
            raise DialectError(f"The command {name} has more than one line.")
    return commands


def own_folder() -> Path | None:
    """Return the folder of one's own dialects, when there is one."""
    named = os.environ.get(OWN)
    return Path(named) if named else None


def dialects() -> dict[str, str]:
    """Names of all dialects by key: those that ship, and those of one's own that can be read."""
    results = {key: _shipped(key).name for key in _shipped_keys()}
    folder = own_folder()
    if folder is not None and folder.is_dir():
        for entry in sorted(folder.iterdir()):
            key = entry.name.removesuffix(".toml")
            try:
                results[key] = load_dialect(key, folder).name
            except DialectError:
                continue  # whoever chose it hears why when it is used
    return dict(sorted(results.items()))


def load_dialect(key: str, folder: Path | None = None) -> Dialect:
    """Load a dialect by its key: one of a folder of one's own first, then one that ships.

    A single file of that name in the folder is taken for what the machine is told and asked, as dialects were kept before.

    Raises
    ------
    DialectError
    """
    if not re.fullmatch(r"[a-z0-9_-]{1,40}", key):
        raise DialectError(f"{key!r} is no name of a dialect.")
    folder = folder or own_folder()
    if folder is not None and (folder / key / "talk.toml").is_file():
        return parse_dialect(*(_text(folder / key / f"{name}.toml") for name in FILES))
    if folder is not None and (folder / f"{key}.toml").is_file():
        return parse_dialect(_text(folder / f"{key}.toml"))
    if key not in _shipped_keys():
        raise DialectError(f"There is no dialect called {key}.")
    return _shipped(key)


def _text(path: Path) -> str:
    try:
        return path.read_text("utf-8")
    except FileNotFoundError:
        return ""
    except (OSError, UnicodeDecodeError) as error:
        raise DialectError(f"{path.name} of the dialect cannot be read: {error}.") from None


@cache
def _shipped_keys() -> tuple[str, ...]:
    return tuple(sorted(entry.name for entry in SHIPPED.iterdir() if entry.is_dir()))


@cache
def _shipped(key: str) -> Dialect:
    return parse_dialect(*(SHIPPED.joinpath(key, f"{name}.toml").read_text("utf-8") for name in FILES))


def dialect_of(key: str) -> Dialect:
    """Return the dialect by which a printer's words are read: the usual one where its own files are not here.

    Only for reading: what is written for a machine comes from `print_commands` and `mesh_commands`.
    """
    try:
        return load_dialect(key)
    except DialectError:
        return _shipped(USUAL)


def print_commands(key: str) -> Mapping[str, str]:
    """Commands around a test print in a dialect; empty where they are not known.

    References
    ----------
    Common practice; moves, dwell and stop are words of ISO 6983-1.

    Examples
    --------
    >>> print_commands("open")["fan_off"], print_commands("nowhere")
    ('M107', {})
    """
    try:
        return load_dialect(key).printing
    except DialectError:
        return {}


def mesh_commands(key: str) -> Mapping[str, str]:
    """Commands by which a machine takes a mesh, in a dialect; empty where they are not known.

    References
    ----------
    Common practice.
    """
    try:
        return load_dialect(key).mesh
    except DialectError:
        return {}
