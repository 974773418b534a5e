"""A line to a machine: commands out, answers in, whatever the line does.

Bytes are read as they come and cut into lines; what cannot be decoded is kept
as question marks.  A command is answered when "ok" comes.  Meanwhile the machine may say
that it is busy, ask for a line to be sent again, start anew, or halt; each has
an error of its own, and every line goes to a listener that keeps it.
"""

from __future__ import annotations

import contextlib
import re
import time
from collections.abc import Callable
from datetime import UTC, datetime

import serial

from finchwort.knowledge.dialect import Dialect
from finchwort.services.machine.port import LineError, RefusedError, SilentError

SLICE = 0.1
"""So long one read waits at most, s: how soon a stop is heard."""
MAX_RESENDS = 8
LONGEST_LINE = 4_000
"""A line that does not end by then is cut, bytes."""
MAX_HEARD = 2_000
"""A machine that says more than this without answering is not understood, lines."""
MAX_BYTES = 400_000
"""Nor more than this, bytes."""
QUIET = 0.3
"""A line on which nothing came for so long has said what it had to say, s."""

Listener = Callable[[datetime, str, str], None]


class LineLostError(LineError):
    """The line is gone: unplugged, switched off, refused."""


class ResetError(LineError):
    """The machine started anew in the middle of the conversation."""


class HaltedError(LineError):
    """The machine's own protection stopped it."""


class GarbledError(LineError):
    """Too many lines had to be sent again."""


