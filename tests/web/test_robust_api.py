"""Never ended by a small thing: hostile readings and files, the same key at the same moment, odd requests."""

import base64
import http.client
import json
import os
import socket
import struct
import threading
import time
import zlib
from unittest import mock

import numpy as np
from sqlalchemy import text
from sqlalchemy.exc import OperationalError

from finchwort.core.printers import Bed, suggest_screws
from finchwort.formats.documents import KIND, PNG_MARK
from finchwort.runtime.parts import start_web, stop
from finchwort.store.server import free_port
from finchwort.web import security
from tests.fixtures.processes import family
from tests.fixtures.support import WebCase, key, tilted_points


def png(body: bytes) -> str:
    chunk = b"iTXt" + KIND.encode() + b"\0\0\0\0\0" + body
    data = PNG_MARK + struct.pack(">I", len(chunk) - 4) + chunk + struct.pack(">I", zlib.crc32(chunk))
    return base64.b64encode(data).decode()


class ReadingsTest(WebCase):
    def setUp(self):
        super().setUp()
        self.printer = self.new_printer()["id"]

    def preview(self, status=200, **body):
        return self.ask("POST", f"/api/printers/{self.printer}/preview", body, status=status)

    def points(self, *more):
        return [*tilted_points(0.02), *({"x": x, "y": y, "value": v} for x, y, v in more)]

    def test_places_nearer_than_the_tip_can_tell_are_joined(self):
        """Two places 1e-12 mm apart once filled 7 GB; two 0.01 mm apart drew a map of 3.8 mm on a level bed."""
        for apart in (1e-12, 1e-6, 0.01, 0.3):
            with self.subTest(apart):
                near = [(60.0, 60.0, 0.02), (60.0 + apart, 60.0, -0.02)]
                shown = self.preview(points=self.points(*near))["preview"]
                self.assertIn(
                    "heights up to 0.04 mm apart); the mean is used", " ".join(shown["assumptions"])
                )
                self.assertEqual(len(shown["x"]), 26)
                relief = shown["relief"]
                self.assertLess(max(abs(h) for h in relief["heights_um"]), 60)
                self.assertLess(len(relief["levels"]), 61)

    def test_a_map_stays_near_its_readings_and_is_doubted_when_it_would_not(self):
        readings = [
            (15, 15, 0.0),
            (205, 15, 0.0),
            (110, 205, 0.0),
            (110, 110, 0.0),
            (110.6, 110, 0.5),
            (15, 205, 0.0),
        ]
        shown = self.preview(points=[{"x": x, "y": y, "value": v} for x, y, v in readings])["preview"]
        heights = np.array(shown["relief"]["heights_um"]) / 1000 + shown["relief"]["datum"]
        self.assertLess(np.abs(heights).max(), 1.5)
        self.assertIn("read those places again", shown["doubt"])
        visit = self.new_visit(self.printer)["id"]
        stored = self.ask(
            "POST",
            f"/api/visits/{visit}/surveys",
            {"client_key": key(), "points": [{"x": x, "y": y, "value": v} for x, y, v in readings]},
            status=201,
        )
        self.assertIn("read those places again", self.ask("GET", f"/api/surveys/{stored['id']}/map")["doubt"])
        plain = self.new_survey(visit)
        self.assertIsNone(self.ask("GET", f"/api/surveys/{plain['id']}/map")["doubt"])

    def test_an_old_record_with_near_places_can_still_be_drawn(self):
        visit = self.new_visit(self.printer)["id"]
        survey = self.new_survey(visit)["id"]
        with self.engine.begin() as link:
            link.execute(
                text("UPDATE reading SET x = x + 47.5 - 1e-9 WHERE survey_id = :s AND place = 0"),
                {"s": survey},
            )
        relief = self.ask("GET", f"/api/surveys/{survey}/map")["measured_relief"]
        self.assertLess(max(abs(h) for h in relief["heights_um"]), 1000)
        for path in ("compensation", "left", "plan", "minimum-zone"):
            self.ask("GET", f"/api/surveys/{survey}/{path}")

    def test_hostile_texts_and_files_get_a_sentence(self):
        long_number = "1" * 5001
        nested = "<svg>" + f'<metadata id="{KIND}">' * 20_000
        hostile = [
            {"text": nested},
            {"text": "<svg>" + "<g>" * 200 + f'<metadata id="{KIND}">[]</metadata>'},
            {
                "text": f'<!DOCTYPE svg [<!ENTITY a "{"x" * 99}">]><svg><metadata id="{KIND}">&a;</metadata></svg>'
            },
            {"text": f"[[{long_number}, 2, 3]]"},
            {"text": f"[[1{'0' * 400}, 2, 3], [4, 5, 6], [7, 8, 9]]"},
            {"text": f"{long_number} {long_number} {long_number}\n" * 3},
            {"text": "1e400 2 3\n4 5 6\n7 8 9"},
            {"text": "[" * 100_000},
            {"text": '{"x": [1], "y": [2], "height": [3, 4]}'},
            {"text": "\ud83d\x00\x01\x02"},
            {"text": "NaN NaN NaN\n" * 5},
            {"file": png(b"\xff\xfe\xfa" * 50)},
            {"file": png(b"{}")},
            {"file": base64.b64encode(PNG_MARK + b"\xff" * 100).decode()},
            {"file": "!!!!"},
            {"file": base64.b64encode(b"bISO-1.0" + b"\xff" * 200).decode()},
            {"points": [{"x": 0, "y": i, "value": 0} for i in range(3000)] * 2},
        ]
        for body in hostile:
            with self.subTest(str(body)[:60]):
                answer = self.client.post(
                    f"/api/printers/{self.printer}/preview",
                    data=json.dumps(body),
                    content_type="application/json",
                )
                self.assertIn(answer.status_code, (200, 422), answer.get_data(as_text=True)[:300])
                if answer.status_code == 422:
                    self.assertRegex(answer.get_json(force=True)["detail"], r"[.?]$")

    def test_twenty_thousand_readings_in_two_lines(self):
        rng = np.random.default_rng(4)
        x = np.round(rng.uniform(0, 220, 20_000), 3)
        text_ = "\n".join(
            f"{a},{10 if i % 2 else 200},{h:.3f}" for i, (a, h) in enumerate(zip(x, x / 1000, strict=True))
        )
        shown = self.preview(text=text_)["preview"]
        self.assertLess(len(shown["x"]), 2000)

    def test_shapes_of_which_nothing_comes(self):
        visit = self.new_visit(self.printer)["id"]
        for points in (
            [(0, 0, 0), (1e-3, 0, 0), (0, 1e-3, 0)],
            [(15, 15, 50), (205, 15, -50), (15, 205, 50), (205, 205, -50)],
            [(i, i + (i % 2) * 0.6, 0) for i in range(0, 200, 10)],
            [(110, 110, 0), (110, 111, 0), (111, 110, 0), (111, 111, 0.2)],
        ):
            body = {"client_key": key(), "points": [{"x": x, "y": y, "value": v} for x, y, v in points]}
            answer = self.client.post(
                f"/api/visits/{visit}/surveys", data=json.dumps(body), content_type="application/json"
            )
            self.assertIn(answer.status_code, (201, 422), answer.get_data(as_text=True)[:300])
            if answer.status_code != 201:
                continue
            survey = answer.get_json()["id"]
            for path in ("map", "plan", "left", "compensation", "minimum-zone", "outlook"):
                found = self.client.get(f"/api/surveys/{survey}/{path}")
                self.assertLess(found.status_code, 500, f"{path}: {found.get_data(as_text=True)[:300]}")

    def test_long_narrow_beds_and_grids_without_rows(self):
        narrow = self.new_printer(
            name="Long",
            width=2000,
            depth=40,
            screws=[
                {"name": n, "x": x, "y": y, "thread": "M4", "pitch": 0.7}
                for n, x, y in suggest_screws(Bed(2000, 40), 4)
            ],
        )["id"]
        for printer in (narrow, self.new_printer(name="Deep", width=40, depth=2000, screws=[])["id"]):
            visit = self.new_visit(printer)["id"]
            for path in (f"/api/printers/{printer}/advice", f"/api/visits/{visit}"):
                self.assertLess(self.client.get(path).status_code, 500, path)
        line = self.new_printer(name="Line", port="/dev/ttyACM0", probe_kind="nozzle")["id"]
        for body in ({"columns": 5}, {"rows": 5}, {"columns": 5, "rows": 5, "inset": 400}):
            found = self.ask(
                "POST", f"/api/printers/{line}/jobs/ask", {"job": {"kind": "grid"} | body}, status=422
            )
            self.assertTrue(found["detail"].endswith("."))

    def test_marks_outside_of_all_time(self):
        for mark in (
            "0001-01-01T00:00:00+14:00~1",
            "9999-12-31T23:59:59-12:00~1",
            "0001-01-01~0",
            "x~y",
            "2026-01-01~9e9",
        ):
            self.ask("GET", f"/api/logbook?before={mark.replace('+', '%2B')}", status=422)


