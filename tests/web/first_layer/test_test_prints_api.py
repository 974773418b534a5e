"""Test prints and changes of the machine over the API."""

from sqlalchemy import text

from tests.fixtures.gcode_reader import read
from tests.fixtures.support import WebCase, key, tilted_points


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

    def note(self, what):
        body = {"client_key": key(), "what": what}
        return self.ask("POST", f"/api/printers/{self.printer}/changes", body, status=201)

    def offset(self):
        body = {"client_key": key(), "parts": {"printer": -1.0}, "reason": "paper"}
        self.ask("POST", f"/api/printers/{self.printer}/offset", body, status=201)

    def look(self, kind, status=200, **query):
        more = "".join(f"&{name}={value}" for name, value in query.items())
        return self.ask("GET", f"/api/visits/{self.visit}/test-print?kind={kind}{more}", status=status)

    def file(self, kind):
        answer = self.client.get(f"/api/visits/{self.visit}/test-print.gcode?kind={kind}")
        self.assertEqual(answer.status_code, 200)
        return answer

    def test_what_is_drawn_is_what_is_written(self):
        self.strip()
        self.note("clear")
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
        self.note("clear")
        shown = self.look("patches")
        self.assertEqual((shown["bed_temperature"], shown["nozzle_temperature"]), (60, 205))
        self.strip(nozzle_temperature=120)
        self.assertIn("nothing comes out", self.look("patches", status=422)["detail"])
        self.assertEqual(self.look("paper_walk")["nozzle_temperature"], 120)

    def test_limits_of_the_printer(self):
        # 110 and 260 °C when nothing else is set up
        self.strip(bed_temperature=115)
        self.assertIn("limit", self.look("patches", status=422)["detail"])

    def test_nobody_knows_where_the_bed_is(self):
        self.strip()
        refused = self.look("patches", status=422)
        self.assertEqual(refused["type"], "unknown-ground")
        self.assertIn("Or feel with paper", refused["detail"])
        # for paper it stops, high above
        walk = self.look("paper_walk")
        self.assertEqual({s["z"] for s in walk["spots"]}, {5.0})
        self.assertIn("lower it slowly", " ".join(walk["cautions"]))
        made = self.note("clear")
        self.assertFalse(self.look("patches")["measured"])
        self.assertEqual({s["z"] for s in self.look("paper_walk")["spots"]}, {0.15})
        # taken back, and put out by what happens afterwards
        self.ask("DELETE", f"/api/changes/{made['id']}")
        self.look("patches", status=422)
        self.ask("POST", f"/api/changes/{made['id']}/restore")
        for what in ("nozzle", "plate", "firmware", "probe", "knobs", "moved", "crash"):
            with self.subTest(what):
                again = self.note(what)
                self.assertEqual(self.look("patches", status=422)["type"], "unknown-ground")
                self.ask("DELETE", f"/api/changes/{again['id']}")
                self.look("patches")
        self.note("material")
        self.look("patches")

    def test_a_high_corner_is_not_driven_into(self):
        self.strip()
        self.new_survey(self.visit, (0.6, 0.0))
        self.assertIn("Z = 0", self.look("patches", status=422)["detail"])
        self.offset()
        self.assertIn("might touch the plate", self.look("patches", status=422)["detail"])
        walk = self.look("paper_walk")
        by_name = {s["name"]: s["z"] for s in walk["spots"]}
        self.assertGreater(by_name["front right"], 0.3)
        self.assertEqual(by_name["front left"], 0.1)
        self.assertTrue(self.look("ladder")["measured"])

    def test_turns_after_a_survey_put_it_in_doubt(self):
        """Four recorded turns of a knob after a survey once cleared a print with 177 moves inside the plate."""
        self.strip(first_layer=0.3)
        survey = self.new_survey(self.visit, (0.04, 0.0))["id"]
        self.offset()
        self.assertEqual(self.look("patches")["cautions"], [])
        body = {"client_key": key(), "hold": "centre", "done": {"back right": -0.125}}
        made = self.ask("POST", f"/api/surveys/{survey}/turnings", body, status=201)
        self.assertIn("0.11 mm higher", " ".join(self.look("patches")["cautions"]))
        self.assertGreater(min(s["shift"] for s in self.look("discs")["spots"]), -0.15)
        self.ask("DELETE", f"/api/turnings/{made['id']}")
        body = {"client_key": key(), "hold": "centre", "done": {"back right": -4}}
        self.ask("POST", f"/api/surveys/{survey}/turnings", body, status=201)
        self.assertIn("3.39 mm higher", self.look("patches", status=422)["detail"])
        self.look("ladder", status=422)
        self.assertIn("3.39 mm higher", self.look("discs", status=422)["detail"])
        self.assertGreater(self.look("paper_walk")["spots"][0]["z"], 2.8)
        # measured again it is known again
        self.new_survey(self.visit, (0.04, 0.0))
        self.assertEqual(self.look("patches")["cautions"], [])

    def test_an_old_survey_does_not_become_the_newest_when_a_clock_jumps_back(self):
        self.strip()
        self.new_survey(self.visit, (0.04, 0.0))
        self.offset()
        self.look("patches")
        bent = self.new_survey(self.visit, (3.8, 0.0))["id"]
        with self.engine.begin() as link:
            link.execute(
                text("UPDATE survey SET taken_at = taken_at - INTERVAL 1 DAY WHERE id = :id"), {"id": bent}
            )
        self.assertIn("might touch", self.look("patches", status=422)["detail"])

    def test_another_surface_or_warmth_than_at_the_survey(self):
        self.strip(first_layer=0.3)
        self.new_survey(self.visit, (0.02, 0.0))
        self.offset()
        self.strip(first_layer=0.3, bed_temperature=90)
        self.assertIn(
            "measured at 60 °C and is printed on at 90 °C", " ".join(self.look("patches")["cautions"])
        )
        self.strip(first_layer=0.3, surface="Glass")
        self.assertIn("Another plate", self.look("patches", status=422)["detail"])

    def test_the_head_of_a_file_says_what_it_was_made_for(self):
        self.strip()
        survey = self.new_survey(self.visit, (0.02, 0.0))["id"]
        self.offset()
        remarks = "\n".join(read(self.file("patches").text).remarks)
        self.assertIn("Made for Z offset -1.00 mm", remarks)
        self.assertIn(f"Made for survey {survey}, 25 readings", remarks)
        self.assertIn("Made without a mesh.", remarks)

    def with_mesh(self):
        self.printer = self.new_printer(name="Avocet", compensation="mesh")["id"]
        self.visit = self.new_visit(self.printer)["id"]
        self.strip()
        survey = self.new_survey(self.visit, points=tilted_points(0.5, bow=0.1))["id"]
        self.offset()
        return survey

    def test_a_mesh_is_switched_on_only_while_it_holds(self):
        survey = self.with_mesh()
        self.assertIn("None was stored", self.look("mesh_walk", status=409)["detail"])
        self.assertIn("might touch the plate", self.look("patches", status=422)["detail"])
        body = {"client_key": key(), "adjustment": {"kind": "mesh", "columns": 5, "rows": 5}}
        self.ask("POST", f"/api/surveys/{survey}/adjustments", body, status=201)
        program = read(self.file("mesh_walk").text)
        self.assertGreater(program.index("M420"), program.index("G28"))
        self.assertEqual(dict(program.commands)["M420"]["S"], 1)
        self.assertEqual(self.look("patches")["compensation"], "on")
        # an outdated mesh once got its command, 0.70 mm into the plate
        self.note("probe")
        self.offset()
        self.assertIn("might touch the plate", self.look("patches", status=422)["detail"])
        self.new_survey(self.visit, (0.02, 0.0))
        shown = self.look("patches")
        self.assertEqual(shown["compensation"], "off")
        program = read(self.file("patches").text)
        self.assertEqual(dict(program.commands)["M420"]["S"], 0)
        self.assertIn("Made without the mesh", "\n".join(program.remarks))
        self.look("mesh_walk", status=409)

    def test_a_printer_without_compensation_is_told_nothing_about_it(self):
        self.strip()
        self.note("clear")
        self.look("mesh_walk", status=409)
        self.assertNotIn("M420", self.file("patches").text)
        self.assertEqual(self.look("patches")["compensation"], "none")

    def test_bad_wishes(self):
        self.strip()
        self.note("clear")
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
        body = {"client_key": key(), "adjustment": {"kind": "mesh", "columns": 3, "rows": 3}}
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
