"""The way in from the network: who is let in, who may what, and what is written down of it."""

import threading
import unittest
from datetime import timedelta
from unittest import mock

from sqlalchemy import text, update

from finchwort.services.access import devices as stored_devices
from finchwort.store import errors as stored_errors
from finchwort.store.access.models import Audit, Device, Pairing
from finchwort.store.records import utcnow
from finchwort.web import create_app
from finchwort.web.access import guard, roles
from tests.fixtures.shared import BASE, ENTRANCE, HOST, PHONE, SharedCase
from tests.fixtures.support import DatabaseCase, WebCase


class StrangerTest(SharedCase):
    def test_every_address_gives_the_pairing_page_or_nothing(self):
        self.new_printer()
        client = self.stranger()
        seen = set()
        for rule in self.shared.url_map.iter_rules():
            path = rule.rule
            for converter in ("<int:printer_id>", "<path:path>", "<path:name>", "<name>"):
                path = path.replace(converter, "1")
            path = "".join(
                part if i % 2 == 0 else "1" for i, part in enumerate(path.replace(">", "<").split("<"))
            )
            for method in sorted(rule.methods - {"HEAD", "OPTIONS"}):
                with self.subTest(f"{method} {path}"):
                    answer = self.call(client, method, path, None if method == "GET" else {})
                    self.assertEqual(answer.status_code, 401)
                    told = answer.get_data(as_text=True)
                    self.assertNotIn("Reed", told)
                    if answer.mimetype == "text/html":
                        self.assertIn("Let this device in", told)
                    else:
                        self.assertEqual(answer.get_json()["type"], "unknown-device")
                    seen.add(answer.mimetype)
        self.assertEqual(seen, {"text/html", "application/problem+json"})

    def test_what_belongs_to_the_pairing_page(self):
        client = self.stranger()
        page = client.get("/pair?code=abcd-efgh-jkmn", base_url=BASE)
        self.assertEqual(page.status_code, 200)
        self.assertIn('value="ABCDEFGHJKMN"', page.get_data(as_text=True))
        self.assertNotIn("script", page.headers["Content-Security-Policy"].replace("default-src 'none'", ""))
        self.assertNotIn("<script", page.get_data(as_text=True))
        self.assertEqual(client.get("/pair.css", base_url=BASE).mimetype, "text/css")
        certificate = client.get("/finchwort-authority.crt", base_url=BASE)
        self.assertEqual(
            (certificate.mimetype, certificate.get_data()), ("application/x-x509-ca-cert", ENTRANCE.authority)
        )

    def test_a_page_cannot_be_written_into_by_its_address(self):
        page = (
            self.stranger()
            .get('/pair?code="><img src=x onerror=alert(1)>', base_url=BASE)
            .get_data(as_text=True)
        )
        self.assertNotIn("<img", page)
        self.assertNotIn("onerror", page)

    def test_hosts_and_origins_are_still_checked(self):
        client = self.device()
        for host in ("evil.example", "127.0.0.1:8443", f"{HOST}.evil.example"):
            with self.subTest(host):
                answer = client.get("/api/workshop", base_url=BASE, headers={"Host": host})
                self.assertEqual(answer.status_code, 400)
        refused = client.post(
            "/api/logbook", base_url=BASE, json={"text": "x"}, headers={"Origin": "https://evil.example"}
        )
        self.assertEqual(refused.status_code, 403)
        code = self.code()
        with self.subTest("a form of another site does not pair"):
            answer = client.post(
                "/pair", base_url=BASE, data={"code": code, "name": "x"}, headers={"Origin": "null"}
            )
            self.assertEqual(answer.status_code, 403)
        self.assertEqual(self.client.post("/pair", data={"code": code, "name": "x"}).status_code, 415)

    def test_headers(self):
        client = self.device()
        answer = client.get("/api/me", base_url=BASE)
        self.assertIn("max-age", answer.headers["Strict-Transport-Security"])
        self.assertNotIn("unsafe", answer.headers["Content-Security-Policy"])
        self.assertNotIn("Strict-Transport-Security", self.client.get("/api/me").headers)

    def test_the_cookie_of_a_device(self):
        cookie = self.pair(self.stranger(), self.code(days=30)).headers["Set-Cookie"]
        self.assertTrue(cookie.startswith("__Host-finchwort-device="))
        for word in ("Secure", "HttpOnly", "SameSite=Lax", "Path=/"):
            self.assertIn(word, cookie)
        self.assertNotIn("Domain", cookie)
        age = int(cookie.split("Max-Age=")[1].split(";")[0])
        self.assertAlmostEqual(age, 30 * 86_400, delta=120)
        token = cookie.split("=")[1].split(";")[0]
        with self.engine.connect() as link:
            kept = " ".join(str(row) for row in link.execute(text("SELECT * FROM device")))
        self.assertNotIn(token, kept)


