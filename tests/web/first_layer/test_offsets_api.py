"""Z offsets over the API: ledger, history, corrections by paper, patches and trimming."""

from tests.fixtures.support import WebCase, key, tilted_points


class OffsetTest(WebCase):
    def setUp(self):
        super().setUp()
        self.printer = self.new_printer(offset_kept=["printer", "slicer"])["id"]
        self.visit = self.new_visit(self.printer)["id"]

    def record(self, parts, status=201, **more):
        body = {"client_key": key(), "parts": parts} | more
        return self.ask("POST", f"/api/printers/{self.printer}/offset", body, status=status)

    def offset(self):
        return self.ask("GET", f"/api/visits/{self.visit}/offset")

    def paper(self, status=200, **more):
        body = {"client_key": key(), "thickness": 0.1, "feel": "slight"} | more
        return self.ask("POST", f"/api/visits/{self.visit}/offset/paper", body, status=status)

    def patches(self, patches, status=200, **more):
        return self.ask(
            "POST",
            f"/api/visits/{self.visit}/offset/patches",
            {"client_key": key(), "patches": patches} | more,
            status=status,
        )

    def test_nothing_known_then_a_history(self):
        empty = self.offset()
        self.assertEqual((empty["known"], empty["total"], empty["history"]), (False, 0, []))
        self.assertEqual([p["place"] for p in empty["parts"]], ["printer", "slicer"])
        self.record({"printer": -1.25, "slicer": -0.05}, note="as found")
        self.record({"printer": -1.29, "slicer": -0.05}, reason="paper", visit_id=self.visit)
        found = self.offset()
        self.assertAlmostEqual(found["total"], -1.34)
        self.assertAlmostEqual(found["history"][0]["closer"], 0.04)
        self.assertIsNone(found["history"][1]["closer"])
        entry = self.ask("GET", "/api/logbook?kind=offset")["entries"][0]
        self.assertIn("−1.34 mm, by paper: 0.04 mm closer", entry["title"])

    def test_a_value_that_stands_twice_is_found(self):
        self.record({"printer": -1.2, "slicer": -1.2})
        self.assertIn("counts twice", self.offset()["doubled"])

    def test_sent_again_and_taken_back(self):
        mine = key()
        one = self.record({"printer": -1.0}, client_key=mine)
        self.assertEqual(self.record({"printer": -1.0}, client_key=mine)["id"], one["id"])
        self.record({"printer": -1.1}, client_key=mine, status=409)
        self.ask("DELETE", f"/api/offsets/{one['id']}")
        self.assertFalse(self.offset()["known"])
        self.assertEqual(self.ask("GET", "/api/logbook?kind=offset")["entries"], [])
        self.ask("DELETE", f"/api/offsets/{one['id']}", status=404)
        self.ask("POST", f"/api/offsets/{one['id']}/restore")
        self.assertTrue(self.offset()["known"])

    def test_bad_offsets(self):
        for parts in ({}, {"pocket": 1}, {"printer": 99}, {"printer": "low"}):
            with self.subTest(parts):
                self.record(parts, status=422)
        self.record({"printer": 0}, reason="guess", status=422)
        other = self.new_visit(self.new_printer(name="Other")["id"])["id"]
        self.record({"printer": 0}, visit_id=other, status=409)
        self.new_survey(self.visit)
        self.ask("POST", f"/api/visits/{self.visit}/finish", {})
        self.record({"printer": 0}, visit_id=self.visit, status=409)

    def test_paper_tells_closer_and_the_number(self):
        self.record({"printer": -1.0, "slicer": 0.0})
        found = self.paper(feel="slight")
        self.assertAlmostEqual(found["closer"], 0.1)
        self.assertAlmostEqual(found["value"], -1.1)
        self.assertIn("above the plate", found["sentence"])
        self.assertEqual(found["parts"], {"printer": -1.1, "slicer": 0.0})
        self.assertAlmostEqual(self.paper(place="slicer")["value"], -0.1)
        self.paper(feel="tickles", status=422)
        self.paper(thickness=0, status=422)

    def test_on_machines_of_the_other_sign(self):
        self.printer = self.new_printer(name="Up", closer_is="positive")["id"]
        self.visit = self.new_visit(self.printer)["id"]
        self.record({"printer": 1.0})
        self.assertAlmostEqual(self.paper()["value"], 1.1)

    def test_patches_take_offset_and_tilt_apart(self):
        def patch(x, y, thick):
            return {"x": x, "y": y, "commanded": 0.2, "thickness": [thick, thick + 0.01, thick - 0.01]}

        unknown = self.patches([patch(110, 110, 0.26)])
        self.assertEqual((unknown["known"], unknown["value"], unknown["parts"]), (False, None, {}))
        self.record({"printer": 0.0, "slicer": 0.0})
        level = [patch(x, y, 0.26) for x in (30, 190) for y in (30, 190)]
        found = self.patches(level)
        # what was measured before anything was written down joins in; lines lie apart at that thickness: the gap is that much
        # too wide, or somewhat more
        self.assertTrue(0.06 <= found["closer"] <= 0.10, found)
        self.assertAlmostEqual(found["value"], -found["closer"], places=6)
        self.assertEqual((found["tilt"], found["turns"], found["enough"]), (None, [], False))
        self.assertEqual(
            (found["way"], found["stays"]), (f"{round(found['closer'], 2):.2f} mm closer", False)
        )
        # what all patches of a visit say counts together, so these are measured in another one
        self.visit = self.new_visit(self.printer)["id"]
        tilted = [patch(x, y, 0.2 + (x - 110) / 1000) for x in (30, 110, 190) for y in (30, 190)]
        found = self.patches(tilted)
        self.assertAlmostEqual(found["tilt"], 0.22, delta=0.01)
        self.assertTrue(any("oosen" in turn for turn in found["turns"]))
        self.assertIn("no offset takes it out", found["sentence"])
        self.assertTrue(found["enough"])
        self.assertEqual(found["stays"], abs(found["closer"]) < 0.005)
        self.patches([], status=422)
        self.patches([patch(30, 30, 0.2) | {"thickness": []}], status=422)
        self.patches([patch(30, 30, 0.2) | {"commanded": 1.9}], status=422)

    def test_trimming_is_summed_into_the_number(self):
        self.record({"printer": -1.0, "slicer": 0.0})
        found = self.ask("POST", f"/api/visits/{self.visit}/offset/trim", {"closer": -0.03})
        self.assertAlmostEqual(found["value"], -0.97)
        self.ask("POST", f"/api/visits/{self.visit}/offset/trim", {"closer": 9}, status=422)

    def test_an_offset_that_would_touch_is_not_handed_out(self):
        self.new_survey(self.visit, points=tilted_points(0.6))
        found = self.paper()
        self.assertIsNone(found["value"])
        self.assertEqual(found["parts"], {})
        self.assertIn("would touch", found["refused"])
        self.new_survey(self.visit, points=tilted_points(0.05))
        self.assertIsNone(self.paper()["refused"])

    def test_what_puts_it_out_of_date(self):
        visit = self.ask("GET", f"/api/visits/{self.visit}")
        strip = {"version": visit["version"], "surface": "Sheet", "bed_temperature": 60}
        visit = self.ask("PATCH", f"/api/visits/{self.visit}", strip)
        self.record({"printer": -1.0}, visit_id=self.visit)
        self.assertEqual(self.offset()["outdated"], [])
        strip = {"version": visit["version"], "surface": "Glass", "bed_temperature": 90}
        self.ask("PATCH", f"/api/visits/{self.visit}", strip)
        self.assertEqual(len(self.offset()["outdated"]), 2)
        survey = self.new_survey(self.visit)["id"]
        plan = self.ask("GET", f"/api/surveys/{survey}/plan")
        done = {t["name"]: t["rounded"] for t in plan["turns"]}
        turning = {"client_key": key(), "done": done}
        made = self.ask("POST", f"/api/surveys/{survey}/turnings", turning, status=201)
        # turned as planned the middle keeps its height
        self.assertEqual(len(self.offset()["outdated"]), 2)
        self.ask("DELETE", f"/api/turnings/{made['id']}")
        other = {"client_key": key(), "done": {"front left": 0.5}}
        self.ask("POST", f"/api/surveys/{survey}/turnings", other, status=201)
        self.assertEqual(len(self.offset()["outdated"]), 3)
