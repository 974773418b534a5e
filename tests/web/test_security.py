import json
import re
import subprocess
import sys
from unittest import mock

from sqlalchemy.exc import OperationalError
from structlog.testing import capture_logs

from finchwort.runtime.parts import web_command
from finchwort.web import server
from tests.fixtures.support import WebCase


class HostAndOriginTest(WebCase):
    def test_other_hosts_are_refused(self):
        for host in ("evil.example", "127.0.0.1.evil.example", "192.168.0.4", "localhost.evil.example:8420"):
            with self.subTest(host):
                self.assertEqual(self.client.get("/api/workshop", headers={"Host": host}).status_code, 400)
                self.assertEqual(self.client.get("/", headers={"Host": host}).status_code, 400)
        for host in ("127.0.0.1:8420", "localhost:9"):
            with self.subTest(host):
                self.assertEqual(self.client.get("/api/workshop", headers={"Host": host}).status_code, 200)

    def test_writes_from_other_sites_are_refused(self):
        body = {"name": "Rush", "width": 180, "depth": 180}
        for headers in (
            {"Origin": "http://evil.example"},
            {"Origin": "null"},
            {"Origin": "http://localhost:1"},
            {"Sec_Fetch_Site": "cross-site"},
            {"Sec_Fetch_Site": "same-site"},
        ):
            with self.subTest(headers):
                problem = self.ask("POST", "/api/printers", body, status=403, **headers)
                self.assertIn("refused", problem["detail"])
        self.ask(
            "POST", "/api/printers", body, status=201, Origin="http://localhost", Sec_Fetch_Site="same-origin"
        )
        self.assertEqual(len(self.ask("GET", "/api/workshop")["cards"]), 1)

    def test_forms_are_refused(self):
        answer = self.client.post("/api/printers", data={"name": "a"})
        self.assertEqual(answer.status_code, 415)
        answer = self.client.post("/api/printers", data='{"name":"a"}', content_type="text/plain")
        self.assertEqual(answer.status_code, 415)

    def test_bound_to_loopback(self):
        held = server.listen(0)
        self.addCleanup(held.close)
        self.assertEqual(held.getsockname()[0], "127.0.0.1")
        self.assertIn("finchwort.web.server", web_command(8420))


class HeadersTest(WebCase):
    def test_policy(self):
        for path in ("/", "/api/workshop", "/api/nothing", "/visits/3"):
            answer = self.client.get(path)
            policy = answer.headers["Content-Security-Policy"]
            self.assertIn("script-src 'self'", policy)
            self.assertNotIn("unsafe", policy)
            self.assertEqual(answer.headers["X-Content-Type-Options"], "nosniff")
            self.assertEqual(answer.headers["Referrer-Policy"], "no-referrer")

    def test_the_page_has_no_inline_script(self):
        page = self.client.get("/").get_data(as_text=True)
        self.assertNotRegex(page, r"<script(?![^>]*\bsrc=)")
        self.assertNotRegex(page, r"https?://(?!www\.w3\.org)")
        self.assertNotIn("style=", page)

    def test_caching(self):
        self.assertEqual(self.client.get("/api/workshop").headers["Cache-Control"], "no-store")
        self.assertEqual(self.client.get("/").headers["Cache-Control"], "no-cache")

    def test_a_script_travels_compressed(self):
        name = re.search(r'src="(/assets/[^"]+\.js)"', self.client.get("/").get_data(as_text=True))[1]
        plain = self.client.get(name)
        self.assertNotIn("Content-Encoding", plain.headers)
        for way in ("br", "gzip"):
            with self.subTest(way=way):
                packed = self.client.get(name, headers={"Accept-Encoding": way})
                self.assertEqual(packed.headers["Content-Encoding"], way)
                self.assertEqual(packed.headers["Vary"], "Accept-Encoding")
                self.assertIn("immutable", packed.headers["Cache-Control"])
                self.assertEqual(packed.headers["X-Content-Type-Options"], "nosniff")
                self.assertLess(len(packed.data), len(plain.data) / 2)
                self.assertEqual(packed.mimetype, "text/javascript")
        again = self.client.get(name, headers={"If-None-Match": plain.headers["ETag"]})
        self.assertEqual((again.status_code, again.data), (304, b""))
        look = self.client.head(name)
        self.assertEqual(look.headers["Content-Length"], str(len(plain.data)))


class ErrorsTest(WebCase):
    def setUp(self):
        super().setUp()
        self.logged = self.enterContext(capture_logs())

    def check(self, answer, status):
        self.assertEqual(answer.status_code, status)
        self.assertEqual(answer.mimetype, "application/problem+json")
        body = answer.get_json()
        self.assertEqual(body["status"], status)
        self.assertTrue({"type", "title", "detail", "errors", "lines"} <= set(body))
        self.assertTrue(body["detail"].endswith("."), body["detail"])
        return body

    def test_problem_json_everywhere(self):
        self.check(self.client.get("/api/nothing"), 404)
        self.check(self.client.get("/api/visits/12345"), 404)
        self.check(self.client.put("/api/logbook", json={}), 405)
        self.check(self.client.post("/api/printers", data="{", content_type="application/json"), 400)
        self.check(self.client.post("/api/printers", json=[1, 2]), 422)
        self.check(
            self.client.post("/api/printers", data="[" * 200_000, content_type="application/json"), 400
        )
        self.check(self.client.get("/assets/../../pyproject.toml"), 404)

    def test_a_database_that_is_away(self):
        error = OperationalError("SELECT", {}, Exception("gone"))
        with mock.patch("finchwort.web.printers.views.state_of_workshop", side_effect=error):
            body = self.check(self.client.get("/api/workshop"), 503)
        self.assertIn("still on your page", body["detail"])

    def test_two_changes_at_once(self):
        for number in (1205, 1213):
            error = OperationalError("UPDATE", {}, Exception(number, "Deadlock found"))
            with mock.patch("finchwort.web.printers.views.state_of_workshop", side_effect=error):
                body = self.check(self.client.get("/api/workshop"), 409)
            self.assertIn("Try again", body["detail"])

    def test_an_error_nobody_foresaw_tells_no_secrets(self):
        with mock.patch(
            "finchwort.web.printers.views.state_of_workshop", side_effect=RuntimeError("password=1")
        ):
            body = self.check(self.client.get("/api/workshop"), 500)
        self.assertNotIn("password", json.dumps(body))
        self.assertEqual([entry["event"] for entry in self.logged], ["unforeseen error"])

    def test_no_commit_when_the_answer_is_an_error(self):
        with mock.patch("finchwort.web.serializers.printer_out", side_effect=RuntimeError("late")):
            self.client.post("/api/printers", json={"name": "Rush", "width": 180, "depth": 180})
        self.assertEqual(self.ask("GET", "/api/workshop")["cards"], [])


class ServeCommandTest(WebCase):
    def test_without_a_database_it_says_what_to_do(self):
        done = subprocess.run(
            [sys.executable, "-m", "finchwort.cli", "serve"],
            capture_output=True,
            text=True,
            env={"PATH": "/usr/bin"},
        )
        self.assertEqual(done.returncode, 1)
        self.assertIn("bin/demo", done.stderr)
        self.assertEqual(len(done.stderr.strip().splitlines()), 1)