class CodeTest(SharedCase):
    def test_a_code_counts_once(self):
        code = self.code()
        first = self.stranger()
        self.assertEqual(self.pair(first, code).status_code, 302)
        self.assertEqual(self.pair(self.stranger(), code).status_code, 403)
        self.assertEqual(first.get("/api/me", base_url=BASE).get_json()["name"], "Phone")

    def test_of_two_at_the_same_moment_one_is_let_in(self):
        code, answers = self.code(), []
        gate = threading.Barrier(4)

        def come(number):
            gate.wait()
            answers.append(
                self.pair(
                    self.shared.test_client(), code, f"Phone {number}", f"192.168.7.{number}"
                ).status_code
            )

        threads = [threading.Thread(target=come, args=(number,)) for number in range(1, 5)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sorted(answers), [302, 403, 403, 403])
        with self.sessions() as session:
            self.assertEqual(len(stored_devices.list_devices(session)), 1)

    def test_a_late_code(self):
        code = self.code()
        with self.sessions.begin() as session:
            session.execute(update(Pairing).values(expires_at=utcnow() - timedelta(seconds=1)))
        self.assertEqual(self.pair(self.stranger(), code).status_code, 403)
        code = self.code()
        with mock.patch(
            "finchwort.services.access.devices.utcnow", lambda: utcnow() + timedelta(minutes=10, seconds=1)
        ):
            self.assertEqual(self.pair(self.stranger(), code).status_code, 403)
        self.assertEqual(self.pair(self.stranger(), code).status_code, 302)  # nine minutes are not late

    def test_a_withdrawn_code(self):
        with self.sessions.begin() as session:
            made = stored_devices.make_code(session, "owner", 1)
            stored_devices.withdraw_code(session, made.pairing.id)
        self.assertEqual(self.pair(self.stranger(), made.code).status_code, 403)

    def test_typed_by_hand(self):
        code = self.code().lower()
        typed = f" {code[:4]}-{code[4:8]} {code[8:]}"
        self.assertEqual(self.pair(self.stranger(), typed).status_code, 302)

    def test_guesses_are_locked_out(self):
        code = self.code()
        for _ in range(stored_devices.MISSES):
            self.assertEqual(self.pair(self.stranger(), "AAAABBBBCCCC").status_code, 403)
        self.assertEqual(self.pair(self.stranger(), code).status_code, 429)  # right, but from that address
        other = self.pair(self.stranger(), code, address="192.168.7.99")
        self.assertEqual(other.status_code, 403)  # the code was withdrawn
        self.assertEqual(len(self.trail(stored_devices.MISSED)), stored_devices.MISSES + 1)
        self.assertEqual(len(self.trail(stored_devices.LOCKED)), 1)
        self.assertEqual(self.pair(self.stranger(), self.code(), address="192.168.7.99").status_code, 302)
        with mock.patch(
            "finchwort.services.access.devices.utcnow", lambda: utcnow() + stored_devices.LOCKED_FOR
        ):
            self.assertEqual(self.pair(self.stranger(), self.code()).status_code, 302)

    def test_guesses_from_many_addresses_are_locked_out(self):
        for number in range(stored_devices.MISSES_BY_ALL):
            self.pair(self.stranger(), "AAAABBBBCCCC", address=f"192.168.8.{number}")
        self.assertEqual(self.pair(self.stranger(), self.code(), address="192.168.9.9").status_code, 429)

    def test_tries_are_limited_before_the_database_is_asked(self):
        client = self.stranger()
        with mock.patch("finchwort.web.access.guard.devices.claim", return_value=None) as claim:
            answers = [self.pair(client, "AAAABBBBCCCC").status_code for _ in range(25)]
        self.assertEqual(set(answers), {403, 429})
        self.assertEqual(claim.call_count, 20)

    def test_a_device_needs_a_name(self):
        code = self.code()
        self.assertEqual(self.pair(self.stranger(), code, name="  ").status_code, 422)
        self.assertEqual(
            self.pair(self.stranger(), code).status_code, 302
        )  # the code was not used up by that

    def test_a_device_that_is_paired_again_has_one_name(self):
        client = self.device(name="Old name")
        self.assertEqual(self.pair(client, self.code("bench"), "New name").status_code, 302)
        with self.sessions() as session:
            self.assertEqual(
                [(d.name, d.role) for d in stored_devices.list_devices(session)], [("New name", "bench")]
            )

    def test_codes_have_sixty_bits_and_no_look_alikes(self):
        self.assertEqual(len(set(stored_devices.LETTERS)), 32)
        self.assertFalse(set("IO01") & set(stored_devices.LETTERS))
        codes = {self.code() for _ in range(5)}
        self.assertEqual({len(code) for code in codes}, {12})
        self.assertEqual(len(codes), 5)


