"""The simulated printer on the loopback address: a line for the client, a page for the hands."""

from __future__ import annotations

import contextlib
import json
import socket
import threading
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from importlib.resources import files
from typing import Any

from finchwort.link.simulated.firmware import SWITCHES, Firmware

LOOPBACK = "127.0.0.1"
KINDS = {"html": "text/html", "js": "text/javascript", "css": "text/css"}
MAX_BODY, MAX_FILE = 4_000, 3_000_000
"""Bytes of a request, and of one that brings a file."""
POLICY = "default-src 'self'; style-src 'self'; script-src 'self'; img-src 'self' data:; base-uri 'none'; frame-ancestors 'none'"
FAULTS = ("cut_after", "reset_after", "halt_after")


class Simulator:
    """The machine with its line and its page.

    Parameters
    ----------
    port, page_port : int
        On the loopback address; 0 takes a free one.
    firmware : Firmware, optional
    """

    def __init__(self, port: int = 0, page_port: int = 0, firmware: Firmware | None = None) -> None:
        self.firmware = firmware or Firmware()
        self.gone = threading.Event()
        self.plugged = threading.Event()
        self.plugged.set()
        self._client: socket.socket | None = None
        self._guard = threading.Lock()
        self._listener = socket.create_server((LOOPBACK, port))
        self._listener.settimeout(0.2)
        self.port = self._listener.getsockname()[1]
        self.firmware.answer, self.firmware.cut = self._answer, self.unplug
        handler = type("Page", (_Page,), {"simulator": self})
        self._http = ThreadingHTTPServer((LOOPBACK, page_port), handler)
        self._http.daemon_threads = True
        self.page_port = self._http.server_address[1]
        self._threads = [
            threading.Thread(target=self._accept, daemon=True),
            threading.Thread(target=self.firmware.run, args=(self.gone,), daemon=True),
            threading.Thread(target=self._http.serve_forever, kwargs={"poll_interval": 0.1}, daemon=True),
        ]

    @property
    def url(self) -> str:
        """The line's address for a client."""
        return f"socket://{LOOPBACK}:{self.port}"

    @property
    def page(self) -> str:
        """The page's address."""
        return f"http://{LOOPBACK}:{self.page_port}"

    def start(self) -> Simulator:
        """Begin to listen."""
        for thread in self._threads:
            thread.start()
        return self

    def stop(self) -> None:
        """End it."""
        self.gone.set()
        self.firmware.lines.put(None)
        self._http.shutdown()
        self._http.server_close()
        self._drop()
        for thread in self._threads:
            thread.join(timeout=5)
        self._listener.close()

    def unplug(self) -> None:
        """Pull the cable: the client is cut off and none gets in."""
        self.plugged.clear()
        self._drop()

    def plug(self) -> None:
        """Plug the cable in again.  The board did not notice."""
        self.plugged.set()

    @property
    def connected(self) -> bool:
        """Whether a client is on the line."""
        return self._client is not None

    def _drop(self) -> None:
        with self._guard:
            client, self._client = self._client, None
        if client is not None:
            with contextlib.suppress(OSError):
                client.shutdown(socket.SHUT_RDWR)
            client.close()

    def _answer(self, text: str) -> None:
        with self._guard:
            client = self._client
        if client is not None:
            try:
                client.sendall(text.encode("latin-1", "replace") + b"\n")
            except OSError:
                self._drop()

    def _accept(self) -> None:
        while not self.gone.is_set():
            try:
                client, _ = self._listener.accept()
            except TimeoutError:
                continue
            except OSError:
                return
            if not self.plugged.is_set() or self._client is not None:
                client.close()  # one cable, one client
                continue
            client.settimeout(0.2)
            with self._guard:
                self._client = client
            self._read(client)

    def _read(self, client: socket.socket) -> None:
        held = b""
        while not self.gone.is_set() and self._client is client:
            try:
                got = client.recv(4096)
            except TimeoutError:
                continue
            except OSError:
                break
            if not got:
                break
            held += got
            *lines, held = held.split(b"\n")
            held = held[-4096:]
            for line in lines:
                self.firmware.take(line.decode("latin-1").strip("\r"))
        if self._client is client:
            self._drop()

    def state(self) -> dict[str, Any]:
        """What the page shows."""
        f = self.firmware
        f.pass_time()
        with f.lock:
            bed = f.bed
            near = [(k.x, k.y) for k in bed.knobs] + [(bed.width / 2, bed.depth / 2)]
            truth = bed.height([p[0] for p in near], [p[1] for p in near])
            return {
                "width": bed.width,
                "depth": bed.depth,
                "pitch": bed.pitch,
                "knobs": [
                    {
                        "name": k.name,
                        "x": k.x,
                        "y": k.y,
                        "turned": round(k.turned, 4),
                        "slips": k.slip > 0,
                        "height": round(float(h), 4),
                    }
                    for k, h in zip(bed.knobs, truth, strict=False)
                ],
                "middle": round(float(truth[-1]), 4),
                "bed": round(bed.bed, 1),
                "nozzle": round(bed.nozzle, 1),
                "bed_target": bed.bed_target,
                "nozzle_target": bed.nozzle_target,
                "core": round(bed.core, 1),
                "head": [round(f.x, 1), round(f.y, 1), round(f.z, 2)],
                "homed": f.homed,
                "halted": f.halted.is_set(),
                "plugged": self.plugged.is_set(),
                "connected": self.connected,
                "touches": f.probe.touches,
                "plastic": f.probe.plastic,
                "garbage": f.faults.garbage,
                "corrupt": f.faults.corrupt,
                "swapped": f.faults.swapped,
                "inverted": f.faults.inverted,
                "dead": f.faults.dead,
                "cut_after": f.faults.cut_after,
                "pressed": f.pressed,
                "switches": list(SWITCHES),
                "speed": f.speed,
                "offset": round(f.offset, 3),
                "stored_offset": round(f.stored_offset, 3),
                "card": {"name": f.card_name, "at": f.card_at, "lines": len(f.card)},
                "waiting": f.waiting,
                "looks": [] if f.card else f.sheet.looks(),
            }

    def act(self, action: str, body: dict[str, Any]) -> None:
        """Do what a hand at the machine does.

        Raises
        ------
        ValueError
            When that cannot be done.
        """
        f = self.firmware
        if action == "turn":
            turns = float(body["turns"])
            if not abs(turns) <= 5:
                raise ValueError("Up to five turns at a time.")
            knob = next((k for k in f.bed.knobs if k.name == body["knob"]), None)
            if knob is None:
                raise ValueError("There is no such knob.")
            with f.lock:
                knob.turn(turns)
        elif action == "slip":
            for knob in f.bed.knobs:
                knob.slip = 0.9 if knob.name == body.get("knob") and not knob.slip else 0.0
        elif action == "unplug":
            self.unplug()
        elif action == "plug":
            self.plug()
        elif action in FAULTS:
            count = body.get("touches")
            setattr(f.faults, action, None if count is None else max(0, min(int(count), 10_000)))
        elif action == "power":
            f.power_cycle()
        elif action == "stall":
            f.faults.stall = min(max(float(body.get("seconds", 0)), 0.0), 3_600.0)
        elif action == "plastic":
            f.probe.plastic = not f.probe.plastic
            f.probe.new_start()
        elif action == "garbage":
            f.faults.garbage = not f.faults.garbage
        elif action == "corrupt":
            f.faults.corrupt = 0.0 if f.faults.corrupt else 0.2
        elif action == "press":
            name = body.get("switch")
            if name is not None and name not in SWITCHES:
                raise ValueError("There is no such switch.")
            f.pressed = name
        elif action == "swap":
            f.faults.swapped = not f.faults.swapped
        elif action in ("invert", "kill"):
            name = body.get("switch")
            if name not in SWITCHES:
                raise ValueError("There is no such switch.")
            field = "inverted" if action == "invert" else "dead"
            setattr(f.faults, field, None if getattr(f.faults, field) == name else name)
        elif action == "card":
            f.insert(str(body.get("name", "")), str(body["text"]))
        elif action == "cancel":
            f.cancel()
        elif action == "on":
            f.waiting = None
        elif action == "middle":
            f.to_middle()
        elif action == "head":
            f.by_hand(float(body["x"]), float(body["y"]), float(body["z"]))
        elif action == "menu":
            value = float(body["offset"])
            if not abs(value) <= 10:
                raise ValueError("An offset lies within 10 mm.")
            f.offset = f.stored_offset = value
        elif action == "clean":
            f.sheet.clear()
        else:
            raise ValueError("This cannot be done here.")


