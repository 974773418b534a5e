"""Plans with their outlook, what-if, what was learned, shims, beam, what is left, meshes and drift over the API."""

import itertools
import math
from datetime import UTC, datetime

import numpy as np

from finchwort.core.surveys import Survey, fit_minimum_zone
from tests.fixtures.support import WebCase, key, tilted_points

PADS = [
    {"name": "front left", "x": 20, "y": 20},
    {"name": "front right", "x": 200, "y": 20},
    {"name": "back", "x": 110, "y": 200},
]


class LevellingApiCase(WebCase):
    def printer(self, **changes):
        return self.new_printer(**changes)["id"]

    def begin(self, tilt=(0.4, -0.2), printer=None, points=None, **changes):
        """Make a printer, a visit and a survey; return their ids."""
        printer = printer or self.printer(**changes)
        visit = self.new_visit(printer)["id"]
        survey = self.add(visit, tilt, points)
        return printer, visit, survey

    def add(self, visit, tilt=(0.02, 0.0), points=None):
        body = {"points": points} if points else {}
        return self.new_survey(visit, tilt, **body)["id"]

    def record(self, survey, kind, status=201, note="", **what):
        body = {"client_key": key(), "adjustment": {"kind": kind} | what, "note": note}
        return self.ask("POST", f"/api/surveys/{survey}/adjustments", body, status=status)


