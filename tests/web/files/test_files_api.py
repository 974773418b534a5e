"""Files of prints over the API: taken, looked through, foretold, taken back."""

import gzip
import struct

import numpy as np

from finchwort.core.files import LineRole, cut_in_pieces, forecast_print
from finchwort.core.printers import Bed
from finchwort.core.surveys import Survey, make_relief
from finchwort.formats.print_file import pack_print, unpack_print
from tests.fixtures.print_files import read_text
from tests.fixtures.sent_files import TEXT, FilesCase
from tests.fixtures.support import WebCase, key, tilted_points


class TakenTest(FilesCase):
    def test_what_stands_in_it_is_given(self):
        found = self.send(printer_id=self.printer)
        facts = found["facts"]
        self.assertAlmostEqual(facts["height"], 0.2)
        self.assertAlmostEqual(facts["line_width"], 0.48, delta=0.005)
        self.assertEqual((facts["speed"], facts["bed"], facts["nozzle"]), (22.0, 60.0, 205.0))
        self.assertEqual([part["name"] for part in found["parts"]], ["part 1", "part 2"])
        self.assertAlmostEqual(found["parts"][0]["foot"], 600, delta=12)
        self.assertEqual(found["name"], "print.gcode")
        self.assertEqual(self.ask("GET", f"/api/files/{found['id']}"), found)

    def test_packed_files_and_names_with_folders(self):
        found = self.send(gzip.compress(TEXT.encode()), name="C:%5Cprints%5Ca%20b.gcode.gz")
        self.assertEqual(found["name"], "a b.gcode.gz")

    def test_sent_twice_it_is_kept_once(self):
        same = key()
        one, other = self.send(client_key=same), self.send(client_key=same)
        self.assertEqual(one["id"], other["id"])
        self.send(TEXT.replace("X1", "X2"), client_key=same, status=409)

    def test_a_file_that_is_none_gets_a_sentence(self):
        for data, says in (
            (b"\x89PNG\0\0\0", "binary"),
            (b"", "empty"),
            (b"Dear all,\n", "no G-code"),
            (b"G28\nG1 X5 Y5\n", "no plastic"),
        ):
            answer = self.send(data, status=422)
            self.assertIn(says, answer["detail"])
        self.assertEqual(self.ask("GET", "/api/files")["files"], [])

    def test_other_bodies_are_refused(self):
        self.send(status=415, kind="text/plain")
        answer = self.client.post("/api/printers", data=b"G28", content_type="application/octet-stream")
        self.assertEqual(answer.status_code, 415)

    def test_listed_deleted_and_brought_back(self):
        found = self.send(printer_id=self.printer)
        self.send(TEXT.replace("; ", ""), name="other.gcode")
        listed = self.ask("GET", "/api/files")["files"]
        self.assertEqual([one["name"] for one in listed], ["other.gcode", "print.gcode"])
        of_printer = self.ask("GET", f"/api/files?printer_id={self.printer}")["files"]
        self.assertEqual([one["id"] for one in of_printer], [found["id"]])
        self.ask("DELETE", f"/api/files/{found['id']}")
        self.ask("GET", f"/api/files/{found['id']}", status=404)
        self.ask("POST", f"/api/files/{found['id']}/restore")
        self.assertEqual(self.ask("GET", f"/api/files/{found['id']}")["id"], found["id"])


