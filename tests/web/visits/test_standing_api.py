"""What happened, what holds and what is to be done, over the API; lists of years; the page that is kept."""

import json
import unittest
from datetime import timedelta
from unittest import mock

from finchwort.core.probing import WIRINGS, diagnose_probe, diagnose_switches
from finchwort.messages.remarks import words
from finchwort.store.machine.heaters import heaters_on
from finchwort.store.machine.jobs import queue_job
from finchwort.store.machine.lines import db_now
from finchwort.store.models import Printer
from finchwort.store.records import utcnow
from finchwort.store.visits import logbook
from finchwort.store.visits.logbook import NEAR, write_entry
from tests.fixtures.support import WebCase, key


class SwitchCautionTest(unittest.TestCase):
    def test_no_wiring_takes_the_caution_from_a_bad_switch(self):
        bad = {
            "dead, open": ({"z": "open"}, {"z": {"z": "open"}}),
            "dead, triggered": ({"z": "triggered"}, {"z": {"z": "triggered"}}),
            "inverted": ({"z": "triggered"}, {"z": {"z": "open"}}),
            "swapped": ({"z": "open", "x": "open"}, {"z": {"z": "open", "x": "triggered"}}),
            "crossed": ({"z": "open", "x": "open"}, {"z": {"z": "triggered", "x": "triggered"}}),
        }
        for name, (free, pressed) in bad.items():
            for wiring in WIRINGS:
                with self.subTest(name=name, wiring=wiring):
                    found = diagnose_switches(free, pressed, {"z": wiring})[0]
                    self.assertNotIn(found.kind, ("good", "waiting"))
                    self.assertIn("do not home", words(found.remark).lower())
        for states in (
            ("open", "open"),
            ("triggered", "triggered"),
            ("open", "triggered"),
            ("triggered", "open", "open"),
        ):
            self.assertIn("do not home", words(diagnose_probe(*states).remark).lower())
        waiting = diagnose_switches({"z": "triggered"}, {})[0]
        self.assertIn("do not home", words(waiting.remark))