class Line:
    """An open line.

    Parameters
    ----------
    port : str
        As pyserial takes it: a serial port or a URL such as socket://127.0.0.1:8422.
    dialect : Dialect
    baud : int
    listen : callable
        Called with time, way (``>``, ``<`` or ``*``) and text of everything said.
    tick : callable
        Called about every ``SLICE`` seconds while waiting; it may raise to end the wait.
    """

    def __init__(
        self,
        port: str,
        dialect: Dialect,
        baud: int = 115200,
        listen: Listener = lambda *_: None,
        tick: Callable[[], None] = lambda: None,
    ) -> None:
        self.port, self.dialect, self.listen, self.tick = port, dialect, listen, tick
        self._buffer = b""
        self._taken = 0
        self._network = port.startswith("socket://")
        self._number = 0
        self._sent: dict[int, str] = {}
        try:
            self._serial = serial.serial_for_url(port, baudrate=baud, timeout=SLICE, write_timeout=10)
        except (serial.SerialException, OSError, ValueError) as error:
            raise LineLostError(
                f"The line {port} cannot be opened: {_why(error)}. Is the printer on, the cable in, the address right?"
            ) from None
        self._remark(f"opened {port}")

    def close(self) -> None:
        """Close the line."""
        with contextlib.suppress(Exception):
            self._serial.close()

    def settle(self, longest: float = 3.0) -> bool:
        """Read what the machine says on its own after opening; tell whether it has just started."""
        began, quiet, started = time.monotonic(), time.monotonic(), False
        while time.monotonic() - began < longest and time.monotonic() - quiet < QUIET:
            for text in self._read():
                quiet = time.monotonic()
                if self.dialect.hear("halted", text):
                    raise HaltedError(_halted(text))
                started = started or bool(self.dialect.hear("start", text))
            self.tick()
        return started

    def renumber(self, patience: float | None = None) -> None:
        """Begin counting lines anew, when this dialect counts; silence is borne for ``patience`` seconds."""
        if self.dialect.numbered:
            self._number, self._sent = -1, {}
            self.send(self.dialect.say("renumber", number=0), patience)

    def shout(self, command: str) -> None:
        """Send a command without waiting for an answer: to stop at once."""
        if command:
            self._write(command)

    def send(self, command: str, patience: float | None = None) -> list[str]:
        """Send a command and return the lines that came before its "ok", that line included.

        Parameters
        ----------
        command : str
            Nothing is sent when it is empty.
        patience : float, optional
            Silence that is borne, s; the dialect's when not given.

        Raises
        ------
        LineError
            One of its kinds.
        """
        if not command:
            return []
        patience = patience or self.dialect.patience
        self._number += 1
        framed = _frame(self._number, command) if self.dialect.numbered else command
        self._sent = {self._number: framed}
        self._write(framed)
        heard: list[str] = []
        self._taken = 0
        began = last = time.monotonic()
        resends = owed = 0
        while True:
            self.tick()
            for text in self._read():
                last = time.monotonic()
                if self.dialect.hear("halted", text):
                    raise HaltedError(_halted(text))
                if self.dialect.hear("start", text):
                    raise ResetError(
                        "The printer restarted in the middle of this. It has forgotten where it is: home it again."
                    )
                asked = self.dialect.hear("resend", text)
                if asked:
                    resends += 1
                    if resends > MAX_RESENDS:
                        raise GarbledError(
                            "The printer keeps asking for the same line. The cable or its plug is bad: change it."
                        )
                    owed += self.dialect.resend_ok
                    self._again(int(asked["line"]), framed)
                    continue
                if self.dialect.hear("busy", text):
                    continue
                if len(heard) >= MAX_HEARD:
                    raise GarbledError(
                        f"The printer talks without end and does not answer “{command}”. Wrong baud rate, or a loose plug?"
                    )
                if self.dialect.hear("ok", text):
                    if owed:  # this one belongs to the request to send again
                        owed -= 1
                        continue
                    return [*heard, text]
                refused = self.dialect.hear("error", text)
                if refused and _about_numbering(refused["text"]):
                    continue  # a request to send again follows
                if refused:
                    raise RefusedError(f"The printer refuses “{command}”: {refused['text'][:160]}")
                heard.append(text)
            if self._taken > MAX_BYTES:
                raise GarbledError(
                    f"The printer sends without end and does not answer “{command}”. Wrong baud rate, or a loose plug?"
                )
            now = time.monotonic()
            if now - last > patience:
                raise SilentError(
                    f"The printer has not answered “{command}” for {patience:.0f} s. Is it still on? Look at it."
                )
            if now - began > self.dialect.longest:
                raise SilentError(
                    f"The printer has been busy with “{command}” for {(now - began) / 60:.0f} min."
                )

    def _again(self, number: int, framed: str) -> None:
        text = self._sent.get(number)
        if text is None:
            # it counts otherwise than we do: begin counting at the number it wants
            body = re.sub(r"^N\d+ |\*\d+$", "", framed)
            self._number = number
            text = _frame(number, body)
            self._sent = {number: text}
        self._write(text)

    def _write(self, text: str) -> None:
        self.listen(datetime.now(UTC), ">", text)
        try:
            self._serial.write((text + self.dialect.ending).encode("ascii", "replace"))
        except (serial.SerialException, OSError) as error:
            raise LineLostError(_lost(error)) from None

    def _fill(self) -> None:
        try:
            got = self._serial.read(1)
            if got:
                got += self._rest()
        except (serial.SerialException, OSError, TypeError) as error:
            raise LineLostError(_lost(error)) from None
        self._buffer += got
        self._taken += len(got)

    def _rest(self) -> bytes:
        """Return what has come already, without waiting for more."""
        if not self._network:
            waiting = self._serial.in_waiting
            return self._serial.read(min(waiting, LONGEST_LINE)) if waiting else b""
        # over the network nobody says how much waits, so whatever is there is taken
        self._serial.timeout = 0
        try:
            return self._serial.read(LONGEST_LINE)
        except (serial.SerialException, OSError):
            return b""  # gone meanwhile: the next read says so, after what was said before is heard
        finally:
            self._serial.timeout = SLICE

    def _read(self) -> list[str]:
        """Return the lines that are whole, waiting ``SLICE`` seconds at most."""
        self._fill()
        results: list[str] = []
        while True:
            raw, end, rest = self._buffer.partition(b"\n")
            if not end:
                if len(raw) > LONGEST_LINE:
                    rest, self._buffer = b"", b""
                else:
                    return results
            self._buffer = rest
            text = "".join(c if c.isprintable() else "?" for c in raw.decode("utf-8", "replace").strip())
            if text:
                self.listen(datetime.now(UTC), "<", text)
                results.append(text)
            if not end:
                return results

    def _remark(self, text: str) -> None:
        self.listen(datetime.now(UTC), "*", text)


def checksum(text: str) -> int:
    """Exclusive or of the bytes of a text.

    Examples
    --------
    >>> checksum("N1 G28")
    18
    """
    value = 0
    for byte in text.encode("ascii", "replace"):
        value ^= byte
    return value


def _frame(number: int, command: str) -> str:
    text = f"N{number} {command}"
    return f"{text}*{checksum(text)}"


def _about_numbering(text: str) -> bool:
    return bool(re.search(r"checksum|line number", text, re.IGNORECASE))


def _halted(text: str) -> str:
    return (
        f"The printer's own protection halted it: “{text[:160]}”. Leave the protection on. Let it cool, find the cause, "
        "then switch it off and on."
    )


def _lost(error: Exception) -> str:
    return f"The line to the printer is lost ({_why(error)}). Is the cable in and the printer on?"


def _why(error: Exception) -> str:
    inner = re.search(r"\[Errno -?\d+\] ([^'\"\]]+)", str(error))
    text = (inner[1] if inner else str(error)).removeprefix("read failed: ").strip()
    return text[:120].rstrip(".") or type(error).__name__
