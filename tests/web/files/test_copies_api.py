"""Copies of files over the API: bent to the bed, moved on it, with one thing changed."""

import gzip
import struct

import numpy as np

from tests.fixtures.plain_reader import read_plain
from tests.fixtures.sent_files import TEXT, FilesCase
from tests.fixtures.slicer import Manner, Thing, rectangle, slice_things
from tests.fixtures.support import key, tilted_points


class CopiesCase(FilesCase):
    compensation = "none"

    def setUp(self):
        super().setUp()
        self.printer = self.new_printer(name="Gadwall", compensation=self.compensation)["id"]
        self.visit = self.new_visit(self.printer)
        self.new_survey(self.visit["id"], points=tilted_points(0.02, 0.0, 0.2))
        self.file = self.send(printer_id=self.printer)["id"]

    def copy(self, kind, status=200, data=TEXT, **query):
        data = data.encode() if isinstance(data, str) else data
        asks = "&".join(f"{a}={b}" for a, b in {"kind": kind, **query}.items())
        answer = self.client.post(
            f"/api/files/{self.file}/copies?{asks}", data=data, content_type="application/octet-stream"
        )
        self.assertEqual(answer.status_code, status, answer.get_data(as_text=True)[:400])
        self.addCleanup(answer.close)
        if status != 200:
            return answer.get_json()["detail"]
        self.assertIn(f"filename=print-{kind}.gcode", answer.headers["Content-Disposition"])
        return answer.get_data(as_text=True)

    def bend(self, status=200, **query):
        asks = "&".join(f"{a}={b}" for a, b in query.items())
        return self.ask("GET", f"/api/files/{self.file}/bend?{asks}", status=status)


class BentTest(CopiesCase):
    def test_foretold_and_made(self):
        found = self.bend()
        self.assertEqual(found["reasons"], [])
        self.assertFalse(found["mesh"])
        self.assertGreater(found["good_after"], 0.99)
        self.assertGreater(found["good_after"], found["good_before"] + 0.1)
        self.assertIn("dome, twist, dent", found["notes"][0])
        bent = self.copy("bent")
        head = bent.splitlines()[:6]
        self.assertTrue(all(line.startswith("; ") for line in head))
        self.assertIn("bent to the bed of Gadwall as measured on 20", head[0])
        self.assertIn("Limits: gap at least", head[3])
        plain, read = read_plain(TEXT), read_plain(bent)
        self.assertAlmostEqual(read.filament, plain.filament, delta=0.002 * plain.filament)
        lowest = min(move.end[2] for move in read.laid)
        self.assertAlmostEqual(lowest, 0.2 + found["down"], delta=0.03)

    def test_a_packed_file_serves_as_well(self):
        self.assertEqual(self.copy("bent", data=gzip.compress(TEXT.encode())), self.copy("bent"))

    def test_how_far_up_is_chosen_within_reason(self):
        self.assertEqual(self.bend(top=6)["top"], 6)
        self.assertIn("until Z 6.00 mm", self.copy("bent", top=6))
        self.assertIn("at least", self.copy("bent", top=0.3, status=422))

    def test_the_forecast_and_the_picture_of_the_bent_file(self):
        path = f"/api/files/{self.file}"
        found = self.ask("GET", f"{path}/forecast?bent=true")
        self.assertAlmostEqual(found["good"], self.bend()["good_after"])
        gaps = []
        for query in ("", "?bent=true"):
            data = self.client.get(f"{path}/lines{query}").get_data()
            lines, beads = struct.unpack_from("<II", data, 4)
            at = 12 + beads * 24 + lines * 16
            gaps.append(np.frombuffer(data, "<f4", lines, at))
        # the picture adds where the offset is right
        middle = self.ask("GET", f"{path}/forecast")["worst"]["gap"]
        self.assertLess(float(np.ptp(gaps[1])), 0.01)
        self.assertGreater(float(np.ptp(gaps[0])), 0.05)
        self.assertGreater(middle, 0.2)

    def test_another_file_is_not_taken_for_it(self):
        other = slice_things([Thing(rectangle(60, 60, 20, 20), 0.6)], Manner())[0]
        self.assertIn("not the file", self.copy("bent", data=other, status=422))
        self.assertIn("binary", self.copy("bent", data=b"\0" * 500, status=422))

    def test_a_bed_that_changed_since_is_not_followed(self):
        self.ask(
            "POST",
            f"/api/printers/{self.printer}/changes",
            {"what": "plate", "client_key": key()},
            status=201,
        )
        reasons = self.bend()["reasons"]
        self.assertEqual(len(reasons), 1)
        self.assertIn("measure again first", reasons[0])
        self.assertIn("No bent copy", self.copy("bent", status=422))
        self.assertIn("no copy goes closer", self.copy("changed", change="offset", value=-0.02, status=422))
        self.copy("changed", change="offset", value=0.02)

    def test_without_printer_or_readings(self):
        self.file = self.send()["id"]
        self.assertIn("which printer", str(self.bend(status=409)))
        other = self.new_printer(name="Dunlin")["id"]
        self.file = self.send(printer_id=other)["id"]
        self.assertIn("not measured", str(self.bend(status=422)))
        self.assertIn("not measured", self.copy("bent", status=422))