class HappenedTest(WebCase):
    def setUp(self):
        super().setUp()
        self.printer = self.new_printer(
            probe_kind="retracting",
            compensation="mesh",
            zero_kept="probe",
            surfaces=[{"name": "Sheet", "kind": "smooth_pei"}, {"name": "Glass", "kind": "glass"}],
        )["id"]
        self.visit = self.new_visit(self.printer)["id"]

    def happened(self, what, **more):
        body = {"client_key": key(), "what": what, "visit_id": self.visit} | more
        return self.ask("POST", f"/api/printers/{self.printer}/changes", body, status=201)

    def shown(self):
        return self.ask("GET", f"/api/visits/{self.visit}")

    def card(self):
        return next(
            c for c in self.ask("GET", "/api/workshop")["cards"] if c["printer"]["id"] == self.printer
        )

    def step(self, name):
        return next(one for one in self.shown()["route"] if one["name"] == name)

    def test_knobs_turned_without_a_plan_are_no_longer_done_and_level(self):
        survey = self.new_survey(self.visit, (0.0, 0.0))["id"]
        self.assertEqual((self.step("judge")["state"], self.card()["bed"]["state"]), ("done", "holds"))
        self.happened("knobs")
        visit = self.shown()
        self.assertEqual((visit["bed"]["state"], visit["next"]["name"]), ("gone", "measure"))
        self.assertTrue(visit["rounds"][-1]["moved"])
        self.assertIn("without a plan", self.step("level")["why"])
        # the tile says the same as the visit
        self.assertEqual(self.card()["next"], visit["next"])
        self.assertEqual(self.card()["bed"], visit["bed"])
        body = {"client_key": key(), "hold": "centre", "done": {"front left": 0.125}}
        said = self.ask("POST", f"/api/surveys/{survey}/turnings", body, status=409)
        self.assertIn("without a plan", said["detail"])

    def test_the_list_in_the_visit_on_the_tile_and_its_ticks(self):
        self.happened("plate")
        after = self.shown()["after"]
        self.assertEqual(after["title"], "After: another plate or sheet laid on")
        names = [step["name"] for step in after["steps"]]
        self.assertEqual(names, ["seat", "clips", "home", "level", "offset", "mesh", "print"])
        body = {"client_key": key(), "step": "seat", "visit_id": self.visit}
        made = self.ask("POST", f"/api/printers/{self.printer}/after", body, status=201)
        self.assertEqual(self.card()["after"]["left"], 6)
        self.ask("DELETE", f"/api/changes/{made['id']}")
        self.assertEqual(self.card()["after"]["left"], 7)
        # the walk round ticks what it finds good
        found = {"item": "clips", "state": "good"}
        self.ask("POST", f"/api/visits/{self.visit}/findings", found, status=201)
        self.assertEqual([s["name"] for s in self.shown()["after"]["steps"] if s["done"]], ["clips"])
        for wrong, status in (("level", 422), ("sock", 409), ("dance", 422)):
            body = {"client_key": key(), "step": wrong}
            self.ask("POST", f"/api/printers/{self.printer}/after", body, status=status)
        left = self.ask(
            "POST", f"/api/printers/{self.printer}/after/leave-out", {"client_key": key()}, status=201
        )
        self.assertIsNone(self.shown()["after"])
        self.ask("DELETE", f"/api/changes/{left['id']}")
        self.assertIsNotNone(self.shown()["after"])

    def test_what_can_happen_goes_by_the_printer(self):
        kinds = {one["what"] for one in self.ask("GET", f"/api/printers/{self.printer}/changes")["kinds"]}
        self.assertLessEqual({"plate", "lifted", "pried", "knobs", "springs", "nozzle", "crash"}, kinds)
        self.assertTrue({"foil", "beam", "clear", "offset", "mesh", "steps"}.isdisjoint(kinds))

    def test_all_that_is_known_on_one_list(self):
        self.new_survey(self.visit)
        self.happened("nozzle")
        found = self.ask("GET", f"/api/printers/{self.printer}/standing")
        states = {one["thing"]: one["state"] for one in found["things"]}
        self.assertEqual(states, {"survey": "holds", "plan": "holds", "forecast": "gone"})
        self.assertEqual(found["after"]["title"], "After: nozzle changed")

    def test_bad_items_say_how_they_are_mended(self):
        for item in self.shown()["items"]:
            self.assertTrue(item["mend"].endswith(".") and item["minutes"] > 0 and item["part"], item["key"])
        keys = {item["key"] for item in self.shown()["items"]}
        self.assertLessEqual({"nozzle_tight", "sock", "liner", "clips"}, keys)
        self.assertNotIn("z_switch", keys)

    def test_the_page_that_is_kept_follows_whatever_is_written(self):
        def text():
            return json.dumps(self.ask("GET", "/api/workshop"), sort_keys=True)

        seen = [text()]

        def changed(what):
            now = text()
            self.assertNotEqual(now, seen[-1], what)
            seen.append(now)

        self.assertEqual(text(), seen[-1])
        finding = {"item": "carriage", "state": "good"}
        for item in self.shown()["items"]:
            self.ask(
                "POST", f"/api/visits/{self.visit}/findings", finding | {"item": item["key"]}, status=201
            )
        changed("the walk round is through: the next step is another")
        survey = self.new_survey(self.visit)["id"]
        changed("a survey")
        self.ask("DELETE", f"/api/surveys/{survey}")
        changed("deleted")
        self.ask("POST", f"/api/surveys/{survey}/restore")
        changed("brought back")
        self.happened("knobs")
        changed("knobs")
        printer = self.ask("GET", f"/api/printers/{self.printer}")["printer"]
        self.ask("POST", f"/api/printers/{self.printer}/surfaces/use", {"name": "Sheet", "action": "printed"})
        changed("a print counted")
        self.ask(
            "PUT", "/api/workshop", {"name": "Other", "version": self.ask("GET", "/api/workshop")["version"]}
        )
        changed("another name")
        visit = self.new_visit(self.printer)["id"]
        changed("a visit")
        self.ask("PATCH", f"/api/visits/{visit}", {"version": 1, "surface": "Glass"})
        changed("another surface on the setup bar")
        self.ask("DELETE", f"/api/visits/{visit}")
        changed("a visit deleted")
        self.ask("DELETE", f"/api/printers/{printer['id']}")
        changed("the printer deleted")