class DeviceTest(SharedCase):
    def test_removed_it_is_a_stranger(self):
        client = self.device()
        self.assertEqual(self.call(client, "GET", "/api/workshop").status_code, 200)
        device = self.ask("GET", "/api/devices")["devices"][0]
        self.ask("DELETE", f"/api/devices/{device['id']}")
        self.assertEqual(self.call(client, "GET", "/api/workshop").status_code, 401)
        self.assertIn("Let this device in", self.call(client, "GET", "/").get_data(as_text=True))
        self.assertEqual(self.ask("GET", "/api/devices")["devices"], [])
        self.ask("DELETE", f"/api/devices/{device['id']}", status=404)

    def meanwhile(self, change, method, path, body=None):
        """Send a request of a device, and change that device when it was let in and has not done its work yet."""
        client, need_of = self.device(), roles.need_of

        def change_first(endpoint, reading):
            with self.sessions.begin() as session:
                change(session, stored_devices.list_devices(session)[0])
            return need_of(endpoint, reading)

        with mock.patch("finchwort.web.access.guard.roles.need_of", change_first):
            return self.call(client, method, path, body)

    def test_removed_while_its_request_is_worked_on_nothing_is_stored_or_shown(self):
        self.new_printer()
        remove = lambda session, device: stored_devices.remove_device(session, device.id)  # noqa: E731
        answer = self.meanwhile(remove, "POST", "/api/logbook", {"text": "too late"})
        self.assertEqual((answer.status_code, answer.get_json()["type"]), (401, "unknown-device"))
        self.assertEqual(self.ask("GET", "/api/logbook?kind=note")["entries"], [])
        shown = self.meanwhile(remove, "GET", "/api/workshop")
        self.assertEqual(shown.status_code, 401)
        self.assertNotIn("Reed", shown.get_data(as_text=True))

    def test_a_database_that_fails_in_the_middle_is_told_as_such(self):
        """Pages wait for a server that answers 503, and send again; they give up at others."""
        client = self.device()

        def fail(held, *_args, **_named):
            held.execute(text("KILL CONNECTION_ID()"))

        with mock.patch("finchwort.web.visits.logbook.store.search_entries", fail):
            answer = self.call(client, "GET", "/api/logbook")
        self.assertEqual(answer.status_code, 503, answer.get_data(as_text=True))
        self.assertEqual(self.call(client, "GET", "/api/logbook").status_code, 200)

    def test_a_role_taken_away_while_its_request_is_worked_on(self):
        printer = self.new_printer()["id"]

        def demote(session, device):
            stored_devices.change_device(session, device.id, device.version, device.name, "viewer", None)

        answer = self.meanwhile(demote, "DELETE", f"/api/printers/{printer}")
        self.assertEqual(answer.status_code, 401)
        self.ask("GET", f"/api/printers/{printer}")

    def test_its_time_ends(self):
        client = self.device()
        with self.sessions.begin() as session:
            session.execute(update(Device).values(expires_at=utcnow() - timedelta(seconds=1)))
        self.assertEqual(self.call(client, "GET", "/api/workshop").status_code, 401)
        device = self.ask("GET", "/api/devices")["devices"][0]
        self.assertTrue(device["expired"])
        change = {"version": device["version"], "name": "Phone", "role": "member", "days": 30}
        self.ask("PUT", f"/api/devices/{device['id']}", change)
        self.assertEqual(self.call(client, "GET", "/api/workshop").status_code, 200)
        self.ask("PUT", f"/api/devices/{device['id']}", change, status=409)  # the version is an old one

    def test_tokens_that_are_none(self):
        for token in ("", "x", "a" * 3000, "é"):
            with self.subTest(token[:5]):
                client = self.stranger()
                client.set_cookie(guard.COOKIE, token, domain=HOST)
                self.assertEqual(self.call(client, "GET", "/api/workshop").status_code, 401)

    def test_every_record_says_from_which_device(self):
        printer = self.new_printer()["id"]
        visit = self.ask("POST", f"/api/printers/{printer}/visits", {}, status=201)["id"]
        client = self.device("bench", "Tablet at Reed")
        body = {
            "client_key": "k" * 12,
            "points": [{"x": x, "y": y, "value": 0.1} for x in (15, 205) for y in (15, 205)],
        }
        survey = self.call(client, "POST", f"/api/visits/{visit}/surveys", body)
        self.assertEqual(survey.status_code, 201, survey.get_data(as_text=True)[:300])
        self.new_survey(visit)
        entries = self.ask("GET", "/api/logbook?kind=survey")["entries"]
        self.assertEqual([entry["device"] for entry in entries], [None, "Tablet at Reed"])
        with self.engine.connect() as link:
            devices = link.execute(text("SELECT device_id IS NULL FROM survey ORDER BY id")).scalars().all()
        self.assertEqual(devices, [0, 1])
        self.assertIn("Tablet at Reed", self.client.get("/api/logbook.csv").get_data(as_text=True))

    def test_the_trail(self):
        self.new_printer()
        self.device("owner", "Desk")
        device = self.ask("GET", "/api/devices")["devices"][0]
        self.ask(
            "PUT",
            f"/api/devices/{device['id']}",
            {"version": device["version"], "name": "Desk", "role": "member"},
        )
        printer = self.ask("GET", "/api/workshop")["cards"][0]["printer"]["id"]
        self.ask("DELETE", f"/api/printers/{printer}")
        self.ask("POST", f"/api/printers/{printer}/restore")
        self.ask("DELETE", f"/api/devices/{device['id']}")
        lines = self.ask("GET", "/api/audit")["lines"]
        self.assertEqual(
            [(line["kind"], line["device"], line["address"]) for line in lines],
            [
                ("removed", None, ""),
                ("deleted", None, ""),
                ("deleted", None, ""),
                ("role", None, ""),
                ("paired", "Desk", PHONE),
                ("code", None, ""),
            ],
        )
        self.assertEqual(lines[2]["text"], f"Printer {printer} was deleted.")
        self.assertEqual(lines[1]["text"], f"Printer {printer} was brought back.")

    def test_a_command_stands_in_the_trail_and_a_refused_one_does_not(self):
        printer = self.new_printer(port="socket://127.0.0.1:1")["id"]
        wanted = {"job": {"kind": "heat", "bed": 60, "nozzle": 0}}
        for role, status in (("bench", 403), ("viewer", 403), ("member", 200)):
            with self.subTest(role):
                client = self.device(role)
                asked = self.call(client, "POST", f"/api/printers/{printer}/jobs/ask", wanted)
                self.assertEqual(asked.status_code, status, asked.get_data(as_text=True)[:300])
        body = wanted | {"client_key": "c" * 12, "token": asked.get_json()["token"]}
        bench = self.device("bench")
        self.assertEqual(self.call(bench, "POST", f"/api/printers/{printer}/jobs", body).status_code, 403)
        made = self.call(client, "POST", f"/api/printers/{printer}/jobs", body)
        self.assertEqual(made.status_code, 201, made.get_data(as_text=True)[:300])
        self.assertEqual(len(self.trail(stored_devices.COMMAND)), 1)
        viewer = self.device("viewer")
        stop = self.call(viewer, "POST", f"/api/jobs/{made.get_json()['id']}/stop", {"how": "now"})
        self.assertEqual(stop.status_code, 200)  # whoever may look may stop
        self.assertEqual(len(self.trail(stored_devices.COMMAND)), 2)

    def test_the_bench_may_ask_and_switch_heaters_off(self):
        printer = self.new_printer(port="socket://127.0.0.1:1")["id"]
        bench = self.device("bench")
        for kind in ("cool", "connect"):
            with self.subTest(kind):
                asked = self.call(bench, "POST", f"/api/printers/{printer}/jobs/ask", {"job": {"kind": kind}})
                self.assertEqual(asked.status_code, 200, asked.get_data(as_text=True)[:300])

    def test_an_owner_on_a_phone_does_not_lock_itself_out(self):
        client = self.device("owner")
        device = self.call(client, "GET", "/api/devices").get_json()["devices"][0]
        self.assertTrue(device["this"])
        self.assertEqual(self.call(client, "DELETE", f"/api/devices/{device['id']}").status_code, 409)

    def test_many_devices_and_codes(self):
        with self.sessions.begin() as session:
            for _ in range(stored_devices.MAX_CODES):
                stored_devices.make_code(session, "viewer", 1)
            with self.assertRaisesRegex(stored_errors.ConflictError, "open already"):
                stored_devices.make_code(session, "viewer", 1)

    def test_a_code_needs_a_way_in(self):
        self.assertIn("not open", self.ask("POST", "/api/pairings", {}, status=409)["detail"])


