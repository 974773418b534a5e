"""Run everything over one folder: database, web server, link, what a workshop has beside them; look after it; end it all."""

from __future__ import annotations

import contextlib
import os
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError

import finchwort
from finchwort.runtime.authority import RENEW_BEFORE, Authority
from finchwort.runtime.keeper import Keeper
from finchwort.runtime.logs import Log
from finchwort.runtime.network import local_addresses, local_name
from finchwort.runtime.parts import (
    Ends,
    Listen,
    Part,
    begin,
    check_port,
    own_command,
    start_web,
    stop,
)
from finchwort.runtime.plan import Plan
from finchwort.runtime.signals import until_told
from finchwort.services.backup import drop_leftovers
from finchwort.services.upkeep import judge_again
from finchwort.store import migrate
from finchwort.store.access.settings import Demo, Sharing, read_setting, write_setting
from finchwort.store.database import make_engine, make_sessions
from finchwort.store.place import STATE, Place, Running, Shared
from finchwort.store.server import DatabaseServer, ServerError, free_port, little_room, port_is_free

LOOK_EVERY = 0.5
"""So often it is looked whether all parts run, s."""
WISHES_EVERY = 1.0
"""And what is wished for: the way in from the network, the demo."""
ADDRESSES_EVERY = 30.0
"""And whether this computer has other addresses now."""
TRY_AGAIN = 20.0
"""What did not start is tried again after so long, s."""
READY = "Finchwort is ready"


