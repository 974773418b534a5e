"""What is done at the printer, by what carries its bed; foil set right; places that everything keeps off."""

import math
import re

from finchwort.core.printers import TIP_ROOM, Bed, KeepOff, blocked, crosses
from tests.fixtures.gcode_reader import read
from tests.fixtures.support import WebCase, key, tilted_points

PADS = [
    {"name": "front left", "x": 12, "y": 12},
    {"name": "front right", "x": 208, "y": 12},
    {"name": "back", "x": 110, "y": 208},
]
CLIPS = [
    {"name": "front clip", "x_min": 95, "y_min": 0, "x_max": 125, "y_max": 9, "height": 6},
    {"name": "left clip", "x_min": 0, "y_min": 100, "x_max": 8, "y_max": 120, "height": 4},
]
CLIPPED = Bed(220, 220, keep_off=tuple(KeepOff(**one) for one in CLIPS))


class CardsApiTest(WebCase):
    def begin(self, tilt=(0.4, -0.2), points=None, **printer):
        visit = self.new_visit(self.new_printer(**printer)["id"])["id"]
        survey = self.new_survey(visit, tilt, **({"points": points} if points else {}))["id"]
        return visit, survey

    def cards(self, visit, query="", status=200):
        return self.ask("GET", f"/api/visits/{visit}/cards{query}", status=status)

    def drawer(self, *foils):
        version = self.ask("GET", "/api/foils")["version"]
        return self.ask("PUT", "/api/foils", {"foils": list(foils), "version": version})["foils"]

    def did(self, survey, way):
        body = {"client_key": key(), "adjustment": way["adjustment"]}
        return self.ask("POST", f"/api/surveys/{survey}/adjustments", body, status=201)

    def test_before_a_survey_and_after_the_bed_was_moved(self):
        visit = self.new_visit(self.new_printer(screws=[])["id"])["id"]
        self.assertEqual(self.cards(visit)["title"], "Measure first")
        visit, survey = self.begin(screws=[], beam_screws=2)
        self.did(survey, self.cards(visit)["ways"][0])
        self.assertEqual(self.cards(visit)["title"], "Measure again")

    def test_knobs(self):
        visit, survey = self.begin()
        deck = self.cards(visit)
        self.assertEqual((deck["kind"], deck["survey_id"]), ("knobs", survey))

    def test_pads_from_the_first_card_to_the_drawer(self):
        visit, survey = self.begin(screws=[], pads=PADS)
        self.assertIn("foil", self.cards(visit, status=422)["detail"])
        self.drawer({"thickness": 0.1, "count": 9}, {"thickness": 0.05, "count": 4})
        deck = self.cards(visit)
        self.assertEqual(deck["kind"], "foil")
        names = {pad["name"] for pad in PADS}
        for card in deck["cards"]:
            self.assertIn(card["where"], names)
            self.assertTrue(card["marks"])
        self.did(survey, deck["ways"][0])
        laid = [size for one in deck["ways"][0]["adjustment"]["stacks"] for size in one["foils"]]
        left = {f["thickness"]: f["count"] for f in self.ask("GET", "/api/foils")["foils"]}
        self.assertEqual(left, {0.1: 9 - laid.count(0.1), 0.05: 4 - laid.count(0.05)})

    def test_kitchen_foil(self):
        visit, _ = self.begin((0.06, 0.0), screws=[], pads=PADS)
        shown = self.drawer({"thickness": 0.016, "count": 0, "roll": True})
        self.assertEqual(shown[0]["pieces"], [0.016, 0.032, 0.064, 0.128])
        deck = self.cards(visit)
        self.assertTrue(any("kitchen foil" in card["title"] for card in deck["cards"]))
        measured = self.ask("GET", "/api/foils/measured?together=0.16&pieces=10")
        self.assertAlmostEqual(measured["thickness"], 0.016)
        self.ask("GET", "/api/foils/measured?together=0.16&pieces=0", status=422)

    def test_two_lead_screws_before_knobs(self):
        visit, _ = self.begin(beam_screws=2, beam_carries="nozzle")
        deck = self.cards(visit)
        self.assertEqual(deck["kind"], "beam")
        self.assertIn("Motors off", deck["caution"])
        self.assertEqual({way["adjustment"]["side"] for way in deck["ways"]}, {"left", "right"})

    def test_one_lead_screw(self):
        visit, survey = self.begin((0.5, 0.0), screws=[], beam_screws=1)
        deck = self.cards(visit)
        self.assertEqual((deck["kind"], len(deck["cards"])), ("carriage", 3))
        self.assertIn("right", deck["title"])
        self.assertIn("right end", self.did(survey, deck["ways"][0])["detail"])
        visit, _ = self.begin((0.0, 0.5), screws=[], beam_screws=1)
        self.assertNotEqual(self.cards(visit)["kind"], "carriage")  # front to back is not the beam's doing

    def test_tape_or_nothing_where_nothing_turns(self):
        dip = [
            p | {"value": round(-0.2 * math.exp(-((p["x"] - 62) ** 2 + (p["y"] - 62) ** 2) / 4000), 4)}
            for p in tilted_points(0.0)
        ]
        visit, survey = self.begin(points=dip, screws=[], surfaces=[])
        deck = self.cards(visit)
        self.assertEqual(deck["kind"], "tape")
        self.assertLess(self.cards(visit, "?tape=0.2")["ways"][0]["adjustment"]["places"][0]["layers"], 3)
        self.did(survey, deck["ways"][0])
        visit, _ = self.begin((0.0, 0.0), screws=[])
        deck = self.cards(visit)
        self.assertEqual((deck["kind"], deck["ways"]), ("nothing", []))
        self.assertTrue(deck["lines"])

    def test_foil_set_right(self):
        printer = self.new_printer(screws=[], pads=PADS)["id"]
        stacks = [{"name": p["name"], "foils": [0.1] if p["name"] == "back" else []} for p in PADS]
        self.ask("PUT", f"/api/printers/{printer}/foil", {"shims": stacks})
        pads = self.ask("GET", f"/api/printers/{printer}")["printer"]["pads"]
        self.assertEqual([p["foils"] for p in pads], [[], [], [0.1]])
        self.ask("PUT", f"/api/printers/{printer}/foil", {"shims": stacks[:2]}, status=422)


