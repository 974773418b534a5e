"""What is due today, over the API, from records that people make."""

from datetime import timedelta

from finchwort.store.models import Visit
from finchwort.store.records import utcnow
from tests.fixtures.support import WebCase, key


class TodayTest(WebCase):
    def setUp(self):
        super().setUp()
        sheet = {"name": "Sheet", "kind": "smooth_pei", "prints_since_wash": 9}
        self.printer = self.new_printer(surfaces=[sheet])["id"]
        self.visit = self.ask(
            "POST", f"/api/printers/{self.printer}/visits", {"surface": "Sheet"}, status=201
        )["id"]

    def due(self):
        return self.ask("GET", "/api/today")["due"]

    def kinds(self):
        return [one["kind"] for one in self.due()]

    def test_an_empty_book_asks_for_nothing(self):
        self.assertEqual(self.kinds(), [])

    def test_the_tenth_print_asks_for_a_wash_and_the_wash_ends_it(self):
        use = f"/api/printers/{self.printer}/surfaces/use"
        self.ask("POST", use, {"name": "Sheet", "action": "printed"})
        (one,) = self.due()
        self.assertEqual((one["kind"], one["printer_id"]), ("wash", self.printer))
        self.assertIn("10 prints on “Sheet”", one["sentence"])
        self.ask("POST", use, {"name": "Sheet", "action": "washed"})
        self.assertEqual(self.kinds(), [])

    def test_a_plate_that_was_changed_asks_for_its_list_and_nothing_twice(self):
        self.new_survey(self.visit)
        body = {"client_key": key(), "what": "plate", "visit_id": self.visit}
        change = self.ask("POST", f"/api/printers/{self.printer}/changes", body, status=201)
        (one,) = self.due()
        self.assertEqual((one["kind"], one["visit_id"]), ("after", self.visit))
        self.ask("DELETE", f"/api/changes/{change['id']}")
        self.assertEqual(self.kinds(), [])

    def test_a_turn_asks_for_readings(self):
        survey = self.new_survey(self.visit)
        screws = self.ask("GET", f"/api/surveys/{survey['id']}/plan")["turns"]
        body = {
            "client_key": key(),
            "hold": "centre",
            "done": {one["name"]: one["rounded"] for one in screws},
        }
        self.ask("POST", f"/api/surveys/{survey['id']}/turnings", body, status=201)
        self.assertIn("measure", self.kinds())
        self.new_survey(self.visit, tilt=(0.0, 0.0))
        self.assertNotIn("measure", self.kinds())

    def test_a_case_is_due_until_it_is_closed(self):
        body = {"client_key": key(), "words": "corners lift"}
        case = self.ask("POST", f"/api/printers/{self.printer}/cases", body, status=201)
        (one,) = self.due()
        self.assertEqual((one["kind"], one["case_id"]), ("case", case["id"]))
        self.assertIn("corners lift", one["sentence"])
        tried = {"client_key": key(), "cause": "dirty_tip"}
        begun = self.ask("POST", f"/api/cases/{case['id']}/remedies", tried, status=201)["id"]
        self.assertEqual(self.kinds(), ["experiment"])
        self.ask("DELETE", f"/api/cases/{case['id']}")
        self.assertEqual(self.kinds(), [])
        self.ask("POST", f"/api/cases/{case['id']}/restore")
        self.assertEqual(self.kinds(), ["experiment"])
        came = {"client_key": key(), "came": "not_better"}
        self.ask("POST", f"/api/cases/{case['id']}/remedies/{begun}", came, status=201)
        self.assertEqual(self.kinds(), ["case"])

    def test_a_visit_from_days_ago_was_left_open(self):
        with self.sessions() as session:
            session.get(Visit, self.visit).started_at = utcnow() - timedelta(days=4)
            session.commit()
        (one,) = self.due()
        self.assertEqual((one["kind"], one["visit_id"]), ("visit", self.visit))
        self.assertIn("4 days", one["sentence"])

    def test_a_printer_that_was_deleted_asks_for_nothing(self):
        self.ask("POST", f"/api/printers/{self.printer}/cases", {"client_key": key()}, status=201)
        self.ask("DELETE", f"/api/printers/{self.printer}")
        self.assertEqual(self.kinds(), [])