@dataclass
class House:
    """Everything that runs over one folder.

    Parameters
    ----------
    plan : Plan
    prepare : callable
        Called with the database once its tables are there; says what there is to say.
    extra : callable
        Called with the address of the database; gives more parts by name.
    """

    plan: Plan
    prepare: Callable[[DatabaseServer, Engine], list[str]] = lambda *_: []
    extra: Callable[[str], dict[str, Callable[[], subprocess.Popen[Any]]]] = lambda _: {}
    parts: dict[str, Part] = field(default_factory=dict)

    def run(self) -> None:
        """Run until told to stop.

        Raises
        ------
        ServerError
            With one sentence that says what to do.
        """
        plan, place = self.plan, Place(self.plan.folder)
        check_port(plan.port, plan.advice)
        stopping = until_told()
        self.database = DatabaseServer(plan.folder, plan.database_port)
        self.database.start(fresh=plan.fresh)
        self.log = Log(place.logs) if plan.log else None
        self.engine: Engine | None = None
        self.keeper: Keeper | None = None
        self.sharing: _SharedPart | None = None
        self.demo: _DemoPart | None = None
        self.state = Running(
            pid=os.getpid(),
            port=plan.port,
            since=datetime.now(UTC).isoformat(timespec="seconds"),
            version=finchwort.__version__,
            can_demo=plan.demo,
            keeps=plan.backups,
        )
        try:
            self._begin(stopping)
            if not stopping.is_set():
                self._look_after(stopping)
        finally:
            self._end()

    def say(self, sentence: str) -> None:
        """Say something, to the terminal and in the log."""
        with contextlib.suppress(OSError):
            print(sentence, flush=True)
        if self.log:
            self.log.say(sentence)

    def _listen(self, part: str) -> Listen | None:
        log = self.log
        return (lambda process: log.listen(part, process)) if log else None

    def _begin(self, stopping: threading.Event) -> None:
        plan = self.plan
        if little_room(plan.folder):
            self.say(
                "There is little room left on the disk: the records can be read, nothing is stored until there is more."
            )
        self.engine = make_engine(self.database.url)
        drop_leftovers(self.database)
        for kept in (Place(plan.folder).backups, plan.folder / "dumps"):
            # they hold everything, and are for this user alone
            kept.mkdir(exist_ok=True)
            kept.chmod(0o700)
        try:
            made = migrate.upgrade(self.engine, dumps=plan.folder / "dumps", after=judge_again)
        except migrate.MigrationError as error:
            raise ServerError(str(error)) from None
        if made:
            self.say(f"The tables were brought to a new form; before that the records were copied to {made}.")
        text = self.prepare(self.database, self.engine)
        self.sessions = make_sessions(self.engine)
        with self.sessions.begin() as session:
            if plan.share is not None:
                write_setting(session, Sharing(plan.share))
            # the demo was wanted by somebody who looked at it then
            write_setting(session, Demo(False))
        if stopping.is_set():
            return
        self.url = url = self.database.url.render_as_string(hide_password=False)
        # before the pages can ask for it
        self.state.write(plan.folder)
        starts = self.extra(url) | {
            "link to the printers": lambda: begin(
                own_command("link"), url, plan.folder, self._listen("link"), quiet=True
            ),
            "web server": lambda: start_web(
                plan.port, url, data=plan.folder, listen=self._listen("web"), advice=plan.advice
            ),
        }
        for name, start in starts.items():
            self.parts[name] = Part(name, start)
        if plan.backups:
            self.keeper = Keeper(self.database.url, Place(plan.folder).backups, self._told)
            self.keeper.start()
        for line in text:
            self.say(line)
        self._write()
        self.say(f"{READY}: http://127.0.0.1:{plan.port}  ({plan.stop_by} stops it)")

    def _told(self, sentence: str) -> None:
        if self.log:
            self.log.say(sentence, "backups")
        else:
            print(sentence, flush=True)

    def _look_after(self, stopping: threading.Event) -> None:
        ends = Ends(self.say)
        where = "its messages are in the log" if self.log else "its messages stand above"
        wished = 0.0
        while not stopping.wait(LOOK_EVERY):
            before = repr(self.state)
            if self.database.process is None or self.database.process.poll() is not None:
                ends.count(f"The database ended by itself; see {self.database.log}.")
                self.database.restart()
            for part in self.parts.values():
                if not part.runs:
                    ends.count(f"The {part.name} ended by itself; {where}.")
                    try:
                        part.begin_again()
                    except ServerError as error:
                        # its port may still be held by what is just ending: it is tried again
                        self.say(str(error))
            if time.monotonic() - wished > WISHES_EVERY:
                wished = time.monotonic()
                self._do_what_is_wished()
            self._tell_state()
            if repr(self.state) != before:
                self._write()

    def _do_what_is_wished(self) -> None:
        try:
            with self.sessions() as session:
                share, demo = read_setting(session, Sharing).on, read_setting(session, Demo).wanted
        except SQLAlchemyError:
            return  # the database is just being started again
        if share and self.sharing is None:
            self.sharing = _SharedPart(self.plan, self.url, self._listen("shared"), self.say)
        elif not share and self.sharing is not None:
            self.sharing.end()
            self.sharing = None
            self.say("It is closed to the network.")
        if self.sharing is not None:
            self.sharing.look_after()
        if demo and self.plan.demo:
            if self.demo is None:
                self.demo = _DemoPart(Place(self.plan.folder).demo, self._listen("demo"))
            self.demo.look_after()

    def _tell_state(self) -> None:
        state = self.state
        state.parts = {"database": True} | {name: part.runs for name, part in self.parts.items()}
        state.shared = self.sharing.state if self.sharing else None
        state.demo = self.demo.url if self.demo else None
        state.demo_ready = bool(self.demo and self.demo.ready)

    def _write(self) -> None:
        self._tell_state()
        with contextlib.suppress(OSError):
            self.state.write(self.plan.folder)

    def _end(self) -> None:
        if self.keeper is not None:
            self.keeper.stop()
        for item in (self.demo, self.sharing):
            if item is not None:
                item.end()
        for part in reversed(self.parts.values()):
            part.end()
        if self.engine is not None:
            self.engine.dispose()
        (self.plan.folder / STATE).unlink(missing_ok=True)
        self.database.stop()
        if self.log:
            self.log.say("Finchwort was stopped.")
            self.log.close()


