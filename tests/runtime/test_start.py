"""One's own workshop from the command line: start, look, share, back up, lose everything, bring it back, stop."""

import json
import os
import shutil
import signal
import socket
import ssl
import urllib.error
import urllib.parse
import urllib.request
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from sqlalchemy import text

from finchwort.runtime.authority import Authority
from finchwort.store import migrate
from finchwort.store.database import make_engine, make_sessions
from finchwort.store.place import running
from finchwort.store.server import DatabaseServer
from finchwort.store.visits.logbook import write_entry
from tests.fixtures.own_workshop import OwnWorkshop
from tests.fixtures.processes import family, gone


class StartTest(OwnWorkshop):
    def test_from_nothing_to_the_end(self):
        said = self.start().stdout
        self.assertIn(f"http://127.0.0.1:{self.port}", said)
        everything = family(running(self.folder).pid)
        self.assertGreaterEqual(len(everything), 5)  # itself, database, link, web and its workers
        workshop = self.ask("/api/workshop")
        self.assertEqual((workshop["cards"], workshop["version"]), ([], 0))  # one's own, and empty
        with urllib.request.urlopen(f"http://127.0.0.1:{self.port}/", timeout=10) as page:
            self.assertIn(b"<script", page.read())

        again = self.start(check=False)
        self.assertEqual((again.returncode, len(again.stderr.strip().splitlines())), (1, 1))
        self.assertIn("running already", again.stderr)

        told = self.of("status").stdout
        for words in (
            "web server: runs",
            "link to the printers: runs",
            "database: runs",
            "closed",
            "none yet",
        ):
            self.assertIn(words, told)
        self.assertEqual(json.loads(self.of("status", "--json").stdout)["port"], self.port)

        self.ask("/api/logbook", {"text": "kept over night"})
        self.assertIn("was stopped", self.of("stop").stdout)
        self.assertTrue(gone(everything))
        self.assertEqual(self.of("status", check=False).returncode, 3)
        self.assertIn("not running", self.of("stop").stdout)

        self.start()
        self.assertEqual(self.ask("/api/logbook?kind=note")["entries"][0]["title"], "kept over night")
        logged = self.of("logs", "-n", "500").stdout
        self.assertIn("Finchwort is ready", logged)
        self.assertIn("The link is ready", logged)
        lines = [json.loads(line) for line in self.of("logs", "--json", "--part", "link").stdout.splitlines()]
        self.assertEqual({line["part"] for line in lines}, {"link"})

    def test_what_dies_is_begun_again_and_killed_outright_nothing_is_left(self):
        self.start("--share")
        self.until(self.shared, "shared")
        pid = running(self.folder).pid
        self.ask("/api/logbook", {"text": "before the blow"})
        for part in ("mariadbd", "finchwort.cli\0link", "finchwort.web.server", "finchwort.runtime.shared"):
            with self.subTest(part):
                victim = next(
                    one for one in sorted(family(pid)) if part in Path(f"/proc/{one}/cmdline").read_text()
                )
                os.kill(victim, signal.SIGKILL)
                self.until(
                    lambda part=part, victim=victim: any(
                        part in Path(f"/proc/{one}/cmdline").read_text()
                        for one in family(pid) - {victim}
                        if Path(f"/proc/{one}/cmdline").exists()
                    ),
                    f"{part} again",
                )
                self.until(self.answers, "answers")
        everything = family(pid)
        os.kill(pid, signal.SIGKILL)
        self.assertTrue(gone(everything))
        self.assertIsNone(running(self.folder))
        self.start()
        self.assertEqual(self.ask("/api/logbook?kind=note")["entries"][0]["title"], "before the blow")

    def answers(self):
        try:
            return self.ask("/api/workshop") is not None
        except (urllib.error.URLError, OSError):
            return False

    def test_what_cannot_be_is_said_in_one_sentence(self):
        with socket.socket() as other:
            other.bind(("127.0.0.1", self.port))
            other.listen()
            done = self.start(check=False)
        self.assertEqual((done.returncode, len(done.stderr.strip().splitlines())), (1, 1))
        self.assertIn(f"finchwort start --port {self.port + 1}", done.stderr)
        done = self.run_it("start", "--data", str(self.folder), "--share-address", "203.0.113.5", check=False)
        self.assertIn("no address of a local network", done.stderr)

    def test_the_demo_beside_ones_own(self):
        self.start()
        self.assertTrue(self.ask("/api/demo")["can"])
        self.ask("/api/demo", {}, "POST")
        demo = self.until(lambda: (d := self.ask("/api/demo"))["ready"] and d, "the demo", 120)
        with urllib.request.urlopen(f"{demo['url']}/api/workshop", timeout=60) as answer:
            self.assertEqual(len(json.load(answer)["cards"]), 4)
        self.assertEqual(self.ask("/api/workshop")["cards"], [])  # nothing of it came into one's own
        everything = family(running(self.folder).pid)
        self.of("stop")
        self.assertTrue(gone(everything))

    def test_backed_up_wiped_and_brought_back(self):
        self.start()
        self.ask("/api/logbook", {"text": "worth keeping"})
        copy = self.folder.parent / f"{self.folder.name}-copy.zip"
        self.addCleanup(lambda: copy.unlink(missing_ok=True))
        self.assertIn("read back", self.of("backup", str(copy)).stdout)
        self.assertIn("is there already", self.of("backup", str(copy), check=False).stderr)
        made = self.ask("/api/backups", {}, "POST")
        self.assertTrue(made["can"] and made["by_itself"] and made["on"])
        self.assertEqual(made["keep"], 7)
        self.assertIn("by-hand", {one["kind"] for one in made["backups"]})
        address = f"http://127.0.0.1:{self.port}/api/backups/{made['backups'][0]['name']}"
        with urllib.request.urlopen(address, timeout=60) as file:
            self.assertEqual(file.read(4), b"PK\x03\x04")
        refused = self.run_it("restore", "--data", str(self.folder), "--yes", str(copy), check=False)
        self.assertIn("finchwort stop", refused.stderr)
        self.of("stop")
        shutil.rmtree(self.folder)
        self.folder.mkdir()
        cut = self.folder.parent / f"{self.folder.name}-cut.zip"
        self.addCleanup(lambda: cut.unlink(missing_ok=True))
        cut.write_bytes(copy.read_bytes()[:-500])
        self.assertIn(
            "damaged", self.run_it("restore", "--data", str(self.folder), str(cut), check=False).stderr
        )
        self.assertIn(
            "Nothing was changed",
            self.run_it("restore", "--data", str(self.folder), str(copy), check=False, input="n\n").stderr,
        )
        self.assertIn(
            "Brought back", self.run_it("restore", "--data", str(self.folder), "--yes", str(copy)).stdout
        )
        self.start()
        self.assertEqual(self.ask("/api/logbook?kind=note")["entries"][0]["title"], "worth keeping")


