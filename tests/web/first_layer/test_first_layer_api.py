"""The first layer, foretold over the API."""

import numpy as np

from finchwort.core.first_layer import Bead
from tests.fixtures.support import WebCase, tilted_points


class FirstLayerTest(WebCase):
    def setUp(self):
        super().setUp()
        printer = self.new_printer(compensation="mesh")["id"]
        self.visit = self.new_visit(printer)
        self.survey = self.new_survey(self.visit["id"], points=tilted_points(0.2, 0.0, 0.1))["id"]

    def ask_for(self, status=200, **query):
        text = "&".join(f"{key}={value}" for key, value in query.items())
        return self.ask("GET", f"/api/surveys/{self.survey}/first-layer?{text}", status=status)

    def test_gaps_follow_the_bed(self):
        found = self.ask_for()
        gaps = np.array(found["gaps_um"]).reshape(found["rows"], found["columns"]) / 1000
        middle = gaps[found["rows"] // 2, found["columns"] // 2]
        self.assertAlmostEqual(middle, 0.2, delta=0.003)
        # high at the right: the gap is smaller there
        self.assertGreater(gaps[:, 0].mean(), gaps[:, -1].mean() + 0.15)
        self.assertAlmostEqual(sum(b["share"] for b in found["bands"]), 1.0)
        np.testing.assert_allclose(found["limits"], Bead(0.42, 0.2).limits())
        self.assertEqual(found["middle"]["band"], "good")
        self.assertIn("left", found["places"][1]["name"])
        self.assertLess(found["places"][0]["laid"]["gap"], found["places"][1]["laid"]["gap"])

    def test_a_shift_moves_every_gap(self):
        here, there = self.ask_for(), self.ask_for(shift=0.05)
        moved = np.array(there["gaps_um"]) - np.array(here["gaps_um"])
        self.assertLessEqual(np.abs(moved - 50).max(), 1)
        self.assertAlmostEqual(there["best"], here["best"], places=6)
        self.assertAlmostEqual(there["closest"], here["closest"], places=6)

    def test_plan_and_compensation_make_more_of_it_good(self):
        found = {stage: self.ask_for(stage=stage) for stage in ("measured", "plan", "compensated")}
        best = {stage: one["best_share"] for stage, one in found.items()}
        self.assertGreater(best["plan"], best["measured"])
        self.assertGreater(best["compensated"], 0.9)
        good = next(b["share"] for b in found["compensated"]["bands"] if b["band"] == "good")
        self.assertGreater(good, 0.9)
        self.assertEqual(self.ask_for()["stages"], ["measured", "plan", "compensated"])

    def test_contact_is_refused_loudly(self):
        found = self.ask_for(shift=-0.3)
        self.assertTrue(found["touches"])
        self.assertIn("would touch", found["sentence"])
        self.assertGreater(found["best"], -0.3)
        self.assertEqual(found["middle"]["band"], "scrapes")
        self.assertIsNone(self.ask_for(shift=-0.2)["middle"]["fill"])

    def test_first_layer_of_the_visit_and_line_width(self):
        self.ask("PATCH", f"/api/visits/{self.visit['id']}", {"version": 1, "first_layer": 0.3})
        found = self.ask_for(width=0.5)
        self.assertEqual((found["height"], found["width"]), (0.3, 0.5))
        self.assertAlmostEqual(found["area"], Bead(0.5, 0.3).area)

    def test_bad_wishes(self):
        for query in (
            {"shift": 9},
            {"width": 0.15},
            {"width": "wide"},
            {"flow": 9},
            {"stage": "printed"},
        ):
            with self.subTest(query):
                self.assertTrue(self.ask_for(status=422, **query)["detail"])
        bare = self.new_visit(self.new_printer(screws=[], name="Bare")["id"])
        survey = self.new_survey(bare["id"])["id"]
        for stage in ("plan", "compensated"):
            self.ask("GET", f"/api/surveys/{survey}/first-layer?stage={stage}", status=409)
        self.ask("GET", "/api/surveys/999/first-layer", status=404)
