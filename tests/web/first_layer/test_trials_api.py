"""Ladders over the API: planned, judged, weighed together."""

import numpy as np
from bench.judges import Person

from finchwort.core.printers import Bed
from tests.fixtures.support import WebCase, key


class TrialCase(WebCase):
    def setUp(self):
        super().setUp()
        self.printer = self.new_printer()["id"]
        self.visit = self.new_visit(self.printer)["id"]

    def store(self, value):
        body = {"client_key": key(), "parts": {"printer": value}}
        return self.ask("POST", f"/api/printers/{self.printer}/offset", body, status=201)

    def ladder(self):
        return self.ask("GET", f"/api/visits/{self.visit}/ladder")

    def judge(self, patches, status=201, **more):
        body = {"client_key": key(), "patches": patches} | more
        return self.ask("POST", f"/api/visits/{self.visit}/ladder", body, status=status)

    def person(self, best, seed=3):
        found = Person(seed)
        found.best, found.tilt, found.bow = best, found.tilt * 0, 0.0
        return found

    def print_and_judge(self, person, base=0.0):
        """Judge the rungs of the next ladder; ``base`` is how far the offset moved since the truth was set."""
        rungs = self.ladder()["rungs"]
        return self.judge(
            [{"shift": r["shift"], "step": person.judge(r["shift"] + base).step} for r in rungs]
        )


class LadderTest(TrialCase):
    def test_from_unknown_to_a_stored_offset_in_two_ladders(self):
        self.store(-1.0)
        person = self.person(0.06)
        first = self.ladder()
        shifts = [r["shift"] for r in first["rungs"]]
        self.assertEqual(shifts, sorted(shifts, reverse=True))
        self.assertAlmostEqual(first["rungs"][0]["value"], -1.0 + shifts[0])
        self.assertEqual((first["best"], first["correction"]), (None, None))
        self.assertEqual([e["words"] for e in first["examples"]][2], "good")
        self.assertEqual(first["examples"][2]["laid"]["band"], "good")
        self.print_and_judge(person)
        second = self.ladder()
        wide = second["high"] - second["low"]
        self.assertLess(max(s["shift"] for s in second["rungs"]), shifts[0])
        # the correction is stored in between: the first ladder still counts
        self.store(second["correction"]["value"])
        moved = round(second["correction"]["value"] + 1.0, 4)
        self.assertAlmostEqual(self.ladder()["best"], second["best"] - moved, delta=0.004)
        self.print_and_judge(person, moved)
        found = self.ladder()
        self.assertLess(found["high"] - found["low"], wide)
        self.assertTrue(found["done"], found["sentence"])
        self.assertAlmostEqual(moved + found["best"], 0.06, delta=0.03)

    def test_all_on_one_side_gives_no_number(self):
        self.store(-1.0)
        self.judge([{"shift": s, "step": "far_too_far"} for s in (0.1, 0.0, -0.1)])
        found = self.ladder()
        self.assertTrue(found["one_sided"])
        self.assertIsNone(found["correction"])
        self.assertIn("closer", found["sentence"])
        self.assertLess(found["rungs"][-1]["shift"], -0.1)

    def test_taken_back_and_sent_again(self):
        patches = [{"shift": s, "step": "good"} for s in (0.02, 0.0, -0.02)]
        mine = key()
        one = self.judge(patches, client_key=mine)
        self.assertEqual(self.judge(patches, client_key=mine)["id"], one["id"])
        self.judge(patches[::-1], client_key=mine, status=409)
        self.assertEqual(len(self.ladder()["trials"]), 1)
        self.assertIn("3 good", self.ask("GET", "/api/logbook?kind=test")["entries"][0]["title"])
        self.ask("DELETE", f"/api/trials/{one['id']}")
        self.assertEqual(self.ladder()["trials"], [])
        self.ask("DELETE", f"/api/trials/{one['id']}", status=404)
        self.ask("POST", f"/api/trials/{one['id']}/restore")
        self.assertEqual(len(self.ladder()["trials"]), 1)

    def test_bad_ladders(self):
        good = [{"shift": s, "step": "good"} for s in (0.02, 0.0, -0.02)]
        for patches in (
            good[:2],
            [*good, {"shift": 2, "step": "good"}],
            [*good, {"shift": 0, "step": "nice"}],
        ):
            with self.subTest(patches):
                self.judge(patches, status=422)
        self.new_survey(self.visit)
        self.ask("POST", f"/api/visits/{self.visit}/finish", {})
        self.judge(good, status=409)
        self.ask("GET", f"/api/visits/{self.visit}/ladder?width=0.15", status=422)