class _Page(BaseHTTPRequestHandler):
    """The page of a simulator."""

    simulator: Simulator
    protocol_version = "HTTP/1.1"
    timeout = 20

    def log_message(self, *_args: Any) -> None:
        """Keep quiet."""

    def _send(self, status: int, data: bytes, kind: str) -> None:
        self.send_response(status)
        self.send_header("Content-Type", f"{kind}; charset=utf-8")
        self.send_header("Content-Length", str(len(data)))
        self.send_header("Content-Security-Policy", POLICY)
        self.send_header("X-Content-Type-Options", "nosniff")
        self.send_header("Cache-Control", "no-store")
        self.end_headers()
        if self.command != "HEAD":
            self.wfile.write(data)

    def _json(self, value: Any, status: int = 200) -> None:
        self._send(status, json.dumps(value).encode(), "application/json")

    def _ours(self) -> bool:
        host = self.headers.get("Host", "").rpartition(":")[0]
        return host in ("127.0.0.1", "localhost")

    def do_GET(self) -> None:
        """Give the page or the state."""
        if not self._ours():
            return self._json({"detail": "Refused."}, 403)
        path = self.path.partition("?")[0]
        if path == "/state":
            return self._json(self.simulator.state())
        if path == "/paper":
            return self._json({"feel": self.simulator.firmware.paper()})
        name = {"/": "page.html", "/page.js": "page.js", "/page.css": "page.css"}.get(path)
        if name is None:
            return self._json({"detail": "There is nothing at this address."}, 404)
        data = files("finchwort.link.simulated").joinpath("page", name).read_bytes()
        return self._send(200, data, KINDS[name.rpartition(".")[2]])

    def do_POST(self) -> None:
        """Do something at the machine."""
        origin = self.headers.get("Origin")
        same = origin is None or origin.split("://")[-1] == self.headers.get("Host")
        length = int(self.headers.get("Content-Length") or 0)
        most = MAX_FILE if self.path == "/card" else MAX_BODY
        if not self._ours() or not same or length > most:
            self.close_connection = True
            return self._json({"detail": "Refused."}, 403)
        try:
            body = json.loads(self.rfile.read(length) or b"{}")
            self.simulator.act(self.path.strip("/"), body)
        except (ValueError, KeyError, TypeError, AttributeError) as error:
            return self._json({"detail": str(error)}, 422)
        return self._json(self.simulator.state())