class PlanTest(LevellingApiCase):
    def plan(self, survey, query="", status=200):
        return self.ask("GET", f"/api/surveys/{survey}/plan{query}", status=status)

    def test_a_plan_says_how_sure_it_is_and_in_which_order(self):
        *_, survey = self.begin()
        plan = self.plan(survey)
        ahead = plan["outlook"]
        self.assertEqual(ahead["decision"], "turn")
        self.assertAlmostEqual(ahead["tilt_now"], 0.6 * 220 / 190, delta=0.02)
        self.assertLess(ahead["tilt_after"], 0.06)
        self.assertGreater(ahead["chance"], 0.5)
        self.assertGreater(ahead["now_margin"], 0)
        self.assertIn("%", ahead["chance_words"])
        turned = [t["name"] for t in plan["turns"] if t["rounded"]]
        self.assertEqual(sorted(plan["order"]["names"]), sorted(turned))
        self.assertTrue(plan["order"]["why"])
        self.assertIn("No round", plan["learned_sentence"])

    def test_planes_and_what_each_leaves(self):
        points = tilted_points(0.3, 0.1, 0.15)
        points[3]["value"] += 0.06
        *_, survey = self.begin(points=points)
        found = {d["reference"]: d for d in self.plan(survey)["datums"]}
        self.assertEqual(list(found), ["least_squares", "minimum_zone", "three_points", "screws"])
        self.assertTrue(found["least_squares"]["chosen"])
        zone = min(d["peak_to_valley"] for d in found.values())
        self.assertAlmostEqual(found["minimum_zone"]["peak_to_valley"], zone)
        self.assertLess(zone, found["least_squares"]["peak_to_valley"] - 0.001)
        reference = Survey(*([p[k] for p in points] for k in ("x", "y", "value")))
        plane = fit_minimum_zone(reference)
        self.assertAlmostEqual(zone, np.ptp(reference.height - plane.at(reference.x, reference.y)), places=4)
        least = min(d["rms"] for d in found.values())
        self.assertEqual(found["least_squares"]["rms"], least)

        other = self.plan(survey, "?reference=three_points&points=0,4,22")
        self.assertEqual([d["used"] for d in other["datums"] if d["chosen"]], [[0, 4, 22]])
        for query in ("?reference=three_points&points=0,1,2", "?reference=three_points&points=0,1,99"):
            problem = self.plan(survey, query, status=422)
            self.assertTrue(problem["detail"])
        for query in ("?reference=paper", "?reference=three_points&points=0;4;22", "?hold=nobody"):
            self.plan(survey, query, status=422)

    def test_noise_rules_and_readings_that_cannot_decide(self):
        rng = np.random.default_rng(3)
        flat = [p | {"value": p["value"] + round(rng.normal(0, 0.02), 3)} for p in tilted_points(0.01)]
        *_, survey = self.begin(points=flat)
        plan = self.plan(survey)
        self.assertEqual(plan["outlook"]["decision"], "leave")
        self.assertTrue(plan["done"])
        few = [{"x": x, "y": y, "value": v} for x, y, v in ((15, 15, 0.0), (205, 15, 0.09), (110, 205, 0.0))]
        *_, survey = self.begin(points=few, repeatability=0.08)
        plan = self.plan(survey)
        self.assertEqual(plan["outlook"]["decision"], "measure")
        self.assertIn("easure", plan["outlook"]["sentence"])

    def test_travel_left_in_the_springs(self):
        printer = self.new_printer()
        screws = [s | {"to_tight": 0.0, "to_loose": 3.0} for s in printer["screws"]]
        body = {k: printer[k] for k in ("name", "width", "depth", "version")} | {"screws": screws}
        self.ask("PUT", f"/api/printers/{printer['id']}", body)
        *_, survey = self.begin(printer=printer["id"])
        plan = self.plan(survey)
        self.assertTrue(all(t["rounded"] <= 0 for t in plan["turns"]))
        self.assertTrue(all(t["room"] for t in plan["turns"]))
        # nothing tightens; the middle rises instead, and that is said
        self.assertIn("rises", plan["centre_sentence"])
        bad = body | {"screws": [screws[0] | {"to_tight": -1}, *screws[1:]], "version": 2}
        self.ask("PUT", f"/api/printers/{printer['id']}", bad, status=422)

    def test_what_if(self):
        _, visit, survey = self.begin()
        plan = self.plan(survey)
        turns = {t["name"]: t["rounded"] for t in plan["turns"]}
        ask = f"/api/surveys/{survey}/what-if"
        same = self.ask("POST", ask, {"turns": turns})
        self.assertEqual(same["heights"], plan["heights"])
        self.assertAlmostEqual(same["chance"], plan["outlook"]["chance"], places=6)
        none = self.ask("POST", ask, {"turns": {}})
        self.assertAlmostEqual(none["spread"], plan["spread_before"])
        self.assertEqual((none["knobs"], none["turned"]), (0, 0))
        self.assertLess(none["chance"], same["chance"])
        wrong = self.ask("POST", ask, {"turns": {name: -t for name, t in turns.items()}})
        self.assertGreater(wrong["tilt"], 1.5 * none["tilt"])
        self.ask("POST", ask, {"turns": {"nobody": 0.5}}, status=422)
        self.ask("POST", ask, {"turns": {"front left": 99}}, status=422)
        # nothing was recorded
        self.assertIsNone(self.ask("GET", f"/api/visits/{visit}")["rounds"][0]["turning"])

    def test_how_other_turns_are_called(self):
        *_, survey = self.begin()
        turned = {"front left": 0.375, "front right": -1.25, "back left": 2}
        knobs = self.ask("POST", f"/api/surveys/{survey}/what-if", {"turns": turned})["screws"]
        self.assertEqual(
            {one["name"]: (one["turns"], one["figures"], one["words"]) for one in knobs},
            {
                "front left": (0.375, "3/8", "tighten"),
                "front right": (-1.25, "1 2/8", "loosen"),
                "back left": (2, "2", "tighten"),
                "back right": (0, "0", "at rest"),
            },
        )

    def test_which_way_tightens_as_the_person_sees_it(self):
        # a right-hand thread tightens clockwise at its own end; a left-hand one, and a look from behind, reverse it
        for hand, view, way in (
            ("right", "face", "clockwise"),
            ("right", "behind", "counterclockwise"),
            ("left", "face", "counterclockwise"),
            ("left", "behind", "clockwise"),
        ):
            printer = self.new_printer(name=f"{hand} {view}", thread_hand=hand, knob_view=view)
            *_, survey = self.begin(printer=printer["id"])
            for turn in self.plan(survey)["turns"]:
                self.assertEqual(turn["tightens"], way, (hand, view))
                if turn["rounded"]:
                    self.assertEqual(turn["direction"] == way, turn["rounded"] > 0)

    def test_the_order_of_turning_is_the_shortest_walk_in_pairs(self):
        *_, survey = self.begin(points=tilted_points(0.5, 0.5))
        plan = self.plan(survey)
        turns = {t["name"]: t["rounded"] for t in plan["turns"]}
        names = plan["order"]["names"]
        self.assertEqual(set(names), {name for name, t in turns.items() if t})
        self.assertGreater(len(list(itertools.permutations(names))), 1)
        self.assertLess(turns[names[0]] * turns[names[1]], 0)