class JudgedBedTest(TrialCase):
    """Discs over the bed, judged: tilt and offset apart."""

    def bed(self, **query):
        asked = "&".join(f"{name}={value}" for name, value in query.items())
        return self.ask("GET", f"/api/visits/{self.visit}/judged-bed?{asked}")

    def judge_bed(self, patches, status=201, **more):
        body = {"client_key": key(), "patches": patches} | more
        return self.ask("POST", f"/api/visits/{self.visit}/judged-bed", body, status=status)

    def tilted(self, across=0.12, best=0.0):
        person = self.person(best)
        person.bed = Bed(220, 220)
        person.tilt = np.array([across, across / 2])
        return person

    def print_bed(self, person, base=0.0):
        discs = self.bed(side=6)["discs"]
        patches = [
            {
                "x": d["x"],
                "y": d["y"],
                "shift": d["shift"],
                "step": person.judge(d["shift"] + base, d["x"], d["y"]).step,
            }
            for d in discs
        ]
        return self.judge_bed(patches)

    def test_tilt_and_offset_are_taken_apart_and_turned(self):
        self.store(-1.0)
        person = self.tilted(best=0.03)
        self.print_and_judge(person)
        self.print_bed(person)
        found = self.bed()
        self.assertAlmostEqual(found["tilt"], 0.18, delta=0.05)
        self.assertLess(found["tilt_low"], 0.18)
        self.assertGreater(found["tilt_high"], 0.18)
        self.assertAlmostEqual(found["best"], 0.03, delta=0.02)
        self.assertIn("Turn the knobs first", found["sentences"][0])
        self.assertAlmostEqual(found["correction"]["value"], -1.0 + found["best"], delta=0.006)
        # the right is high: its knobs are tightened
        turns = " ".join(found["turns"])
        self.assertRegex(turns, r"Tighten the back right knob")
        self.assertNotRegex(turns, r"Tighten the front left knob")

    def test_a_level_bed_is_left_alone(self):
        self.store(-1.0)
        person = self.tilted(0.0)
        self.print_and_judge(person)
        self.print_bed(person)
        found = self.bed()
        self.assertEqual(found["turns"], [])
        self.assertIn("No tilt shows", found["sentences"][0])

    def test_what_was_judged_before_the_knobs_were_turned_counts_no_more(self):
        self.store(-1.0)
        self.print_bed(self.tilted())
        self.assertIsNotNone(self.bed()["tilt"])
        made = self.ask(
            "POST",
            f"/api/printers/{self.printer}/changes",
            {"client_key": key(), "what": "knobs"},
            status=201,
        )
        self.assertIsNone(self.bed()["tilt"])
        self.ask("DELETE", f"/api/changes/{made['id']}")
        self.assertIsNotNone(self.bed()["tilt"])

    def test_without_screws_another_remedy_is_named(self):
        self.printer = self.new_printer(name="Rail", screws=[], compensation="mean")["id"]
        self.visit = self.new_visit(self.printer)["id"]
        self.store(0.0)
        self.print_bed(self.tilted(0.2))
        found = self.bed()
        self.assertEqual(found["turns"], [])
        self.assertIn("leaves the tilt", found["sentences"][0])

    def test_bad_beds(self):
        good = [{"x": x, "y": y, "shift": 0.0, "step": "good"} for x in (20, 200) for y in (20, 200)]
        for patches in (good[:3], [*good, {"x": -60, "y": 0, "shift": 0, "step": "good"}]):
            with self.subTest(patches):
                self.judge_bed(patches, status=422)
        self.judge_bed(good)
        self.assertEqual(len(self.bed()["trials"]), 1)
        # a bed is no ladder
        self.assertEqual(self.ladder()["trials"], [])
