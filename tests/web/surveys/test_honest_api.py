"""Readings set aside and put back, one judgement on every page, walks that drift, plates a probe does not see, bare rows."""

import numpy as np

from finchwort.core.first_layer import Patch
from finchwort.services.first_layer import offset_clues
from finchwort.services.machine import jobs
from finchwort.store.first_layer.models import Trial
from finchwort.store.machine import jobs as stored_jobs
from tests.fixtures.support import WebCase, key, tilted_points


def stray_points(size: float = 0.4) -> list[dict]:
    points = tilted_points(0.3)
    points[12] = points[12] | {"value": points[12]["value"] + size}
    return points


class SetAsideTest(WebCase):
    def setUp(self):
        super().setUp()
        self.printer = self.new_printer()["id"]
        self.visit = self.new_visit(self.printer)["id"]
        self.survey = self.new_survey(self.visit, points=stray_points())["id"]

    def put(self, place, aside, status=200, survey=None):
        path = f"/api/surveys/{survey or self.survey}/readings/{place}"
        return self.ask("PUT", path, {"aside": aside}, status=status)

    def map(self):
        return self.ask("GET", f"/api/surveys/{self.survey}/map")

    def test_it_counts_for_nothing_until_it_is_put_back(self):
        shown = self.map()
        self.assertEqual([one["place"] for one in shown["aside"]], [12])
        self.assertEqual(len(shown["x"]), 24)
        self.assertAlmostEqual(shown["aside"][0]["stray"], 0.4, delta=0.05)
        plan = self.ask("GET", f"/api/surveys/{self.survey}/plan")
        self.assertEqual(len(plan["heights"]), 24)
        self.assertLess(plan["spread_before"], 0.33)
        said = self.ask("GET", f"/api/visits/{self.visit}")["rounds"][0]["survey"]["assumptions"]
        self.assertIn("set aside", " ".join(said))
        self.put(12, False)
        again = self.map()
        self.assertEqual((len(again["x"]), again["aside"][0]["counts"]), (25, True))
        self.assertGreater(again["figures"]["spread"], 0.5)
        log = self.ask("GET", f"/api/logbook?printer={self.printer}")
        self.assertIn("put back", str(log))
        self.put(12, True)
        self.assertEqual(len(self.map()["x"]), 24)

    def test_what_cannot_be(self):
        self.put(99, True, status=404)
        few = [{"x": x, "y": y, "value": 0.1} for x, y in ((15, 15), (205, 15), (110, 205))]
        survey = self.new_survey(self.visit, points=few)["id"]
        self.assertIn("has to stay", self.put(0, True, status=409, survey=survey)["detail"])
        turns = {"client_key": key(), "hold": "centre", "done": {"front left": 0.25}}
        self.ask("POST", f"/api/surveys/{survey}/turnings", turns, status=201)
        self.assertIn("Measure again", self.put(0, True, status=409, survey=survey)["detail"])
        self.ask("POST", f"/api/visits/{self.visit}/finish", {})
        self.put(12, False, status=409)

    def test_a_tip_still_minds_it(self):
        """For the clearance of the tip a reading set aside may be something that stands there."""
        before = self.ask(
            "GET", f"/api/surveys/{self.survey}/first-layer?stage=measured&shift=0&width=0.42&flow=1"
        )
        self.assertGreater(min(before["gaps_um"]), 0)
        self.assertEqual([one["counts"] for one in self.map()["aside"]], [False])

    def test_the_preview_says_so_and_where_to_touch_next(self):
        body = {"points": stray_points(), "values": "height", "unit": "mm", "visit": self.visit}
        shown = self.ask("POST", f"/api/printers/{self.printer}/preview", body)["preview"]
        self.assertEqual([one["place"] for one in shown["aside"]], [12])
        self.assertIn("decided", shown["next_place"])
        few = [
            {"x": x, "y": y, "value": v}
            for x, y, v in ((15, 15, 0), (60, 15, 0.01), (15, 60, 0.02), (60, 60, 0.03))
        ]
        shown = self.ask("POST", f"/api/printers/{self.printer}/preview", body | {"points": few})["preview"]
        self.assertIn("Touch next", shown["next_place"])

    def test_two_readings_of_one_place_are_averaged(self):
        points = [*tilted_points(0.3), tilted_points(0.3)[0] | {"value": 0.05}]
        survey = self.new_survey(self.visit, points=points)
        self.assertEqual(survey["count"], 25)
        self.assertIn("the mean is used", " ".join(survey["assumptions"]))


