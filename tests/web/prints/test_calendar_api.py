"""The calendar of what is due, read back by the library, and who sees it."""

from datetime import UTC, date, datetime, timedelta

from icalendar import Calendar

from finchwort.formats.calendar import DueEntry, calendar_text
from finchwort.services.prints.calendar import set_calendar
from tests.fixtures.shared import BASE, SharedCase
from tests.fixtures.support import WebCase, key


def events(answer):
    return {str(one["UID"]): one for one in Calendar.from_ical(answer).walk("VEVENT")}


class WrittenTest(WebCase):
    def test_what_is_written_is_read_back(self):
        """Umlauts, commas, line breaks and long lines too; lines are no longer than 75 bytes (RFC 5545, 3.1)."""
        at = datetime(2026, 12, 2, 17, 30, tzinfo=UTC)
        entries = [
            DueEntry("a", at, "Ümlaut, comma; semicolon \\ back", "two\nlines", alarm=True),
            DueEntry("b", date(2027, 1, 3), "x" * 400),
        ]
        text = calendar_text("Rösti & Co", entries, at)
        found = events(text)
        first, second = found["a@finchwort"], found["b@finchwort"]
        self.assertEqual(str(first["SUMMARY"]), entries[0].title)
        self.assertEqual(str(first["DESCRIPTION"]), "two\nlines")
        self.assertEqual((first.decoded("DTSTART"), second.decoded("DTSTART")), (at, date(2027, 1, 3)))
        self.assertEqual(second.decoded("DTEND"), date(2027, 1, 4))
        self.assertEqual(str(second["SUMMARY"]), "x" * 400)
        self.assertEqual(len(first.walk("VALARM")), 1)
        self.assertEqual(str(Calendar.from_ical(text)["X-WR-CALNAME"]), "Rösti & Co")
        self.assertLessEqual(max(len(line) for line in text.split(b"\r\n")), 75)


class CalendarTest(WebCase):
    def setUp(self):
        super().setUp()
        sheet = {"name": "Sheet", "kind": "smooth_pei", "prints_since_wash": 14}
        self.printer = self.new_printer(name="Rush", surfaces=[sheet])["id"]
        self.ask("POST", f"/api/printers/{self.printer}/visits", {"surface": "Sheet"}, status=201)

    def switch(self, on=True):
        return self.ask("PUT", "/api/calendar", {"on": on})["path"]

    def read(self, path, status=200):
        answer = self.client.get(path)
        self.assertEqual(answer.status_code, status)
        return events(answer.get_data()) if status == 200 else None

    def test_it_is_off_until_it_is_switched_on(self):
        self.assertEqual(self.ask("GET", "/api/calendar")["path"], "")
        self.read("/calendar/none.ics", 404)

    def test_what_is_due_and_the_looks_to_come(self):
        body = {"client_key": key(), "name": "Hooks", "minutes": 300}
        made = self.ask("POST", f"/api/printers/{self.printer}/prints", body, status=201)
        path = self.switch()
        self.assertEqual(self.ask("GET", "/api/calendar")["path"], path)
        found = self.read(path)
        self.assertIn("15 prints", str(found[f"wash-{self.printer}@finchwort"]["SUMMARY"]))
        looks = [one for uid, one in found.items() if uid.startswith(f"print-{made['id']}-")]
        shown = self.ask("GET", f"/api/prints/{made['id']}")
        due = {datetime.fromisoformat(one["due"]) for one in shown["clock"]}
        starts = {one.decoded("DTSTART") for one in looks if "ends" not in str(one["SUMMARY"])}
        # a calendar counts whole seconds
        self.assertEqual({at.replace(microsecond=0) for at in due}, starts)
        self.assertTrue(any("Rush, “Hooks”: whole first layer" in str(one["SUMMARY"]) for one in looks))
        end = found[f"print-{made['id']}-end@finchwort"].decoded("DTSTART")
        self.assertAlmostEqual(
            (end - datetime.fromisoformat(shown["started_at"])) / timedelta(minutes=1), 305, delta=0.1
        )
        self.ask("DELETE", f"/api/prints/{made['id']}")
        self.assertFalse([uid for uid in self.read(path) if uid.startswith("print-")])

    def test_another_address_takes_the_old_one_away(self):
        old = self.switch()
        new = self.switch()
        self.assertNotEqual(old, new)
        self.read(old, 404)
        self.read(new)
        self.switch(False)
        self.read(new, 404)

    def test_a_level_to_look_at_again_stands_at_its_day(self):
        path = self.switch()
        self.assertFalse([uid for uid in self.read(path) if uid.startswith("level-")])


class StrangerTest(SharedCase):
    """Over the network: the address alone lets nobody in further."""

    def setUp(self):
        super().setUp()
        with self.sessions.begin() as session:
            self.secret = set_calendar(session, True)

    def test_the_address_shows_the_calendar_and_nothing_else(self):
        client = self.stranger()
        answer = client.get(f"/calendar/{self.secret}.ics", base_url=BASE)
        self.assertEqual((answer.status_code, answer.mimetype), (200, "text/calendar"))
        Calendar.from_ical(answer.get_data())
        for path in ("/api/workshop", "/api/calendar", "/", f"/calendar/{self.secret}x.ics"):
            self.assertEqual(client.get(path, base_url=BASE).status_code, 401, path)
        wrong = client.post(f"/calendar/{self.secret}.ics", base_url=BASE, json={}, headers={"Origin": BASE})
        self.assertEqual(wrong.status_code, 401)

    def test_guesses_are_locked_out(self):
        client = self.stranger()
        codes = [client.get(f"/calendar/{'a' * 32}.ics", base_url=BASE).status_code for _ in range(25)]
        self.assertEqual(set(codes), {401})
        # for a while the right one, from that address, is not looked at either
        self.assertEqual(client.get(f"/calendar/{self.secret}.ics", base_url=BASE).status_code, 401)

    def test_only_the_owner_sees_the_address(self):
        for role, status in (("viewer", 403), ("bench", 403), ("member", 403), ("owner", 200)):
            client = self.device(role=role)
            self.assertEqual(client.get("/api/calendar", base_url=BASE).status_code, status, role)
