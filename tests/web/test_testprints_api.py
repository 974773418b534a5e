"""Test prints and changes of the machine over the API."""

from tests.gcode_reader import read
from tests.support import WebCase, key, tilted_points


class TestPrintTest(WebCase):
    def setUp(self):
        super().setUp()
        self.printer = self.new_printer(name="Water Rail", materials=["PLA"])["id"]
        self.visit = self.new_visit(self.printer)["id"]

    def strip(self, **changes):
        visit = self.ask("GET", f"/api/visits/{self.visit}")
        body = {
            "surface": "Sheet",
            "surface_kind": "smooth_pei",
            "material": "PLA",
            "bed_temperature": 60,
            "nozzle_temperature": 205,
            "first_layer": 0.2,
            "version": visit["version"],
        }
        self.ask("PATCH", f"/api/visits/{self.visit}", body | changes)

    def look(self, kind, status=200, **query):
        more = "".join(f"&{name}={value}" for name, value in query.items())
        return self.ask("GET", f"/api/visits/{self.visit}/test-print?kind={kind}{more}", status=status)

    def file(self, kind):
        answer = self.client.get(f"/api/visits/{self.visit}/test-print.gcode?kind={kind}")
        self.assertEqual(answer.status_code, 200)
        return answer

    def test_what_is_drawn_is_what_is_written(self):
        self.strip()
        shown = self.look("ladder")
        answer = self.file("ladder")
        self.assertIn("water-rail-ladder.gcode", answer.headers["Content-Disposition"])
        program = read(answer.text)
        heights = [m.end[2] for m in program.moves if m.filament > 0 and m.start[:2] != m.end[:2]]
        self.assertEqual(sorted(set(heights[1:]), reverse=True), [s["z"] for s in shown["spots"]])
        rungs = self.ask("GET", f"/api/visits/{self.visit}/ladder")["rungs"]
        self.assertEqual([s["shift"] for s in shown["spots"]], [r["shift"] for r in rungs])
        pushed = sum(m.filament for m in program.moves if m.filament > 0 and m.start[:2] != m.end[:2])
        self.assertAlmostEqual(pushed, shown["filament_length"], delta=0.01)
        self.assertAlmostEqual(shown["grams"], pushed * 2.405 / 1000 * 1.24, delta=0.01)
        self.assertEqual(dict(program.commands)["M109"]["S"], 205)

    def test_temperatures_come_from_the_strip_or_the_table(self):
        self.assertIn("Say on the strip", self.look("patches", status=422)["detail"])
        self.strip(bed_temperature=None, nozzle_temperature=None)
        shown = self.look("patches")
        self.assertEqual((shown["bed_temperature"], shown["nozzle_temperature"]), (60, 205))
        self.strip(nozzle_temperature=120)
        self.assertIn("nothing comes out", self.look("patches", status=422)["detail"])
        self.assertEqual(self.look("paper_walk")["nozzle_temperature"], 120)

    def test_limits_of_the_printer(self):
        # 110 and 260 °C when nothing else is set up
        self.strip(bed_temperature=115)
        self.assertIn("limit", self.look("patches", status=422)["detail"])

    def test_a_high_corner_is_not_driven_into(self):
        self.strip()
        self.assertFalse(self.look("patches")["measured"])
        self.new_survey(self.visit, (0.6, 0.0))
        self.assertIn("touch the plate", self.look("patches", status=422)["detail"])
        self.assertIn("higher there than in the middle", self.look("paper_walk", status=422)["detail"])
        self.assertTrue(self.look("ladder")["measured"])

    def test_a_mesh_is_switched_on_after_homing(self):
        self.strip()
        self.look("mesh_walk", status=409)
        self.assertNotIn("M420", self.file("patches").text)
        self.printer = self.new_printer(name="Avocet", compensation="mesh")["id"]
        self.visit = self.new_visit(self.printer)["id"]
        self.strip()
        program = read(self.file("mesh_walk").text)
        self.assertGreater(program.index("M420"), program.index("G28"))
        self.assertTrue(self.look("patches")["compensation"])

    def test_a_mesh_is_trusted_only_while_it_is_in_the_machine(self):
        self.printer = self.new_printer(name="Avocet", compensation="mesh")["id"]
        self.visit = self.new_visit(self.printer)["id"]
        self.strip()
        survey = self.new_survey(self.visit, (0.6, 0.0))["id"]
        self.assertIn("touch the plate", self.look("patches", status=422)["detail"])
        body = {"client_key": key(), "mesh": {"columns": 5, "rows": 5}}
        self.ask("POST", f"/api/surveys/{survey}/adjustments", body, status=201)
        self.assertTrue(self.look("patches")["measured"])
        change = {"client_key": key(), "what": "knobs"}
        self.ask("POST", f"/api/printers/{self.printer}/changes", change, status=201)
        self.assertIn("touch the plate", self.look("patches", status=422)["detail"])

    def test_bad_wishes(self):
        self.strip()
        for query in ({"width": 0.15}, {"filament": 9}, {"paper": 0}, {"side": 2}):
            with self.subTest(query):
                self.look("discs", status=422, **query)
        self.look("boat", status=422)