class ButtonTest(WebCase):
    """Every question that homes, touches or heats repeats what the last tests found wrong."""

    MOVING = (
        {"kind": "home"},
        {"kind": "grid", "columns": 3, "rows": 3},
        {"kind": "repeatability"},
        {"kind": "soak"},
    )

    def setUp(self):
        super().setUp()
        self.printer = self.new_printer(
            port="socket://127.0.0.1:9", probe_kind="retracting", zero_kept="probe"
        )["id"]
        self.visit = self.new_visit(self.printer)["id"]

    def asked(self, **wanted):
        body = {"job": {"visit": self.visit} | wanted}
        return self.ask("POST", f"/api/printers/{self.printer}/jobs/ask", body)

    def switches(self, pressed):
        body = {
            "client_key": key(),
            "test": {
                "kind": "switches",
                "untouched": {"x_min": "open", "z_min": "open"},
                "pressed": {"z_min": {"x_min": "open", "z_min": pressed}},
            },
        }
        return self.ask("POST", f"/api/visits/{self.visit}/tests", body, status=201)

    def test_a_switch_that_failed_its_test_is_named_before_anything_homes(self):
        self.switches("open")
        for wanted in self.MOVING:
            asked = self.asked(**wanted)
            self.assertIn("z_min stays open", asked["cautions"][0])
            self.assertIn("Do not home", asked["cautions"][0])
            self.assertIn("hand is on the power switch", asked["confirm"])
        # without that word nothing is queued
        body = self.asked(kind="home")
        job = {"job": {"kind": "home"}, "client_key": key(), "token": body["token"]}
        self.assertIn(
            "Nothing begins",
            self.ask("POST", f"/api/printers/{self.printer}/jobs", job, status=409)["detail"],
        )
        self.ask("POST", f"/api/printers/{self.printer}/jobs", job | {"confirmed": True}, status=201)

    def test_a_later_test_that_is_good_ends_it_also_in_another_visit(self):
        self.switches("open")
        self.visit = self.new_visit(self.printer)["id"]
        self.assertIsNotNone(self.asked(kind="home")["confirm"])
        self.switches("triggered")
        self.assertIsNone(self.asked(kind="home")["confirm"])

    def test_heating_and_reading_say_what_concerns_them(self):
        self.switches("open")
        for item in ("sock", "probe_mount"):
            body = {"item": item, "state": "bad"}
            self.ask("POST", f"/api/visits/{self.visit}/findings", body, status=201)
        heat = self.asked(kind="heat", bed=60, nozzle=200)
        self.assertTrue(any("insulating sock" in said for said in heat["cautions"]))
        self.assertFalse(any("z_min" in said for said in heat["cautions"]))
        self.assertTrue(any("probe firmly" in said for said in self.asked(kind="home")["cautions"]))
        for kind in ("connect", "temperatures", "cool"):
            self.assertEqual(self.asked(kind=kind)["cautions"], [])

    def test_what_was_bad_stays_so_in_the_next_visit_until_it_is_found_good(self):
        def heat():
            return any("insulating sock" in said for said in self.asked(kind="heat", bed=60)["cautions"])

        bad = {"item": "sock", "state": "bad"}
        self.ask("POST", f"/api/visits/{self.visit}/findings", bad, status=201)
        self.visit = self.new_visit(self.printer)["id"]
        self.assertTrue(heat())
        self.ask("POST", f"/api/visits/{self.visit}/findings", bad | {"state": "good"}, status=201)
        self.assertFalse(heat())

    def test_steps_not_ticked_off_are_said_before_homing(self):
        change = {"client_key": key(), "what": "plate", "visit_id": self.visit}
        self.ask("POST", f"/api/printers/{self.printer}/changes", change, status=201)
        said = " ".join(self.asked(kind="home")["cautions"])
        self.assertIn("Not ticked off yet: clips and magnets", said)

    def test_a_printer_that_was_hot_when_its_visit_closed(self):
        with self.sessions.begin() as session:
            printer = session.get(Printer, self.printer)
            job = queue_job(session, printer, "temperatures", {}, client_key=key(), visit_id=self.visit)
            job.state, job.live = "done", {"bed": 58.0, "bed_target": 60.0}
            job.started_at = job.ended_at = db_now(session)
            heaters_on(session, job.line_id, printer.id, 30)
        self.new_survey(self.visit)
        (hot,) = self.ask("GET", "/api/jobs")["hot"]
        self.assertIsNone(hot["doubt"])
        self.ask("POST", f"/api/visits/{self.visit}/finish", {"note": ""})
        (hot,) = self.ask("GET", "/api/jobs")["hot"]
        self.assertEqual(hot["doubt"], "The visit is closed. Bed and nozzle may still be hot and on.")
        self.ask("POST", f"/api/printers/{self.printer}/cold")
        self.assertEqual(self.ask("GET", "/api/jobs")["hot"], [])