class LearnedTest(LevellingApiCase):
    def rounds(self, count=2, share=0.4):
        """Turn, and let front left follow by a share only."""
        printer, visit, survey = self.begin()
        for _ in range(count):
            plan = self.ask("GET", f"/api/surveys/{survey}/plan")
            done = {t["name"]: 0.0 for t in plan["turns"]} | {"front left": 1.0}
            after = self.ask(
                "POST", f"/api/surveys/{survey}/what-if", {"turns": done | {"front left": share}}
            )
            self.ask(
                "POST",
                f"/api/surveys/{survey}/turnings",
                {"client_key": key(), "done": done},
                status=201,
            )
            points = tilted_points(0.0)
            heights = after["heights"]
            survey = self.add(
                visit, points=[p | {"value": round(h, 4)} for p, h in zip(points, heights, strict=True)]
            )
        return printer, survey

    def test_a_knob_that_slips_is_named_and_mending_forgets(self):
        printer, survey = self.rounds()
        learned = self.ask("GET", f"/api/printers/{printer}/learned")
        self.assertEqual((learned["rounds"], learned["named"]), (2, "front left"))
        knob = learned["knobs"][0]
        self.assertLess(knob["share"], 0.75)
        self.assertGreater(knob["slips"], 0.75)
        self.assertEqual((len(knob["corners"]), len(knob["expected"])), (4, 4))
        self.assertIn("front left", self.ask("GET", f"/api/surveys/{survey}/plan")["slipping"])

        now = datetime.now(UTC).isoformat()
        before = self.ask(
            "PUT", f"/api/printers/{printer}/learned", {"since": now, "note": "Lock nut fitted"}
        )
        self.assertIsNone(before["before"])
        self.assertEqual(self.ask("GET", f"/api/printers/{printer}/learned")["rounds"], 0)
        entries = self.ask("GET", "/api/logbook?q=lock+nut")["entries"]
        self.assertIn("learning begins again", entries[0]["title"])
        self.ask("PUT", f"/api/printers/{printer}/learned", {"since": None})
        self.assertEqual(self.ask("GET", f"/api/printers/{printer}/learned")["rounds"], 2)

    def test_a_bed_without_screws_learns_nothing(self):
        bare = self.new_printer(screws=[])["id"]
        self.ask("GET", f"/api/printers/{bare}/learned", status=409)
        self.ask("GET", "/api/printers/999/learned", status=404)