class ChangeTest(WebCase):
    def setUp(self):
        super().setUp()
        self.printer = self.new_printer()["id"]
        self.visit = self.new_visit(self.printer)["id"]
        body = {"client_key": key(), "parts": {"printer": -1.0}}
        self.ask("POST", f"/api/printers/{self.printer}/offset", body, status=201)

    def change(self, what, status=201, **more):
        body = {"client_key": key(), "what": what} | more
        return self.ask("POST", f"/api/printers/{self.printer}/changes", body, status=status)

    def outdated(self):
        return " ".join(self.ask("GET", f"/api/visits/{self.visit}/offset")["outdated"])

    def test_each_change_says_what_it_puts_in_doubt(self):
        self.assertEqual(self.outdated(), "")
        for what, said in (
            ("nozzle", "nozzle was changed"),
            ("plate", "Another plate"),
            ("firmware", "read it there"),
            ("probe", "Probe or head"),
            ("knobs", "without a plan"),
        ):
            made = self.change(what, visit_id=self.visit)
            self.assertIn(said, self.outdated())
            self.ask("DELETE", f"/api/changes/{made['id']}")
            self.assertNotIn(said, self.outdated())
            self.ask("POST", f"/api/changes/{made['id']}/restore")
        listed = self.ask("GET", f"/api/printers/{self.printer}/changes")
        self.assertEqual(
            [one["what"] for one in listed["since"]][::-1], ["nozzle", "plate", "firmware", "probe", "knobs"]
        )
        self.assertEqual(len(self.ask("GET", "/api/logbook?kind=change")["entries"]), 5)
        # found anew, nothing stands against it
        body = {"client_key": key(), "parts": {"printer": -1.02}}
        self.ask("POST", f"/api/printers/{self.printer}/offset", body, status=201)
        self.assertEqual(self.outdated(), "")

    def test_a_plate_laid_on_outdates_a_stored_mesh(self):
        self.printer = self.new_printer(name="Avocet", compensation="mesh")["id"]
        self.visit = self.new_visit(self.printer)["id"]
        survey = self.new_survey(self.visit, points=tilted_points(0.05, bow=0.1))["id"]
        body = {"client_key": key(), "mesh": {"columns": 3, "rows": 3}}
        self.ask("POST", f"/api/surveys/{survey}/adjustments", body, status=201)
        path = f"/api/surveys/{survey}/compensation"
        self.assertEqual(self.ask("GET", path)["stored"]["outdated"], [])
        self.change("plate")
        self.assertNotEqual(self.ask("GET", path)["stored"]["outdated"], [])

    def test_sent_again_and_bad(self):
        mine = key()
        one = self.change("nozzle", client_key=mine)
        self.assertEqual(self.change("nozzle", client_key=mine)["id"], one["id"])
        self.change("plate", client_key=mine, status=409)
        self.change("colour", status=422)
        other = self.new_visit(self.new_printer(name="Crake")["id"])["id"]
        self.change("nozzle", visit_id=other, status=409)
        self.ask("DELETE", "/api/changes/999", status=404)


class TrimAndSumTest(WebCase):
    def test_trims_follow_the_strip(self):
        surfaces = [
            {"name": "Smooth", "kind": "smooth_pei", "thickness": 0.8},
            {"name": "Rough", "kind": "textured_pei", "thickness": 1.0},
        ]
        printer = self.new_printer(surfaces=surfaces, materials=["PLA", "PETG"])["id"]
        visit = self.new_visit(printer)["id"]

        def strip(**changes):
            version = self.ask("GET", f"/api/visits/{visit}")["version"]
            self.ask("PATCH", f"/api/visits/{visit}", changes | {"version": version})

        def offset():
            return self.ask("GET", f"/api/visits/{visit}/offset")

        strip(surface="Smooth", surface_kind="smooth_pei", material="PLA", bed_temperature=60)
        body = {"client_key": key(), "parts": {"printer": -1.0}, "visit_id": visit}
        self.ask("POST", f"/api/printers/{printer}/offset", body, status=201)
        self.assertEqual((offset()["trims"], offset()["trim_total"]), ([], None))
        strip(
            surface="Rough",
            surface_kind="textured_pei",
            material="PETG",
            bed_temperature=75,
            first_layer=0.28,
        )
        found = offset()
        self.assertEqual(
            [(one["closer"], one["tag"]) for one in found["trims"]],
            [([-0.05, -0.02], "P"), ([0.02, 0.05], "P"), ([-0.2, -0.2], "D"), (None, "D")],
        )
        self.assertEqual(found["trim_total"], "Together: 0.17 to 0.23 mm farther.")
        states = {s["name"]: s for s in self.ask("GET", f"/api/visits/{visit}")["route"]}
        self.assertEqual(states["offset"]["state"], "out_of_date")
        self.assertIn("Rough", states["offset"]["why"])

    def test_sums(self):
        found = self.ask("GET", "/api/extrusion/steps?steps=93&measured=96")
        self.assertAlmostEqual(found["new"], 96.875)
        self.assertFalse(found["doubtful"])
        found = self.ask("GET", "/api/extrusion/lines?width=0.6&height=0.3&speed=80&nozzle=0.4")
        self.assertEqual((found["level"], found["width_range"]), ("beyond", [0.46, 0.5]))
        self.assertEqual(
            self.ask("GET", "/api/extrusion/lines?width=0.6&height=0.3&speed=80&melts=20")["level"], "good"
        )
        for bad in (
            "steps?steps=0&measured=1",
            "steps?steps=93",
            "lines?width=0.2&height=0.3&speed=40",
            "lines?width=nan&height=0.2&speed=1",
        ):
            with self.subTest(bad):
                self.assertTrue(self.ask("GET", f"/api/extrusion/{bad}", status=422)["detail"])
