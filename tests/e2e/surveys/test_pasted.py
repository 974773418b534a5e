"""Console text goes to the place it belongs to, wherever in a visit it is pasted."""

from playwright.sync_api import expect

from tests.fixtures.api import ApiMixin
from tests.fixtures.browser import PHONE, BrowserCase

TOUCHES = "\n".join(f"Recv: {i} of 10: z: {0.1 + 0.002 * (i % 3):.4f}" for i in range(1, 11))
STATES = "Reporting endstop status\nx_min: open\ny_min: open\nz_min: TRIGGERED\nok"
SETTINGS = "FIRMWARE_NAME:Open 2.1\necho: M92 X80.00 Y80.00 Z400.00\necho: M851 X-40.00 Y-10.00 Z-1.45\nok"


class PastedCase(ApiMixin, BrowserCase):
    def paste(self, text, where="document.body"):
        """Paste as a browser does; returns whether it was let through to the field."""
        # what it is pasted into may still be on its way
        if where != "document.body":
            self.page.locator(where).wait_for()
        return self.page.evaluate(
            "([text, where]) => { const data = new DataTransfer(); data.setData('text', text);"
            " const target = where === 'document.body' ? document.body : document.querySelector(where);"
            " return target.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true })) }",
            [text, where],
        )

    @property
    def found(self):
        return self.page.get_by_role("region", name="What you pasted")


class PastedTest(PastedCase):
    def test_touches_are_stored_where_trust_is(self):
        _, visit = self.printer_and_visit(probe_kind="inductive")
        self.go(f"/visits/{visit['id']}/judge")
        self.assertFalse(self.paste(TOUCHES))
        expect(self.found).to_contain_text("Trust it")
        self.press("Store this test")
        self.page.wait_for_url("**/trust")
        self.see("Trust it")
        tests = self.get(f"/api/visits/{visit['id']}")["tests"]
        self.assertEqual([(t["kind"], len(t["heights"])) for t in tests], [("repeatability", 10)])
        expect(self.found).to_have_count(0)

    def test_a_machines_own_summary(self):
        _, visit = self.printer_and_visit(probe_kind="inductive")
        self.go(f"/visits/{visit['id']}/measure")
        self.paste("Mean: 0.012 Range: 0.09\nStandard Deviation: 0.031\n10 samples")
        self.press("Store this test")
        self.page.wait_for_url("**/trust")
        self.see("Find the cause first")
        self.see("Only the machine's own figures are known")

    def test_switch_states_fill_the_table(self):
        _, visit = self.printer_and_visit()
        self.go(f"/visits/{visit['id']}/measure")
        self.paste(STATES.replace("TRIGGERED", "open"))
        self.press("To the switches")
        self.page.wait_for_url("**/sound")
        region = self.page.get_by_role("region", name="Switch test")
        expect(region).to_contain_text("z_min")
        # pressed: the row of the one that answered
        self.paste(STATES)
        self.press("To the switches")
        expect(region).to_contain_text("triggered")

    def test_settings_beside_the_book(self):
        printer, visit = self.printer_and_visit(probe_kind="inductive")
        parts = {"client_key": "paste-key-1", "parts": {"printer": -1.75}, "reason": "paper"}
        self.post(f"/api/printers/{printer['id']}/offset", parts)
        self.go(f"/visits/{visit['id']}/offset")
        self.paste(SETTINGS)
        expect(self.found.get_by_role("row").filter(has_text="offset")).to_contain_text("−1.75")
        self.press("Keep what it says")
        self.see("Kept.")
        changes = self.get(f"/api/printers/{printer['id']}/changes")["since"]
        self.assertEqual([c["what"] for c in changes], ["offset"])

    def test_at_the_line_too(self):
        printer, visit = self.printer_and_visit(probe_kind="inductive", port="socket://127.0.0.1:9")
        self.go(f"/printers/{printer['id']}/machine")
        self.paste(STATES)
        self.press("To the switches")
        self.page.wait_for_url(f"**/visits/{visit['id']}/sound")

    def test_a_row_of_three(self):
        _, visit = self.printer_and_visit(beam_screws=2, beam_carries="nozzle")
        self.go(f"/visits/{visit['id']}/measure")
        self.paste("-0.2 0.0 0.2")
        self.press("To this row")
        self.page.wait_for_url("**/sound")
        expect(self.page.get_by_label("Left, middle, right, mm")).to_have_value("-0.2 0 0.2")

    def test_a_note_and_a_number_stay_what_they_are(self):
        _, visit = self.printer_and_visit()
        self.go(f"/visits/{visit['id']}/measure")
        self.assertTrue(self.paste("0.12", "#reading"))
        expect(self.found).to_have_count(0)
        # a whole console in a field of one line would be torn
        self.assertFalse(self.paste(STATES, "#reading"))
        expect(self.found).to_contain_text("z_min triggered")
        self.press("Never mind")
        expect(self.found).to_have_count(0)
        self.paste("nothing of the kind at all")
        self.see("Nothing of a bed or a machine was found")


class PastedOnAPhoneTest(PastedCase):
    viewport = PHONE

    def test_in_the_box_for_readings(self):
        """A phone has no page to paste on, but the box takes everything."""
        _, visit = self.printer_and_visit()
        self.go(f"/visits/{visit['id']}/measure")
        self.page.get_by_text("Paste or drop text").click()
        self.assertTrue(self.paste(STATES, "#pasted"))
        expect(self.found).to_contain_text("z_min triggered")
        wide = self.page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(wide, PHONE["width"])
        self.press("To the switches")
        self.page.wait_for_url("**/sound")