class ListsTest(WebCase):
    def test_cases_come_in_pages_without_a_gap(self):
        printer = self.new_printer()["id"]
        made = [
            self.ask(
                "POST",
                f"/api/printers/{printer}/cases",
                {"client_key": key(), "words": f"Case {n}", "signs": [], "circumstances": []},
                status=201,
            )["id"]
            for n in range(27)
        ]
        end = {"client_key": key(), "cause": "unknown"}
        self.ask("POST", f"/api/cases/{made[3]}/close", end, status=201)
        found, after = [], None
        while True:
            page = self.ask("GET", f"/api/cases?after={after}" if after else "/api/cases")
            found += page["cases"]
            after = page["after"]
            if after is None:
                break
        self.assertEqual([one["id"] for one in found], made[::-1])
        self.assertEqual([one["id"] for one in found if one["likeliest"] is None], [made[3]])
        # open ones are weighed in the list as on their own page
        top = self.ask("GET", f"/api/cases/{made[5]}")["ranked"][0]["name"]
        self.assertEqual(next(one["likeliest"] for one in found if one["id"] == made[5]), top)
        self.ask("GET", "/api/cases?after=99999", status=404)

    def test_the_logbook_is_searched_by_the_beginnings_of_words(self):
        printer = self.new_printer(name="Marsh Tit")["id"]
        for text in ("Brim of 5 mm helped", "Nozzle at 0.26 mm", "It's 100 % right_now", "Überhang gelöst"):
            self.ask("POST", "/api/logbook", {"text": text, "printer": printer}, status=201)

        def hits(words):
            found = self.ask("GET", f"/api/logbook?q={words}")["entries"]
            return sorted(one["title"].split()[0] for one in found if one["kind"] == "note")

        for searched, titles in (
            ("brim", ["Brim"]),
            ("BRI", ["Brim"]),
            ("5", ["Brim"]),
            ("0.26", ["Nozzle"]),
            ("26", ["Nozzle"]),
            ("brim helped", ["Brim"]),
            ("brim nozzle", []),
            ("tit nozzle", ["Nozzle"]),
            ("%C3%BCberhang", ["Überhang"]),
            ("100", ["It's"]),
            ("kestrel", []),
            ("%2Bbrim*%22(", ["Brim"]),
            ("%25", ["It's"]),
        ):
            with self.subTest(searched):
                self.assertEqual(hits(searched), titles)

    def test_an_index_of_ones_own_database_may_leave_short_words_out(self):
        self.ask("POST", "/api/logbook", {"text": "The brim of 5 mm and the kestrel"}, status=201)
        for n in range(3):
            self.ask("POST", "/api/logbook", {"text": f"Line {n}"}, status=201)
        where = str(self.engine.url)
        with mock.patch.dict(logbook._indexes, {where: (4, logbook.STOPWORDS)}):
            for words in ("the kestrel", "5 brim", "5", "the"):
                found = self.ask("GET", f"/api/logbook?q={words}")["entries"]
                self.assertEqual([one["title"] for one in found], ["The brim of 5 mm and the kestrel"], words)

    def test_what_is_rare_is_found_behind_many_newer_lines(self):
        with self.sessions.begin() as session:
            write_entry(session, "note", "The kestrel nested", at=utcnow() - timedelta(days=9))
            for n in range(NEAR + 60):
                write_entry(session, "note", f"Line {n} of the year")
        (one,) = self.ask("GET", "/api/logbook?q=kestrel")["entries"]
        self.assertEqual(one["title"], "The kestrel nested")
        page = self.ask("GET", "/api/logbook?q=year")
        titles = [entry["title"] for entry in page["entries"]]
        while page["before"]:
            page = self.ask("GET", f"/api/logbook?q=year&before={page['before'].replace('+', '%2B')}")
            titles += [entry["title"] for entry in page["entries"]]
        self.assertEqual(titles, [f"Line {n} of the year" for n in reversed(range(NEAR + 60))])


if __name__ == "__main__":
    unittest.main()