class _SharedPart:
    """The way in from the network: a certificate for the addresses of now, and the process behind it."""

    def __init__(self, plan: Plan, url: str, listen: Listen | None, say: Callable[[str], None]) -> None:
        self.plan, self.url, self.listen, self.say = plan, url, listen, say
        self.state = Shared()
        self.process: subprocess.Popen[Any] | None = None
        self._looked = self._tried = float("-inf")
        self._addresses: tuple[str, ...] = ()
        self._renew = datetime.max.replace(tzinfo=UTC)

    def look_after(self) -> None:
        """Begin it, or begin it again, when it does not run or the network is another."""
        now = time.monotonic()
        if now - self._looked > ADDRESSES_EVERY:
            self._looked = now
            result = tuple(self.plan.share_addresses or local_addresses())
            if result != self._addresses or self._renew < datetime.now(UTC):
                self._addresses = result
                self._tried = float("-inf")
                self.end()
        if self.process is not None and self.process.poll() is None:
            return
        if now - self._tried < TRY_AGAIN:
            return
        self._tried = now
        self._begin()

    def _begin(self) -> None:
        port = self.plan.share_port
        self.state = Shared()
        if not self._addresses:
            self.state.trouble = (
                "This computer is in no local network now. It is opened as soon as there is one."
            )
            return
        if not all(_free(address, port) for address in self._addresses):
            self.state.trouble = f"Port {port} is taken by another program. Choose another one: finchwort start --share-port {port + 1}"
            return
        name = local_name()
        try:
            authority = Authority(Place(self.plan.folder).authority)
            made = authority.server((name, *self._addresses))
        except (OSError, ValueError) as error:
            self.state.trouble = f"No certificate could be made: {error}"
            return
        words = [sys.executable, "-m", "finchwort.runtime.shared", "--port", str(port)]
        for address in self._addresses:
            words += ["--address", address]
        for item in made.names:
            words += ["--name", item]
        words += ["--certificate", str(made.certificate), "--key", str(made.key)]
        words += ["--authority", str(authority.folder / "authority.crt")]
        self.process = begin(words, self.url, self.plan.folder, self.listen)
        until = time.monotonic() + 20
        while time.monotonic() < until and self.process.poll() is None:
            if answers(self._addresses[0], port):
                self._renew = made.until - RENEW_BEFORE
                # the address comes first: a phone's camera opens it also where names are not told around
                self.state.urls = [f"https://{address}:{port}" for address in (*self._addresses, name)]
                self.state.fingerprint = authority.fingerprint
                self.say(f"It is open to devices that are let in: {self.state.urls[0]}")
                return
            time.sleep(0.1)
        self.end()
        self.state.trouble = "It could not be opened; what happened stands in the log. It is tried again."

    def end(self) -> None:
        """Close it."""
        if self.process is not None:
            stop(self.process)
        self.process = None
        self.state = Shared()


class _DemoPart:
    """The demo workshop beside one's own: records, ports and processes of its own."""

    def __init__(self, folder: Path, listen: Listen | None) -> None:
        self.folder, self.listen = folder, listen
        self.port = next((port for port in range(8421, 8440) if port_is_free(port)), free_port())
        self.url = f"http://127.0.0.1:{self.port}"
        self.process: subprocess.Popen[Any] | None = None
        self.ready = False
        self._tried = float("-inf")

    def look_after(self) -> None:
        """Begin it when it does not run, and see whether it answers."""
        if self.process is not None and self.process.poll() is None:
            self.ready = self.ready or answers("127.0.0.1", self.port)
            return
        self.ready = False
        if time.monotonic() - self._tried < TRY_AGAIN:
            return
        self._tried = time.monotonic()
        words = ["demo", "run", "--port", str(self.port), "--data", str(self.folder)]
        words += ["--line-port", str(free_port()), "--page-port", str(free_port())]
        self.process = begin(own_command(*words), None, None, self.listen, quiet=True)

    def end(self) -> None:
        """End it."""
        if self.process is not None:
            stop(self.process)


def answers(address: str, port: int) -> bool:
    """Tell whether something listens there."""
    try:
        with socket.create_connection((address, port), 1):
            return True
    except OSError:
        return False


def _free(address: str, port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((address, port))
        except OSError:
            return False
    return True
