"""The road from the phone: the same pages over TLS, for a device that was let in."""

import json
import shutil
import sys
import tempfile
import urllib.request
from pathlib import Path
from types import SimpleNamespace

from playwright.sync_api import expect

from finchwort.runtime.authority import Authority
from finchwort.runtime.house import answers
from finchwort.runtime.parts import begin, stop
from finchwort.services.access import devices
from finchwort.store.server import free_port
from tests import support
from tests.e2e.browser import PATIENCE, shared_server


def road(url: str) -> int:
    """Return the port at which devices come in, in this test run; begun on first use."""
    held = support._held
    if "road" not in held:
        folder = Path(tempfile.mkdtemp(prefix="finchwort-road-"))
        authority, port = Authority(folder), free_port()
        made = authority.server(("127.0.0.1",))
        words = ["--port", str(port), "--address", "127.0.0.1", "--name", "127.0.0.1"]
        words += ["--certificate", str(made.certificate), "--key", str(made.key)]
        words += ["--authority", str(folder / "authority.crt")]
        process = begin([sys.executable, "-m", "finchwort.runtime.shared", *words], url)
        while not answers("127.0.0.1", port):
            if process.poll() is not None:
                raise RuntimeError("The way in did not open; its messages stand above.")

        def end() -> None:
            stop(process)
            shutil.rmtree(folder, ignore_errors=True)

        held["road"], held["road_port"] = SimpleNamespace(stop=end), port
    return held["road_port"]


class Road:
    """Mixin: the window is a phone's, and comes in over TLS after it was paired; the fixtures are made at the desk."""

    role = "bench"

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.desk = f"http://127.0.0.1:{shared_server(cls.url.render_as_string())}"
        cls.base = f"https://127.0.0.1:{road(cls.url.render_as_string())}"

    def new_context(self, **options):
        context = super().new_context(ignore_https_errors=True, has_touch=True, is_mobile=True, **options)
        with self.sessions.begin() as session:
            code = devices.make_code(session, self.role, 1).code
        page = context.new_page()
        page.goto(f"{self.base}/pair?code={code}")
        page.get_by_label("Name of this device").fill("Phone at the bench")
        page.get_by_role("button", name="Let it in").click()
        expect(page.get_by_role("main")).to_contain_text("printer", timeout=PATIENCE)
        page.close()
        return context

    def post(self, path, body=None):
        """Send something from the desk."""
        request = urllib.request.Request(
            self.desk + path, json.dumps(body or {}).encode(), {"Content-Type": "application/json"}
        )
        with urllib.request.urlopen(request, timeout=60) as answer:
            return json.load(answer)

    def get(self, path):
        """Ask from the desk."""
        with urllib.request.urlopen(self.desk + path, timeout=60) as answer:
            return json.load(answer)
