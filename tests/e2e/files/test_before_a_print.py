"""A file of the slicer dropped, looked through, and its first layer seen on this bed."""

import re

from playwright.sync_api import expect

from tests.fixtures.browser import PHONE
from tests.fixtures.dropped_files import FilesCase


class BeforeAPrintTest(FilesCase):
    def painted(self):
        """How many different colours the picture of the lines shows."""
        return self.page.locator("canvas").evaluate(
            """(canvas) => {
              const copy = Object.assign(document.createElement('canvas'), { width: 200, height: 200 })
              const pen = copy.getContext('2d')
              pen.drawImage(canvas, 0, 0, 200, 200)
              const seen = new Set(new Uint32Array(pen.getImageData(0, 0, 200, 200).data.buffer))
              return seen.size
            }"""
        )

    def test_dropped_looked_through_and_foretold(self):
        self.drop(self.file(first_fan=60, bed=30))
        self.opened()
        findings = self.page.get_by_role("region", name="Before you start it")
        expect(findings).to_contain_text("to change before you start it")
        expect(findings).to_contain_text("The part fan runs at 60 %")
        expect(findings).to_contain_text("Peg has no brim")
        facts = self.page.get_by_role("region", name="What stands in the file")
        expect(facts).to_contain_text("0.20 mm high, lines 0.50 mm wide")
        forecast = self.page.get_by_role("region", name="First layer along its lines")
        expect(forecast).to_contain_text("of the first layer will be good")
        self.drawn()
        before = forecast.locator(".say").inner_text()
        forecast.get_by_text("With compensation").click()
        expect(forecast.locator(".say")).not_to_have_text(before)
        self.page.wait_for_load_state("networkidle")
        self.assertGreater(self.painted(), 2)
        # and on the dark ground
        self.page.emulate_media(color_scheme="dark")
        self.assertGreater(self.painted(), 2)

    def test_where_it_would_hold(self):
        self.drop(self.file())
        self.opened()
        places = self.page.get_by_role("region", name="Where it would hold")
        expect(places.get_by_role("img", name="Where it would hold")).to_be_visible()
        whole = places.get_by_role("status").inner_text()
        self.choose("#file-move", "peg")
        expect(places.get_by_role("status")).not_to_have_text(whole)
        expect(places.get_by_role("status")).to_contain_text("good")

    def test_the_tip_is_moved_by_keyboard_and_the_picture_follows(self):
        self.drop(self.file())
        self.opened()
        drawn = self.drawn()
        slider = self.page.get_by_role("slider", name="Tip closer or farther")
        slider.focus()
        for _ in range(22):
            self.page.keyboard.press("ArrowLeft")
        expect(self.page.get_by_text("0.22 mm closer than right in the middle")).to_be_visible()
        expect(self.page.locator("canvas")).not_to_have_attribute("data-drawn", drawn)
        expect(self.page.get_by_role("region", name="First layer along its lines")).to_contain_text(
            "Do not start it so"
        )

    def test_a_part_is_looked_at_and_roles_are_left_out(self):
        self.drop(self.file())
        self.opened()
        drawn = self.drawn()
        self.page.get_by_role("checkbox", name="skirt").locator("xpath=ancestor::label").click()
        expect(self.page.locator("canvas")).not_to_have_attribute("data-drawn", drawn)
        self.choose("#file-look", "peg")
        expect(self.page.locator("canvas")).to_be_visible()

    def test_material_and_surface_are_asked_for_and_kept(self):
        self.drop(self.file(), printer=None)
        self.opened()
        findings = self.page.get_by_role("region", name="Before you start it")
        expect(findings).to_contain_text("Which printer is it for?")
        self.choose("#file-printer", "Avocet")
        expect(findings).not_to_contain_text("Which printer is it for?")
        self.choose("#file-material", "ABS")
        expect(findings).to_contain_text("is cold for ABS")
        self.page.reload()
        expect(self.page.get_by_role("region", name="Before you start it")).to_contain_text("is cold for ABS")

    def test_what_is_no_print_gets_a_sentence_and_nothing_is_lost(self):
        self.drop(self.file("letter.gcode", "Dear all,\nhere it is.\n"))
        self.see("This is no G-code: no line of it moves anything.")
        expect(self.page).to_have_url(re.compile(r"/files$"))
        self.page.locator("input[type=file]").set_input_files(str(self.file()))
        self.opened()

    def test_a_large_file_goes_through(self):
        small = self.file().read_text()
        # larger than any other request may be
        self.drop(self.file("large.gcode", small + "; nothing more\n" * 450_000))
        self.opened()
        expect(self.page.get_by_role("heading", name="large.gcode")).to_be_visible()

    def test_stopped_it_is_not_kept(self):
        self.go("/files")
        small = self.file().read_text()
        lines = "".join(f"G1 X{10 + i % 90}.5 Y{20 + i % 70}.25 E0.01\n" for i in range(1_200_000))
        path = self.file("stopped.gcode", small.replace("; end\n", f"{lines}; end\n"))
        self.page.locator("input[type=file]").set_input_files(str(path))
        self.press("Stop")
        expect(self.page.get_by_text("Reading stopped.gcode")).to_have_count(0)
        self.page.reload()
        listed = self.page.get_by_role("region", name="Files")
        listed.wait_for()
        expect(listed).not_to_contain_text("stopped.gcode")

    def test_on_a_phone(self):
        self.page.set_viewport_size(PHONE)
        self.drop(self.file())
        self.opened()
        self.drawn()
        self.assertEqual(self.overflow(), 0)
        self.go("/files")
        expect(self.page.get_by_role("region", name="Files")).to_contain_text("clips.gcode")
        self.assertEqual(self.overflow(), 0)

    def test_deleted_and_brought_back(self):
        self.drop(self.file("gone.gcode"))
        self.opened()
        self.go("/files")
        listed = self.page.get_by_role("region", name="Files")
        self.press("Delete gone.gcode")
        expect(listed).not_to_contain_text("gone.gcode")
        self.press("Undo")
        expect(listed).to_contain_text("gone.gcode")
