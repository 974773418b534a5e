"""A copy of a print for this bed: dropped once more, it comes back bent, moved, or with one thing changed."""

from pathlib import Path

from playwright.sync_api import expect

from tests.fixtures.browser import PHONE
from tests.fixtures.dropped_files import FilesCase
from tests.fixtures.plain_reader import read_plain


class CopiesTest(FilesCase):
    def begun(self, **slicing):
        path = self.file(**slicing)
        self.drop(path)
        self.opened()
        return path, self.page.get_by_role("region", name="A copy for this bed")

    def taken(self, part, path):
        """Drop the file once more, and read the copy."""
        with self.page.expect_download() as waiting:
            part.locator("input[type=file]").set_input_files(str(path))
        name = waiting.value.suggested_filename
        return name, Path(waiting.value.path()).read_text()

    def test_bent_to_a_bed_whose_mesh_was_cleared(self):
        path, part = self.begun()
        expect(part).to_contain_text("of the first layer will be good instead of")
        # a printer with a mesh follows its bed itself
        expect(part).to_contain_text("Use the mesh, or clear it")
        expect(part.locator("input[type=file]")).to_have_count(0)
        part.get_by_role("checkbox").locator("xpath=ancestor::label").click()
        expect(part).not_to_contain_text("Use the mesh, or clear it")
        forecast = self.page.get_by_role("region", name="First layer along its lines")
        before = forecast.locator(".say").inner_text()
        forecast.get_by_text("Bent copy").click()
        expect(forecast.locator(".say")).not_to_have_text(before)
        expect(forecast.locator(".say")).to_have_text("100 % of the first layer will be good.")
        name, copy = self.taken(part, path)
        self.assertEqual(name, "clips-bent.gcode")
        self.assertTrue(copy.startswith("; Copy of clips.gcode, bent to the bed of Avocet as measured on"))
        expect(part.get_by_role("status")).to_contain_text("Limits: gap at least")
        # what the file itself says at its head is not taken for it
        expect(part.get_by_role("status").locator("p")).to_have_count(7)
        plain = read_plain(path.read_text())
        self.assertAlmostEqual(read_plain(copy).filament, plain.filament, delta=0.002 * plain.filament)

    def test_moved_by_keyboard_and_refused_where_it_cannot_be(self):
        path, part = self.begun()
        part.get_by_text("Moved", exact=True).click()
        self.tab_to("To the right")
        self.page.keyboard.type("30")
        self.page.keyboard.press("Tab")
        self.page.keyboard.type("-20,5")
        expect(part).to_contain_text("Drop clips.gcode once more")
        name, copy = self.taken(part, path)
        self.assertEqual(name, "clips-moved.gcode")
        self.assertIn("30 mm to the right", copy.splitlines()[0])
        expect(part).to_contain_text("Y -20.500 mm")
        part.get_by_label("To the right").fill("900")
        expect(part.get_by_role("status")).to_have_count(0)
        part.locator("input[type=file]").set_input_files(str(path))
        expect(part).to_contain_text("leave the printable area. No copy was made.")

    def test_one_part_alone_is_moved(self):
        path, part = self.begun()
        part.get_by_text("Moved", exact=True).click()
        self.choose("#copy-part", "peg")
        expect(part).to_contain_text("This part alone is moved")
        expect(part.locator("#copy-turn")).to_have_count(0)
        part.get_by_label("To the right").fill("-15")
        name, copy = self.taken(part, path)
        self.assertEqual(name, "clips-moved.gcode")
        self.assertIn("its part peg moved on the bed of Avocet: 15 mm to the left", copy.splitlines()[0])
        expect(part.get_by_role("status")).to_contain_text("Everything else stays where it was.")

    def test_one_thing_changed_on_a_phone(self):
        self.page.set_viewport_size(PHONE)
        path, part = self.begun()
        part.get_by_text("One thing changed").click()
        self.choose("#copy-change", "Bed")
        expect(part).to_contain_text("Hot parts burn.")
        part.locator("#copy-value").fill("66")
        self.assertEqual(self.overflow(), 0)
        name, copy = self.taken(part, path)
        self.assertEqual(name, "clips-changed.gcode")
        self.assertIn("60 C before, 66 C now", copy)
        lines = [line for line in copy.splitlines()[4:] if line not in path.read_text().splitlines()]
        self.assertEqual(lines, ["M140 S66", "M190 S66"])
        self.assertEqual(self.overflow(), 0)