class OneJudgementTest(WebCase):
    def test_the_logbook_speaks_of_compensation_only_where_there_is_one(self):
        for compensation, said in (
            ("mesh", "Leave the screws, compensate"),
            ("none", "Tilt is out, shape stays"),
        ):
            with self.subTest(compensation):
                printer = self.new_printer(compensation=compensation, name=f"Reed, {compensation}")["id"]
                visit = self.new_visit(printer)["id"]
                survey = self.new_survey(visit, points=tilted_points(0, 0, 0.2))
                self.assertEqual(survey["word"], said)
                lines = self.ask("GET", f"/api/logbook?kind=survey&printer={printer}")["entries"]
                self.assertEqual([line["detail"].endswith(f"{said}.") for line in lines], [True])

    def test_map_plan_route_and_rounds_say_the_same(self):
        printer = self.new_printer()["id"]
        rng = np.random.default_rng(4)
        words = {"turn": "turn", "leave": ("level", "compensate", "warped"), "measure": "unsure"}
        for tilt in (0.0, 0.06, 0.09, 0.12, 0.4):
            for noise in (0.003, 0.03):
                visit = self.new_visit(printer)["id"]
                points = [
                    p | {"value": round(p["value"] + rng.normal(0, noise), 4)}
                    for p in tilted_points(tilt, 0, 0.05)
                ]
                survey = self.new_survey(visit, points=points)
                shown = self.ask("GET", f"/api/surveys/{survey['id']}/map")["figures"]["verdict"]["level"]
                self.assertEqual(survey["verdict"], shown)
                ahead = self.ask("GET", f"/api/surveys/{survey['id']}/plan")["outlook"]
                if ahead["decision"] == "leave" and shown == "turn":
                    self.assertIn("turns nothing", ahead["sentence"])  # the knobs cannot come closer
                else:
                    self.assertIn(shown, words[ahead["decision"]])
                route = {one["name"]: one for one in self.ask("GET", f"/api/visits/{visit}")["route"]}
                self.assertEqual(route["level"]["state"] == "doing", shown == "turn")

    def test_a_probe_test_is_heard_by_every_page(self):
        printer = self.new_printer()["id"]
        visit = self.new_visit(printer)["id"]
        points = [tilted_points(0.16)[i] for i in (0, 4, 12, 20, 24)]
        survey = self.new_survey(visit, points=points)["id"]
        before = self.ask("GET", f"/api/surveys/{survey}/map")["figures"]["tilt_margin"]
        heights = [0.1 + 0.002 * (-1) ** i for i in range(12)]
        self.ask(
            "POST",
            f"/api/visits/{visit}/tests",
            {"client_key": key(), "test": {"kind": "repeatability", "heights": heights}},
            status=201,
        )
        after = self.ask("GET", f"/api/surveys/{survey}/map")["figures"]
        self.assertNotEqual(after["tilt_margin"], before)
        stored = self.ask("GET", f"/api/visits/{visit}")["rounds"][0]["survey"]["verdict"]
        self.assertEqual(stored, after["verdict"]["level"])


class WalkTest(WebCase):
    def test_a_drift_is_found_taken_out_and_named(self):
        printer = self.new_printer(port="socket://127.0.0.1:9", probe_kind="inductive")["id"]
        visit = self.new_visit(printer)["id"]
        path = f"/api/printers/{printer}/jobs"
        wanted = {"job": {"kind": "grid", "visit": visit, "columns": 3, "rows": 3}}
        asked = self.ask("POST", f"{path}/ask", wanted)
        self.assertIn("once more", asked["sentence"])
        self.assertEqual(asked["total"], 12)
        self.ask("POST", path, wanted | {"client_key": key(), "token": asked["token"]}, status=201)
        with self.sessions.begin() as session:
            job = stored_jobs.claim_job(session, "me")
            places = [*job.params["points"], *job.params["again"]]
            for i, (x, y) in enumerate(places):
                stored_jobs.add_reading(session, job.id, i, x, y, 0.001 * x + 0.004 * i, 6.0 * i)
            said = jobs.keep_readings(session, job)
            survey = job.survey_id
        self.assertIn("still warming", said)
        shown = self.ask("GET", f"/api/surveys/{survey}/map")
        self.assertEqual(len(shown["x"]), 9)
        # the drift ran along Y, and none of it is taken for tilt
        self.assertLess(abs(shown["figures"]["tilt_y"]), 0.01)