class TableTest(unittest.TestCase):
    def test_every_request_that_writes_was_thought_of(self):
        app = create_app("mysql+pymysql://nobody@localhost/none")
        writing = {
            rule.endpoint
            for rule in app.url_map.iter_rules()
            if rule.methods & {"POST", "PUT", "PATCH", "DELETE"}
        }
        self.assertEqual(writing - set(roles.NEEDS), set())
        self.assertEqual(set(roles.NEEDS) - {rule.endpoint for rule in app.url_map.iter_rules()}, set())
        for endpoint, need in roles.NEEDS.items():
            method = endpoint.partition(".")[2]
            if method.startswith(("delete_", "restore_")):
                self.assertEqual(need, roles.DELETE, endpoint)

    def test_roles_grow(self):
        may = roles.MAY
        self.assertLess(may["viewer"], may["bench"])
        self.assertLess(may["bench"], may["member"])
        self.assertLess(may["member"], may["owner"])


class WrittenTest(DatabaseCase):
    """Marks: one for every transaction that writes, whatever the order of their commits."""

    def tag(self):
        from finchwort.store.access.marks import tag_of

        with self.sessions() as session:
            return tag_of(session)

    def test_of_two_that_are_committed_in_the_other_order_both_are_seen(self):
        with self.sessions() as first, self.sessions() as second:
            first.add(Audit(kind="x", text="first", device="", address=""))
            second.add(Audit(kind="x", text="second", device="", address=""))
            first.flush()
            second.flush()
            tags = [self.tag()]
            second.commit()
            tags.append(self.tag())
            first.commit()
            tags.append(self.tag())
        self.assertEqual(len(set(tags)), 3)

    def test_what_was_rolled_back_or_changed_nothing_is_no_news(self):
        before = self.tag()
        with self.sessions() as session:
            session.add(Audit(kind="x", text="never", device="", address=""))
            session.flush()
            session.rollback()
            session.commit()
        with self.sessions.begin() as session:
            session.execute(update(Audit).where(Audit.id == 0).values(text="nobody"))
        self.assertEqual(self.tag(), before)
        with self.sessions.begin() as session:
            session.add(Audit(kind="x", text="now", device="", address=""))
        self.assertNotEqual(self.tag(), before)


class FollowTest(WebCase):
    def test_a_page_is_told_only_of_news(self):
        first = self.client.get("/api/written")
        tag = first.headers["ETag"]
        self.assertEqual((first.status_code, first.get_data()), (204, b""))
        same = self.client.get("/api/written", headers={"If-None-Match": tag})
        self.assertEqual(same.status_code, 304)
        note = self.client.post("/api/logbook", json={"text": "news"})
        mark = int(note.headers["Finchwort-Written"])
        news = self.client.get("/api/written", headers={"If-None-Match": tag})
        self.assertEqual(news.status_code, 204)
        self.assertIn(f'"{mark}-', news.headers["ETag"])
        self.assertNotIn("Finchwort-Written", self.client.get("/api/workshop").headers)