class MeanApiTest(WebCase):
    def test_numbers_and_no_mesh(self):
        printer = self.new_printer(screws=[], compensation="mean")["id"]
        visit = self.new_visit(printer)["id"]
        survey = self.new_survey(visit, points=tilted_points(0.0, 0, 0.12))["id"]
        made = self.ask("GET", f"/api/surveys/{survey}/compensation")
        found = made["mean"]
        self.assertAlmostEqual(found["middle"] - found["mean"], found["difference"])
        self.assertEqual(len(found["corners"]), 4)
        self.assertGreater(abs(found["difference"]), 0.02)
        figures = self.ask("GET", f"/api/surveys/{survey}/map")["figures"]["verdict"]
        for said in [*found["sentences"], figures["word"], figures["sentence"]]:
            self.assertIsNone(re.search(r"mesh|can deal with it", said), said)


class KeepOffApiTest(WebCase):
    def setUp(self):
        super().setUp()
        self.printer = self.new_printer(
            keep_off=CLIPS,
            probe_kind="inductive",
            probe_dx=20,
            probe_dy=-10,
            port="socket://127.0.0.1:9",
            compensation="mesh",
        )["id"]
        visit = self.new_visit(self.printer)
        self.visit = visit["id"]
        strip = {
            "surface": "Sheet",
            "surface_kind": "smooth_pei",
            "material": "PLA",
            "bed_temperature": 60,
            "nozzle_temperature": 205,
            "first_layer": 0.2,
            "version": visit["version"],
        }
        self.ask("PATCH", f"/api/visits/{self.visit}", strip)

    def free(self, points, probe=(0, 0)):
        places = [(p["x"], p["y"]) if isinstance(p, dict) else tuple(p) for p in points]
        self.assertEqual([one for one in blocked(CLIPPED, places, probe) if one], [])

    def test_they_are_drawn(self):
        bed = self.ask("GET", f"/api/printers/{self.printer}")["printer"]["bed"]
        self.assertEqual([one["name"] for one in bed["keep_off"]], ["front clip", "left clip"])

    def test_patterns_by_hand_and_by_probe(self):
        where = f"/api/printers/{self.printer}/pattern"
        for query in ("?kind=screws", "?columns=5&rows=5", "?columns=9&rows=9&inset=2"):
            self.free(self.ask("GET", where + query)["points"])
        probed = self.ask("GET", where + "?columns=7&rows=7&inset=2&by_probe=true")["points"]
        self.free(probed, (20, -10))

    def test_the_probe_is_not_sent_there(self):
        ask = f"/api/printers/{self.printer}/jobs/ask"
        asked = self.ask("POST", ask, {"job": {"kind": "grid", "visit": self.visit, "columns": 5, "rows": 5}})
        self.assertTrue(asked["sentence"])
        wrong = {"kind": "grid", "visit": self.visit, "points": [[110, 15], [60, 60], [160, 160]]}
        self.assertIn("front clip", self.ask("POST", ask, {"job": wrong}, status=422)["detail"])
        # the nozzle, 20 mm to the left of the probe, would come down on the clip
        beside = {"kind": "grid", "visit": self.visit, "points": [[130, 0.5], [60, 60], [160, 160]]}
        self.assertIn("front clip", self.ask("POST", ask, {"job": beside}, status=422)["detail"])

    def test_no_file_goes_near_them(self):
        body = {"client_key": key(), "what": "clear"}
        self.ask("POST", f"/api/printers/{self.printer}/changes", body, status=201)
        for kind in ("patches", "discs", "ladder", "paper_walk"):
            with self.subTest(kind):
                made = self.client.get(f"/api/visits/{self.visit}/test-print.gcode?kind={kind}")
                self.assertEqual(made.status_code, 200, made.get_data(as_text=True))
                self.check(made.get_data(as_text=True), kind)

    def check(self, text, kind):
        """Follow the head: below a clip's height and more it never comes over it."""
        low = 0
        for move in read(text).moves:
            if None in move.start or min(move.start[2], move.end[2]) >= 6 + 2:
                continue
            low += 1
            way = crosses(CLIPPED, [move.start[:2], move.end[:2]], TIP_ROOM - 0.1)
            self.assertIsNone(way, f"{kind}: {move}")
        self.assertGreater(low, 5)

    def test_patches_are_measured_where_they_are_printed(self):
        body = {"client_key": key(), "what": "clear"}
        self.ask("POST", f"/api/printers/{self.printer}/changes", body, status=201)
        asked = self.ask("GET", f"/api/visits/{self.visit}/offset")["patches"]
        printed = self.ask("GET", f"/api/visits/{self.visit}/test-print?kind=patches")["spots"]
        self.assertEqual(
            [(p["name"], p["x"], p["y"]) for p in asked], [(p["name"], p["x"], p["y"]) for p in printed]
        )
        self.assertIn("middle", [p["name"] for p in asked])

    def test_what_cannot_be_is_refused(self):
        wrong = [{"name": "clip", "x_min": 50, "y_min": 0, "x_max": 40, "y_max": 9}]
        body = {"name": "Reed", "width": 220, "depth": 220, "keep_off": wrong}
        self.assertIn("clip", self.ask("POST", "/api/printers", body, status=422)["detail"])
