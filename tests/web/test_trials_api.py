"""Ladders over the API: planned, judged, weighed together."""

from bench.judges import Person

from tests.support import WebCase, key


class LadderTest(WebCase):
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