class MeshTest(CopiesCase):
    compensation = "mesh"

    def test_a_printer_that_follows_its_bed_itself_gets_none_unless_somebody_says_so(self):
        found = self.bend()
        self.assertTrue(found["mesh"])
        self.assertIn("Use the mesh", found["reasons"][0])
        self.assertIn("Use the mesh", self.copy("bent", status=422))
        self.assertEqual(self.bend(cleared="true")["reasons"], [])
        self.assertIn("no mesh switched on", self.copy("bent", cleared="true"))


class OthersTest(CopiesCase):
    def test_moved(self):
        moved = self.copy("moved", dx=12, dy=-5.5)
        self.assertIn("12 mm to the right", moved.splitlines()[0])
        self.assertIn("Limits: X 0 to 220 mm", moved)
        pairs = [
            (b.end[0] - a.end[0], b.end[1] - a.end[1])
            for a, b in zip(read_plain(TEXT).laid, read_plain(moved).laid, strict=True)
            if a.end[1] > 12
        ]
        np.testing.assert_allclose(pairs, np.broadcast_to((12, -5.5), (len(pairs), 2)), atol=1e-6)
        self.assertIn("leave the printable area", self.copy("moved", dx=120, status=422))
        self.assertIn("how far", self.copy("moved", status=422))

    def test_one_part_alone_is_moved(self):
        parts = self.ask("GET", f"/api/files/{self.file}")["parts"]
        disc = next(i for i, one in enumerate(parts) if one["height"] > 5)
        moved = self.copy("moved", dx=-20, dy=0, part=disc)
        self.assertIn(f"its {parts[disc]['name']} moved on the bed of", moved.splitlines()[0])
        self.assertIn("Everything else stays where it was.", moved)
        for a, b in zip(read_plain(TEXT).laid, read_plain(moved).laid, strict=True):
            self.assertAlmostEqual(b.end[0] - a.end[0], -20.0 if a.end[0] > 100 else 0.0, delta=1e-3)
        self.assertIn("moved, not turned", self.copy("moved", dx=5, turn=1, part=disc, status=422))
        self.assertIn("no such part", self.copy("moved", dx=5, part=7, status=422).lower())
        self.assertIn("onto something else", self.copy("moved", dx=-90, dy=-90, part=disc, status=422))

    def test_moved_to_where_the_bed_is_higher_the_tip_would_touch(self):
        bowl = self.new_printer(name="Teal")["id"]
        visit = self.new_visit(bowl)
        self.new_survey(visit["id"], points=tilted_points(0.0, 0.0, -0.3))
        text = slice_things([Thing(rectangle(60, 60, 30, 20), 0.6)], Manner(purge=False))[0]
        self.file = self.send(text, printer_id=bowl)["id"]
        self.copy("moved", data=text, dx=5, dy=5)
        said = self.copy("moved", data=text, dx=-40, dy=-40, status=422)
        self.assertIn("would be left below the tip", said)

    def test_one_thing_changed(self):
        changed = self.copy("changed", change="speed", value=15)
        self.assertIn("speed of the first layer: 22 mm/s before, 15 mm/s now", changed)
        self.assertIn("Limits: 5 to 120 mm/s", changed)
        self.assertIn("goes no further", self.copy("changed", change="nozzle", value=900, status=422))
        self.assertIn("what is to be changed", self.copy("changed", status=422))
        # nothing but the speed is otherwise
        body = [line.split(" F")[0] for line in changed.splitlines()[4:]]
        self.assertEqual(body, [line.split(" F")[0] for line in TEXT.splitlines()])
