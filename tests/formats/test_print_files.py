"""Files of prints as they come: packed, cut off, binary, with settings in their remarks, in pieces of any size."""

import gzip
import io
import unittest
import zipfile

from finchwort.core.base.errors import CoreError
from finchwort.core.files import Told
from finchwort.formats.print_file import PrintReader, read_print, source
from finchwort.messages.errors import sentence
from tests.fixtures.print_files import MATERIALS, read_text
from tests.fixtures.slicer import Manner, Thing, rectangle, slice_things

TEXT = slice_things([Thing(rectangle(50, 50, 16, 12), 0.6)], Manner())[0]


def told(found):
    """What must not depend on how a file came."""
    return (
        found.layer.height,
        round(found.line_width, 4),
        found.speed,
        found.bed,
        found.nozzle,
        round(found.filament, 5),
        found.lines,
        [(part.name, round(part.area, 2), part.height, part.line) for part in found.parts],
        [(one.what, one.line, one.value == one.value) for one in found.commands],
    )


def zipped(files):
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, text in files.items():
            archive.writestr(name, text)
    return data.getvalue()


class Dribble:
    """A stream that gives little at a time and cannot be searched."""

    def __init__(self, data, size):
        self.data, self.size = io.BytesIO(data), size

    def read(self, _size=-1):
        return self.data.read(self.size)


class SourceTest(unittest.TestCase):
    def setUp(self):
        self.plain = told(read_text(TEXT))

    def test_packed_or_not(self):
        data = TEXT.encode()
        for packed in (data, gzip.compress(data), zipped({"print.gcode": data, "picture.png": b"x"})):
            self.assertEqual(told(read_print(io.BytesIO(packed))), self.plain)
            for size in (1, 37, 5000) if len(packed) < 20_000 else (777, 5000):
                self.assertEqual(told(read_print(Dribble(packed, size))), self.plain)

    def test_ends_of_lines(self):
        for ending in ("\r\n", "\r"):
            self.assertEqual(told(read_text(TEXT.replace("\n", ending))), self.plain)
        self.assertEqual(told(read_text(TEXT.rstrip("\n"))), self.plain)

    def test_progress_is_told(self):
        sizes = []
        read_print(io.BytesIO(TEXT.encode()), progress=sizes.append)
        self.assertEqual(sizes[-1], len(TEXT))

    def test_large_files_are_read_in_blocks(self):
        reader = PrintReader()
        head, _, tail = TEXT.partition("M84")
        filler = "; nothing\n" * 200_000
        for piece in (head, filler, "M84", tail):
            reader.feed(piece.encode())
        found = reader.finish()
        self.assertEqual(found.lines, TEXT.count("\n") + 200_000)
        self.assertLess(found.lines, found.size)


class RefusalTest(unittest.TestCase):
    def refused(self, data, code):
        with self.assertRaises(CoreError) as caught:
            read_print(io.BytesIO(data))
        self.assertEqual(caught.exception.code, code)
        self.assertTrue(sentence(caught.exception).endswith((".", "?")))

    def test_what_is_no_print(self):
        self.refused(b"", "files.empty")
        self.refused(b"Dear all,\nplease find enclosed\n", "files.no_gcode")
        self.refused(b"G28\nG1 X5 Y5 F600\n", "files.no_plastic")
        self.refused(b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR" * 40, "files.binary")
        self.refused(b"G" * 3_000_000, "files.endless_line")
        self.refused(b"M83\nG1 X5 Y9999999 E1\n", "files.beyond")

    def test_archives_that_are_of_no_use(self):
        data = TEXT.encode()
        self.refused(zipped({"readme.md": "x"}), "files.zip_without")
        self.refused(zipped({"a.gcode": data, "b.gcode": data}), "files.zip_with_many")
        self.refused(zipped({"a.gcode": data})[:-200], "files.damaged")
        self.refused(gzip.compress(data)[:-30], "files.damaged")
        self.refused(gzip.compress(data)[:200] + b"rubbish" * 20, "files.damaged")

    def test_an_archive_that_unpacks_without_end(self):
        most, source.MAX_BYTES = source.MAX_BYTES, 2_000_000
        try:
            self.refused(gzip.compress(b"G1 X1 Y1\n" * 400_000), "files.too_large")
            self.refused(zipped({"a.gcode": b"G1 X1 Y1\n" * 400_000}), "files.too_large")
        finally:
            source.MAX_BYTES = most


class SettingsTest(unittest.TestCase):
    def test_remarks_give_nozzle_filament_and_material(self):
        found = read_text(
            f"; nozzle_diameter = 0.6\n; filament diameter: 2.85\n; Filament type = petg\n{TEXT}"
        )
        self.assertEqual(
            (found.stated.nozzle, found.stated.filament, found.stated.material), (0.6, 2.85, "PETG")
        )

    def test_the_diameter_that_is_stated_counts(self):
        thin, thick = read_text(TEXT), read_text(f"; filament_diameter = 2.85\n{TEXT}")
        self.assertAlmostEqual(thick.volume / thin.volume, (2.85 / 1.75) ** 2, places=6)
        self.assertGreater(thick.line_width, 2 * thin.line_width)
        # at the end of the file it counts as well
        self.assertAlmostEqual(read_text(f"{TEXT}; filament_diameter = 2.85\n").volume, thick.volume)

    def test_fan_and_heat(self):
        for text, fan in (
            ("M106 S127", 49.8),
            ("M106 S0.5", 50.0),
            ("M106", 100.0),
            ("M106 P1 S255", 0.0),
            ("M107", 0.0),
        ):
            self.assertEqual(read_text(TEXT.replace("M107", text)).fan, fan, text)
        found = read_text(TEXT.replace("M190 S60", "M190 R62"))
        self.assertEqual(found.bed, 62.0)

    def test_named_commands(self):
        text = TEXT.replace("M140 S60.0\nM190 S60.0\nM109 S205", "BEGIN_PRINT BED_TEMP=64 EXTRUDER_TEMP=208")
        found = read_text(text)
        self.assertEqual((found.bed, found.nozzle), (64.0, 208.0))
        self.assertIn(Told.UNKNOWN, {one.what for one in found.commands})

    def test_materials_that_nobody_knows_are_none(self):
        self.assertIsNone(read_text(f"; material = moonstone\n{TEXT}").stated.material)
        self.assertEqual(MATERIALS[0], read_text(f"; material = PLA\n{TEXT}").stated.material)


if __name__ == "__main__":
    unittest.main()