class ShimApiTest(LevellingApiCase):
    def shims(self, survey, query="", status=200):
        return self.ask("GET", f"/api/surveys/{survey}/shims{query}", status=status)

    def foils(self, *foils, status=200):
        version = self.ask("GET", "/api/foils")["version"]
        body = {"foils": [{"thickness": t, "count": c} for t, c in foils], "version": version}
        return self.ask("PUT", "/api/foils", body, status=status)

    def test_plan_lay_and_measure(self):
        _, visit, survey = self.begin(screws=[], pads=PADS)
        problem = self.shims(survey, status=422)
        self.assertIn("foil", problem["detail"])
        self.foils((0.05, 8), (0.1, 6), (0.2, 4))
        plan = self.shims(survey)
        self.assertLess(plan["spread_after"], 0.08)
        self.assertFalse(plan["done"])
        self.assertAlmostEqual(sum(plan["stacks"][0]["foils"]), plan["stacks"][0]["thickness"])
        lower = self.shims(survey, "?lower_middle=0.1")
        # a stiff plate keeps its shape: the wish is refused, and the plan is the one for a flat bed
        self.assertIn("stiff plate", lower["refused"])
        self.assertEqual(lower["stacks"], plan["stacks"])
        self.shims(survey, "?lower_middle=2", status=422)

        stacks = [{"name": s["name"], "foils": s["foils"]} for s in plan["stacks"]]
        self.record(survey, "shims", 422, stacks=stacks[:2])
        made = self.record(survey, "shims", stacks=stacks, note="cut with scissors")
        self.assertEqual(made["kind"], "shims")
        shown = self.ask("GET", f"/api/visits/{visit}")
        self.assertTrue(shown["rounds"][0]["moved"])
        states = {s["name"]: s["state"] for s in shown["route"]}
        self.assertEqual((states["measure"], states["level"]), ("out_of_date", "done"))
        points = [p | {"value": round(h, 3)} for p, h in zip(tilted_points(0), plan["heights"], strict=True)]
        again = self.shims(self.add(visit, points=points))
        self.assertTrue(again["done"])
        self.assertEqual([s["now"] for s in again["stacks"]], [s["foils"] for s in plan["stacks"]])

    def test_bad_foils_are_told(self):
        for wrong in (((0.1, 2), (0.1, 3)), ((0.0, 2),), ((0.1, -1),), ((9.0, 1),)):
            with self.subTest(wrong):
                self.assertTrue(self.foils(*wrong, status=422)["detail"])
        stale = {"foils": [], "version": 999}
        self.assertEqual(self.ask("PUT", "/api/foils", stale, status=409)["type"], "stale")

    def test_one_thing_at_a_time(self):
        *_, survey = self.begin(screws=[], pads=PADS)
        self.record(survey, "dance", 422)
        self.record(survey, "shims", 422, stacks=[], places=[{"x": 50, "y": 50, "layers": 1}])

    def test_tape_under_a_loose_plate(self):
        points = [
            p | {"value": p["value"] - 0.2 * math.exp(-((p["x"] - 62) ** 2 + (p["y"] - 62) ** 2) / 9000)}
            for p in tilted_points(0)
        ]
        _, visit, survey = self.begin(points=points, screws=[])
        found = self.ask("GET", f"/api/surveys/{survey}/tape")
        self.assertEqual(found["kind"], "dips")
        self.assertLess(max(found["places"][0]["x"], found["places"][0]["y"]), 90)
        tape = [{k: place[k] for k in ("x", "y", "layers")} for place in found["places"]]
        made = self.record(survey, "tape", places=tape)
        self.assertEqual(made["kind"], "tape")
        self.ask("DELETE", f"/api/adjustments/{made['id']}")
        self.assertEqual(self.ask("GET", f"/api/visits/{visit}")["rounds"][0]["adjustments"], [])
        self.ask("POST", f"/api/adjustments/{made['id']}/restore")
        self.ask("POST", f"/api/adjustments/{made['id']}/restore", status=404)
        self.assertEqual(len(self.ask("GET", f"/api/visits/{visit}")["rounds"][0]["adjustments"]), 1)
        self.assertIn("Tape laid", self.ask("GET", "/api/logbook")["entries"][0]["title"])


class BeamApiTest(LevellingApiCase):
    def test_drive_by_turns_degrees_and_steps(self):
        _, visit, survey = self.begin(
            (0.5, 0.0),
            beam_screws=2,
            beam_left=-15,
            beam_right=235,
            beam_lead=8.0,
            beam_steps=3200,
            beam_carries="nozzle",
        )
        plan = self.ask("GET", f"/api/surveys/{survey}/beam")
        self.assertEqual({d["side"] for d in plan["drives"]}, {"left", "right"})
        for drive in plan["drives"]:
            self.assertAlmostEqual(abs(drive["rise"]), 0.5 * 250 / 190, delta=0.02)
            self.assertAlmostEqual(drive["turns"] * 8.0, abs(drive["rise"]), places=6)
            self.assertAlmostEqual(drive["degrees"], 360 * abs(drive["turns"]), delta=0.6)
            self.assertEqual(abs(drive["steps"]), round(abs(drive["turns"]) * 3200))
        self.assertIn("independent", plan)
        self.assertIsNone(plan["beam_share"])  # nothing independent was measured
        drive = plan["drives"][0]
        made = self.record(survey, "beam", side=drive["side"], rise=drive["rise"])
        self.assertIn(drive["side"], made["detail"])
        self.assertTrue(self.ask("GET", f"/api/visits/{visit}")["rounds"][0]["moved"])

    def test_no_beam(self):
        *_, survey = self.begin(beam_screws=1)
        self.ask("GET", f"/api/surveys/{survey}/beam", status=409)
        self.record(survey, "beam", 422, side="up", rise=0.2)
        made = self.record(survey, "beam", side="left", rise=0.2)
        self.assertIn("left end", made["detail"])  # moved by its carriage: there is no screw on that side
        *_, survey = self.begin(beam_screws=0)
        self.record(survey, "beam", 422, side="left", rise=0.2)