class PlateTest(WebCase):
    def test_a_plate_that_the_probe_does_not_see_needs_the_loudest_word(self):
        line = {"port": "socket://127.0.0.1:9"}
        for kind, loud in (("inductive", True), ("capacitive", True), ("retracting", False)):
            printer = self.new_printer(probe_kind=kind, **line)["id"]
            path = f"/api/printers/{printer}/jobs"
            quiet = self.ask("POST", f"{path}/ask", {"job": {"kind": "home"}})
            self.assertIsNone(quiet["confirm"])
            self.ask(
                "POST",
                f"/api/printers/{printer}/changes",
                {"client_key": key(), "what": "plate", "note": ""},
                status=201,
            )
            asked = self.ask("POST", f"{path}/ask", {"job": {"kind": "home"}})
            self.assertEqual(asked["confirm"] is not None, loud)
            if not loud:
                continue
            self.assertIn("DANGER", asked["cautions"][0])
            body = {"job": {"kind": "home"}, "client_key": key(), "token": asked["token"]}
            self.assertIn("Nothing begins", self.ask("POST", path, body, status=409)["detail"])
            self.ask("POST", path, body | {"confirmed": True}, status=201)


class RowTest(WebCase):
    def test_three_bare_numbers(self):
        printer = self.new_printer(
            beam_screws=2,
            beam_left=-10,
            beam_right=230,
            beam_carries="nozzle",
            beam_raises="clockwise",
            beam_lead=2,
        )["id"]
        visit = self.new_visit(printer)["id"]
        path = f"/api/visits/{visit}/beam-row"
        plan = self.ask("POST", path, {"text": "-0.2 0.0 0.2"})
        self.assertEqual((plan["state"], plan["drives"][0]["side"]), ("drive", "right"))
        self.assertIn("clockwise seen from above", plan["drives"][0]["words"])
        gaps = self.ask("POST", path, {"text": "-0.2; 0,0; 0,2", "values": "gap"})
        self.assertEqual(gaps["drives"][0]["side"], "left")
        self.ask("POST", path, {"text": "0.1 0.2"}, status=422)
        body = {"text": "-0.2 0.0 0.2"}
        problem = self.ask("POST", f"/api/printers/{printer}/preview", body, status=422)
        self.assertIn("left, middle, right", problem["detail"])


class PatchesTest(WebCase):
    def test_a_newer_survey_says_nothing_about_patches_measured_before_it(self):
        printer = self.new_printer()["id"]
        visit = self.new_visit(printer)["id"]
        at = ((35, 35), (185, 35), (185, 185), (35, 185))
        patches = [Patch(x, y, 0.2, (0.25, 0.25, 0.26)) for x, y in at]
        with self.sessions.begin() as session:
            trial = offset_clues.record_patches(session, visit, patches, width=0.42, client_key=key())
            number = trial.id
            before = offset_clues.patches_found(session, trial.visit, trial)
            self.assertFalse(before.shaped)
        self.new_survey(visit, points=tilted_points(0.0, 0.0, 0.2))
        with self.sessions.begin() as session:
            trial = session.get(Trial, number)
            after = offset_clues.patches_found(session, trial.visit, trial)
            self.assertAlmostEqual(after.closer, before.closer)
            # patches measured now stand on the bowed bed that is known: the middle is high there
            made = offset_clues.record_patches(session, visit, patches, width=0.42, client_key=key())
            later = offset_clues.patches_found(session, made.visit, made)
            self.assertTrue(later.shaped)
            self.assertLess(later.closer, after.closer - 0.05)