class LookedThroughTest(FilesCase):
    def codes(self, found):
        return {one["code"] for one in found["findings"]}

    def test_surface_and_material_come_from_the_newest_visit(self):
        found = self.send()
        self.assertLessEqual({"ask_bed", "ask_material"}, self.codes(found))
        chosen = self.change(found, printer_id=self.printer)
        self.assertEqual(chosen["surface"], self.visit["surface_kind"])
        self.assertEqual(chosen["material"], self.visit["material"])
        self.assertNotIn("ask_bed", self.codes(chosen))

    def test_the_same_print_on_another_surface(self):
        found = self.send(printer_id=self.printer)
        cold = self.change(found, material="ABS", surface="textured_pei")
        self.assertLessEqual({"bed_cold", "nozzle_cold"}, self.codes(cold))
        self.assertEqual(cold["verdict"], "change")
        one = next(item for item in cold["findings"] if item["code"] == "bed_cold")
        self.assertIn("ABS", one["sentence"])
        self.assertTrue(TEXT.split("\n")[one["line"] - 1].startswith("M190"))

    def test_the_price_of_a_failure(self):
        found = self.change(self.send(), price=30)
        self.assertAlmostEqual(found["cost"], found["grams"] * 0.03)

    def test_a_change_from_an_old_version_is_refused(self):
        found = self.send()
        self.change(found, price=20)
        self.change(found, price=25, status=409)

    def test_a_printer_that_was_deleted_since(self):
        found = self.send(printer_id=self.printer)
        self.ask("DELETE", f"/api/printers/{self.printer}")
        again = self.ask("GET", f"/api/files/{found['id']}")
        self.assertIn("ask_bed", self.codes(again))
        self.assertEqual(again["stages"], [])
        self.ask("GET", f"/api/files/{found['id']}/forecast", status=404)

    def test_what_is_unknown_is_refused(self):
        found = self.send()
        self.change(found, material="moonstone", status=422)
        self.change(found, surface="moss", status=422)
        self.change(found, nozzle=9, status=422)
        self.change(found, printer_id=99999, status=404)


class ForetoldTest(FilesCase):
    def setUp(self):
        super().setUp()
        self.survey = self.new_survey(self.visit["id"], points=tilted_points(0.2, 0.0, 0.1))["id"]
        self.file = self.send(printer_id=self.printer)["id"]

    def forecast(self, status=200, **query):
        text = "&".join(f"{a}={b}" for a, b in query.items())
        return self.ask("GET", f"/api/files/{self.file}/forecast?{text}", status=status)

    def test_what_is_foretold_is_what_the_core_says(self):
        found = self.forecast()
        points = tilted_points(0.2, 0.0, 0.1)
        survey = Survey(
            [p["x"] for p in points], [p["y"] for p in points], [p.get("value", p.get("z")) for p in points]
        )
        bed = self.visit["printer"]["bed"]
        relief = make_relief(survey, Bed(bed["x_max"] - bed["x_min"], bed["y_max"] - bed["y_min"]))
        print_ = read_text(TEXT)
        wanted = forecast_print(print_.layer, print_.parts, relief, relief.middle)
        self.assertAlmostEqual(found["good"], wanted.shares["good"], delta=0.03)
        self.assertEqual(found["survey_id"], self.survey)
        self.assertAlmostEqual(sum(one["share"] for one in found["bands"]), 1.0)
        self.assertEqual(len(found["parts"]), 2)
        self.assertEqual(sum(part["first"] for part in found["parts"]), 1)

    def test_with_compensation_and_after_the_plan_it_is_better(self):
        good = {stage: self.forecast(stage=stage)["good"] for stage in ("measured", "plan", "compensated")}
        self.assertGreater(good["compensated"], 0.95)
        self.assertGreater(good["plan"], good["measured"])

    def test_how_far_a_mesh_reaches_is_said_where_one_counts(self):
        points = tilted_points(0.2, 0.0, 0.1)
        xs, ys = [one["x"] for one in points], [one["y"] for one in points]
        self.assertEqual(
            self.forecast(stage="compensated")["mesh"],
            {"x_min": min(xs), "y_min": min(ys), "x_max": max(xs), "y_max": max(ys)},
        )
        self.assertIsNone(self.forecast()["mesh"])

    def test_a_tip_that_touches_is_said_aloud(self):
        found = self.forecast(shift=-0.3)
        self.assertTrue(found["touches"])
        self.assertIn("Do not start it so", " ".join(found["sentences"]))
        self.assertGreater(found["best"], 0)

    def test_nobody_is_sent_closer_by_readings_of_before(self):
        low = self.forecast(shift=0.1)
        self.assertIn("closer would make", " ".join(low["sentences"]))
        self.ask(
            "POST",
            f"/api/printers/{self.printer}/changes",
            {"client_key": key(), "what": "plate"},
            status=201,
        )
        told = " ".join(self.forecast(shift=0.1)["sentences"])
        self.assertIn("Measure again before you trust this", told)
        self.assertNotIn("closer would make", told)

    def test_lines_for_the_picture(self):
        answer = self.client.get(f"/api/files/{self.file}/lines?stage=measured")
        data = answer.get_data()
        self.assertEqual(data[:4], b"FWL1")
        count, beads = struct.unpack("<II", data[4:12])
        self.assertEqual(len(data), 12 + 24 * beads + 25 * count)
        pieces = cut_in_pieces(read_text(TEXT).layer)
        self.assertEqual(count, len(pieces.of))
        at = 12 + 24 * beads
        ends = np.frombuffer(data[at : at + 16 * count], "<f4").reshape(-1, 4)
        np.testing.assert_allclose(ends[:, :2], pieces.start, atol=0.002)
        roles = np.frombuffer(data[-count:], "u1")
        self.assertLessEqual(set(roles.tolist()), set(range(len(LineRole))))

    def test_where_it_would_hold(self):
        found = self.ask("GET", f"/api/files/{self.file}/places")
        self.assertEqual([one["angle"] for one in found["turns"]], [0, 90, 180, 270])
        one = found["turns"][0]
        self.assertEqual((len(one["percent"]), len(one["percent"][0])), (len(one["dy"]), len(one["dx"])))
        self.assertIn(0.0, one["dx"])
        self.assertGreaterEqual(found["best"]["share"], found["now"]["share"] - 0.01)
        self.assertIn("good", found["sentence"])
        part = self.ask("GET", f"/api/files/{self.file}/places?part=1")
        self.assertTrue(part["sentence"].startswith("Part 2"))
        self.ask("GET", f"/api/files/{self.file}/places?part=7", status=422)

    def test_without_readings_nothing_is_foretold(self):
        other = self.new_printer(name="Grebe")["id"]
        found = self.send(printer_id=other)
        self.assertEqual((found["survey_id"], found["stages"]), (None, []))
        answer = self.ask("GET", f"/api/files/{found['id']}/forecast", status=409)
        self.assertIn("not measured yet", answer["detail"])
        nowhere = self.send()
        self.ask("GET", f"/api/files/{nowhere['id']}/forecast", status=409)