class UpgradeTest(OwnWorkshop):
    def test_older_records_are_copied_and_brought_over_and_newer_ones_refused(self):
        server = DatabaseServer(self.folder)
        server.start()
        try:
            engine = make_engine(server.url)
            migrate.upgrade(engine)
            with make_sessions(engine).begin() as session:
                write_entry(session, "note", "from the old one")
            migrate.downgrade(engine, "0012")
        finally:
            server.stop()
        said = self.start()
        self.assertEqual(
            self.ask("/api/logbook?kind=note")["entries"][0]["title"], "from the old one", said.stdout
        )
        self.assertEqual(len(list((self.folder / "dumps").glob("before-*.sql.gz"))), 1)
        self.assertIn("the records were copied", self.of("logs").stdout)
        self.of("stop")
        server.start()
        try:
            with engine.begin() as link:
                link.execute(text("UPDATE alembic_version SET version_num = '9999'"))
            engine.dispose()
        finally:
            server.stop()
        refused = self.start(check=False)
        self.assertEqual((refused.returncode, len(refused.stderr.strip().splitlines())), (1, 1))
        self.assertIn("newer Finchwort", refused.stderr)


class TlsTest(OwnWorkshop):
    """The way in, met by Python's ssl module: versions, names, times; and a phone that comes over it."""

    once = ("--share",)

    def setUp(self):
        super().setUp()
        self.ask("/api/sharing", {"on": True}, "PUT")
        self.url = self.until(self.shared, "shared").urls[0]

    def open(self, path, data=None, cookie=None, context=None):
        request = urllib.request.Request(self.url + path, data, {"Origin": self.url} if data else {})
        if cookie:
            request.add_header("Cookie", cookie)
        opener = urllib.request.build_opener(
            urllib.request.HTTPSHandler(context=context or self.trusting()), _NoRedirect
        )
        try:
            return opener.open(request, timeout=60)
        except urllib.error.HTTPError as answer:
            return answer

    def handshake(self, context, name="127.0.0.1"):
        with socket.create_connection(("127.0.0.1", self.share_port), 10) as raw:
            with context.wrap_socket(raw, server_hostname=name) as held:
                return held.version(), held.getpeercert()

    def test_versions_names_and_times(self):
        version, certificate = self.handshake(self.trusting())
        self.assertEqual(version, "TLSv1.3")
        names = {value for _, value in certificate["subjectAltName"]}
        self.assertIn("127.0.0.1", names)
        local = next(name for name in names if name.endswith(".local"))
        self.assertEqual(self.handshake(self.trusting(), local)[0], "TLSv1.3")
        until = datetime.fromtimestamp(ssl.cert_time_to_seconds(certificate["notAfter"]), UTC)
        self.assertTrue(timedelta(days=300) < until - datetime.now(UTC) < timedelta(days=398))
        twelve = self.trusting()
        twelve.maximum_version = ssl.TLSVersion.TLSv1_2
        self.assertEqual(self.handshake(twelve)[0], "TLSv1.2")
        with self.assertRaises(ssl.SSLError):
            self.handshake(ssl.create_default_context())  # nobody else vouches for it
        with self.assertRaises(ssl.SSLError):
            self.handshake(self.trusting(), "evil.example")
        old = self.trusting()
        old.minimum_version = old.maximum_version = ssl.TLSVersion.TLSv1_1
        old.set_ciphers("ALL:@SECLEVEL=0")
        with self.assertRaises((ssl.SSLError, OSError)):
            self.handshake(old)
        # without TLS there is no answer
        with self.assertRaises((urllib.error.URLError, OSError)):
            urllib.request.urlopen(self.url.replace("https", "http"), timeout=10)

    def test_the_keys_are_for_its_user_alone(self):
        for path in (self.folder / "authority").iterdir():
            self.assertEqual(path.stat().st_mode & 0o077, 0, path)
        made = x509.load_pem_x509_certificate((self.folder / "authority" / "authority.crt").read_bytes())
        limits = made.extensions.get_extension_for_class(x509.NameConstraints)
        self.assertTrue(limits.critical)

    def test_a_phone_comes_in_and_is_removed(self):
        self.assertEqual(self.open("/").code, 401)
        code = self.ask("/api/pairings", {"role": "bench"}, "POST")
        query = urllib.parse.parse_qs(urllib.parse.urlsplit(code["url"]).query)
        form = urllib.parse.urlencode({"code": query["code"][0], "name": "Phone"}).encode()
        answer = self.open("/pair", form)
        self.assertEqual(answer.code, 302)
        cookie = answer.headers["Set-Cookie"].split(";")[0]
        self.assertEqual(json.load(self.open("/api/me", cookie=cookie))["role"], "bench")
        self.assertEqual(self.open("/pair", form).code, 403)
        self.assertEqual(self.ask(f"/api/pairings/{code['id']}")["device"], "Phone")
        tag = self.open("/api/written", cookie=cookie).headers["ETag"]
        request = urllib.request.Request(
            self.url + "/api/written", headers={"Cookie": cookie, "If-None-Match": tag}
        )
        with self.assertRaises(urllib.error.HTTPError) as same:
            urllib.request.urlopen(request, context=self.trusting(), timeout=60)
        self.assertEqual(same.exception.code, 304)
        device = self.ask("/api/devices")["devices"][0]["id"]
        self.ask(f"/api/devices/{device}", method="DELETE")
        self.assertEqual(self.open("/api/me", cookie=cookie).code, 401)
        logged = self.of("logs", "-n", "1000", "--json").stdout
        for secret in (query["code"][0], cookie.partition("=")[2]):
            self.assertNotIn(secret, logged)

    def test_closed_again_from_the_page(self):
        self.ask("/api/sharing", {"on": False}, "PUT")
        self.until(lambda: not self.shared(), "closed")
        with self.assertRaises(OSError):
            socket.create_connection(("127.0.0.1", self.share_port), 5)
        self.assertFalse(self.ask("/api/sharing")["on"])
        before = Authority(self.folder / "authority").fingerprint
        self.ask("/api/sharing", {"on": True}, "PUT")
        self.assertEqual(self.until(self.shared, "open again").fingerprint, before)


class _NoRedirect(urllib.request.HTTPRedirectHandler):
    def redirect_request(self, *_):
        return None