class MeshApiTest(LevellingApiCase):
    def dome(self, **changes):
        return self.begin(points=tilted_points(0.02, 0, 0.12), **({"compensation": "mesh"} | changes))

    def mesh(self, survey, query="", status=200):
        return self.ask("GET", f"/api/surveys/{survey}/compensation{query}", status=status)

    def test_what_is_left_and_its_remedies(self):
        *_, survey = self.dome()
        left = self.ask("GET", f"/api/surveys/{survey}/left")
        self.assertAlmostEqual(left["share"], left["peak_to_valley"] / 0.2)
        kinds = [r["kind"] for r in left["remedies"]]
        self.assertEqual(sorted(kinds), sorted(set(kinds)))
        self.assertEqual([r["kind"] for r in left["remedies"] if r["fits"]], ["compensation"])
        glass = next(r for r in left["remedies"] if r["kind"] == "glass")
        self.assertTrue(any("switch" in c for c in glass["consequences"]))

    def test_mesh_table_commands_and_fade(self):
        _, visit, survey = self.dome()
        found = self.mesh(survey)
        self.assertEqual((found["columns"], found["rows"], found["kind"]), (5, 5, "mesh"))
        self.assertEqual(len(found["nodes"]), 25)
        self.assertEqual(len(found["table"].splitlines()), len(found["table"].strip().splitlines()))
        self.assertLess(found["left_rms"], 0.05)
        wider = self.mesh(survey, "?columns=3&rows=3&method=bicubic&fade=5")
        self.assertEqual((wider["columns"], wider["method"], wider["fade"]), (3, "bicubic", 5))
        # the error in each layer: the largest deviation spread over the fade height
        self.assertAlmostEqual(wider["fade_share"], wider["deviation"] / 5, delta=0.002)
        for query in ("?columns=1", "?rows=99", "?method=magic", "?fade=-1"):
            self.mesh(survey, query, status=422)
        made = self.record(survey, "mesh", columns=5, rows=5)
        self.assertEqual(made["kind"], "mesh")
        stored = self.mesh(survey)["stored"]
        self.assertEqual((stored["id"], stored["outdated"]), (made["id"], []))
        turning = {"client_key": key(), "done": {"front left": 0.125}}
        self.ask("POST", f"/api/surveys/{survey}/turnings", turning, status=201)
        self.assertEqual(len(self.mesh(survey)["stored"]["outdated"]), 1)
        states = {s["name"]: s["state"] for s in self.ask("GET", f"/api/visits/{visit}")["route"]}
        self.assertEqual(states["compensate"], "out_of_date")

    def test_files(self):
        *_, survey = self.dome()
        for form in ("txt", "gcode"):
            answer = self.client.get(f"/api/surveys/{survey}/mesh.{form}")
            self.assertEqual(answer.status_code, 200)
            self.assertIn("attachment", answer.headers["Content-Disposition"])
            self.assertGreater(len(answer.text), 50)
        self.assertIn("mesh-", answer.headers["Content-Disposition"])

    def test_a_machine_that_only_takes_the_mean(self):
        *_, survey = self.dome(compensation="mean")
        found = self.mesh(survey)
        self.assertEqual(found["kind"], "mean")
        self.assertIn("tilt", found["kind_sentence"])
        self.assertNotIn("G29", found["commands"])
        *_, survey = self.dome(compensation="none", name="Plain")
        self.record(survey, "mesh", 422)


class DriftApiTest(LevellingApiCase):
    def test_with_few_visits_it_says_what_is_missing(self):
        printer, *_ = self.begin()
        found = self.ask("GET", f"/api/printers/{printer}/drift")
        self.assertEqual((len(found["found"]), found["tilt"], found["look_again"]), (1, None, None))
        self.assertTrue(found["sentence"])
        self.ask("GET", "/api/printers/999/drift", status=404)