class EvidenceTest(FilesCase):
    def form(self):
        return self.ask("GET", f"/api/printers/{self.printer}/case-form")["setup"]

    def values(self):
        return {one["key"]: one["value"] for one in self.form()["settings"]}

    def test_what_the_file_says_is_the_setup_of_a_case(self):
        self.assertIsNone(self.values()["speed"])
        self.send(TEXT.replace("M107", "M106 S128"), printer_id=self.printer, name="clips.gcode")
        values = self.values()
        self.assertEqual((values["speed"], values["fan"], values["height_set"]), (22.0, 50.2, 0.2))
        self.assertEqual((values["bed_temperature"], values["nozzle_temperature"]), (60.0, 205.0))
        # of two parts the slender one
        self.assertEqual((values["foot_width"], values["part_height"]), (8.0, 12.0))
        self.assertIn("clips.gcode", self.form()["source"])
        case = self.ask(
            "POST",
            f"/api/printers/{self.printer}/cases",
            {"client_key": key(), "words": "corners lift", "signs": [], "circumstances": []},
            status=201,
        )
        told = str(self.ask("GET", f"/api/cases/{case['id']}"))
        self.assertIn("fan", told.lower())

    def test_a_file_of_another_printer_says_nothing(self):
        self.send(printer_id=self.new_printer(name="Grebe")["id"])
        self.assertIsNone(self.values()["speed"])


class PackedTest(WebCase):
    def test_what_is_packed_comes_back(self):
        print_ = read_text(TEXT)
        again = unpack_print(pack_print(print_))
        for name in ("parts", "commands", "stated", "lines", "filament", "seconds", "top", "ended"):
            if name == "commands":
                self.assertEqual(
                    [(c.what, c.line, c.text) for c in print_.commands],
                    [(c.what, c.line, c.text) for c in again.commands],
                )
            else:
                self.assertEqual(getattr(print_, name), getattr(again, name), name)
        np.testing.assert_allclose(print_.layer.start, again.layer.start, atol=0.001)
        self.assertEqual(
            print_.low.lowest_in((0, 0, 200, 200)).line, again.low.lowest_in((0, 0, 200, 200)).line
        )
        self.assertAlmostEqual(print_.line_width, again.line_width, places=5)