class SameMomentTest(WebCase):
    def setUp(self):
        super().setUp()
        self.printer = self.new_printer(compensation="mesh")["id"]
        self.visit = self.new_visit(self.printer)["id"]
        self.survey = self.new_survey(self.visit, points=tilted_points(0.02, bow=0.05))["id"]

    def together(self, path, body, times=5):
        """Send one request several times at the same moment; return the statuses and the ids."""
        barrier, found = threading.Barrier(times), []

        def send():
            client = self.app.test_client()
            barrier.wait()
            answer = client.post(path, data=json.dumps(body), content_type="application/json")
            found.append((answer.status_code, (answer.get_json(force=True) or {}).get("id")))

        threads = [threading.Thread(target=send) for _ in range(times)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        return found

    def test_the_record_that_won_is_returned_to_all(self):
        cases = {
            f"/api/printers/{self.printer}/offset": {"parts": {"printer": -1.2}},
            f"/api/printers/{self.printer}/changes": {"what": "nozzle"},
            f"/api/printers/{self.printer}/cases": {"words": "It lets go at the front."},
            f"/api/surveys/{self.survey}/adjustments": {
                "adjustment": {"kind": "mesh", "columns": 5, "rows": 5}
            },
            f"/api/visits/{self.visit}/surveys": {"points": tilted_points(0.05)},
        }
        for path, body in cases.items():
            with self.subTest(path):
                for _ in range(3):
                    found = self.together(path, body | {"client_key": key()})
                    self.assertEqual({status for status, _ in found}, {201}, found)
                    self.assertEqual(len({ident for _, ident in found}), 1, found)
                    if "adjustments" in path:
                        break

    def test_a_mesh_that_is_sent_again_is_stored_once(self):
        body = {"client_key": key(), "adjustment": {"kind": "mesh", "columns": 5, "rows": 5}}
        one = self.ask("POST", f"/api/surveys/{self.survey}/adjustments", body, status=201)
        again = self.ask("POST", f"/api/surveys/{self.survey}/adjustments", body, status=201)
        self.assertEqual(one["id"], again["id"])

    def test_taken_back_at_the_same_moment_once(self):
        made = self.ask(
            "POST",
            f"/api/printers/{self.printer}/changes",
            {"client_key": key(), "what": "plate"},
            status=201,
        )
        statuses, barrier = [], threading.Barrier(5)

        def take_back():
            client = self.app.test_client()
            barrier.wait()
            statuses.append(client.delete(f"/api/changes/{made['id']}").status_code)

        threads = [threading.Thread(target=take_back) for _ in range(5)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sorted(statuses), [200, 404, 404, 404, 404])


class RequestTest(WebCase):
    def test_without_a_host_and_with_other_bodies(self):
        answer = self.client.get("/api/health", environ_overrides={"HTTP_HOST": ""})
        self.assertEqual(answer.status_code, 400)
        answer = self.client.post(
            "/api/printers",
            data=b"name=Reed",
            headers={"Transfer-Encoding": "chunked"},
            content_type="text/plain",
        )
        self.assertEqual(answer.status_code, 415)

    def test_with_no_room_left_records_are_read_and_nothing_is_stored(self):
        printer = self.new_printer()
        self.app.config["ROOM"] = "/"
        self.addCleanup(self.app.config.update, ROOM=None)
        with mock.patch.object(security, "little_room", return_value=True):
            refused = self.ask("POST", f"/api/printers/{printer['id']}/visits", {}, status=507)
            self.assertIn("no room left", refused["detail"])
            self.assertEqual(self.ask("GET", "/api/workshop")["cards"][0]["printer"]["id"], printer["id"])
        self.new_visit(printer["id"])

    def test_a_database_that_goes_while_it_stores_is_told(self):
        printer = self.new_printer()["id"]
        lost = OperationalError("COMMIT", {}, Exception(2013, "Lost connection"))
        with mock.patch("sqlalchemy.orm.Session.commit", side_effect=lost):
            found = self.ask("POST", f"/api/printers/{printer}/visits", {}, status=503)
        self.assertIn("does not answer", found["detail"])
        self.assertEqual(self.ask("GET", f"/api/printers/{printer}")["visits"], [])

    def test_a_damaged_table_is_told(self):
        self.new_printer()
        with self.engine.begin() as link:
            link.execute(text("RENAME TABLE entry TO entry_gone"))
        try:
            found = self.ask("GET", "/api/logbook", status=500)
        finally:
            with self.engine.begin() as link:
                link.execute(text("RENAME TABLE entry_gone TO entry"))
        self.assertIn("damaged or missing", found["detail"])

    def test_every_operation_names_its_errors(self):
        for path, operations in self.app.spec["paths"].items():
            for method, operation in operations.items():
                codes = set(operation["responses"])
                self.assertIn("default", codes, f"{method} {path}")
                self.assertIn("application/problem+json", operation["responses"]["default"]["content"])


class ServerTest(WebCase):
    """The server that ships, on a real port."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.port = free_port()
        cls.process = start_web(cls.port, cls.url.render_as_string(hide_password=False))

    @classmethod
    def tearDownClass(cls):
        stop(cls.process)
        super().tearDownClass()

    def test_half_sent_requests_do_not_silence_it(self):
        halves = []
        for number in range(60):
            client = socket.create_connection(("127.0.0.1", self.port))
            self.addCleanup(client.close)
            head = f"POST /api/printers HTTP/1.1\r\nHost: 127.0.0.1:{self.port}\r\n"
            more = (
                "Content-Type: application/json\r\nContent-Length: 500\r\n\r\n{" if number % 2 else "X-Slow: "
            )
            client.sendall((head + more).encode())
            halves.append(client)
        for _ in range(10):
            link = http.client.HTTPConnection("127.0.0.1", self.port, timeout=10)
            link.request("GET", "/api/health")
            self.assertEqual(link.getresponse().status, 200)
            link.close()

    def test_a_process_that_dies_is_begun_again(self):
        def children():
            return family(self.process.pid) - {self.process.pid}

        before = children()
        self.assertEqual(len(before), 2)
        os.kill(min(before), 9)
        deadline = time.monotonic() + 30
        while len(children() - {min(before)}) < 2 and time.monotonic() < deadline:
            time.sleep(0.05)
        self.assertEqual(len(children()), 2)
        self.assertNotEqual(children(), before)

    def test_a_request_without_a_host_and_a_chunked_one(self):
        for request, status in (
            (b"GET /api/health HTTP/1.0\r\n\r\n", b"400"),
            (b"GET /api/health HTTP/1.1\r\nHost: evil.example\r\n\r\n", b"400"),
            (
                b"POST /api/printers HTTP/1.1\r\nHost: 127.0.0.1\r\nTransfer-Encoding: chunked\r\n\r\n4\r\nabcd\r\n0\r\n\r\n",
                b"415",
            ),
        ):
            with socket.create_connection(("127.0.0.1", self.port)) as client:
                client.settimeout(20)
                client.sendall(request)
                self.assertIn(status, client.recv(200).split(b"\r\n")[0])
