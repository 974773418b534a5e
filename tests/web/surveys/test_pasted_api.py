"""Copied console text goes to the place it belongs to, and settings are held against the book."""

from tests.fixtures.support import WebCase, key

SETTINGS = "FIRMWARE_NAME:Open 2.1\necho: M92 X80.00 Y80.00 Z400.00\necho: M851 X-40.00 Y-10.00 Z-1.45\nok"


class PastedApiTest(WebCase):
    def setUp(self):
        super().setUp()
        self.printer = self.new_printer(probe_kind="inductive", beam_screws=2, beam_carries="nozzle")["id"]
        self.visit = self.new_visit(self.printer)["id"]

    def sort(self, text, visit=None):
        return self.ask("POST", f"/api/visits/{visit or self.visit}/pasted", {"text": text})["finds"]

    def keep(self, text, status=201):
        body = {"text": text, "client_key": key()}
        return self.ask("POST", f"/api/printers/{self.printer}/told", body, status=status)

    def test_each_goes_to_its_place(self):
        touches = "\n".join(f"{i} of 10: z: {0.1 + 0.002 * (i % 3):.4f}" for i in range(1, 11))
        cases = {
            touches: ("repeatability", "trust"),
            "Standard deviation: 0.004 Range: 0.012\n10 samples": ("repeatability", "trust"),
            "x_min: open\nz_min: TRIGGERED": ("switches", "sound"),
            "-0.2 0.0 0.2": ("row", "sound"),
            SETTINGS: ("settings", ""),
            "x;y;z\n15;15;0.1\n200;15;0.0\n200;200;-0.1": ("readings", "measure"),
        }
        for text, wanted in cases.items():
            with self.subTest(wanted):
                found = self.sort(text)
                self.assertEqual([(f["kind"], f["step"]) for f in found], [wanted])
                self.assertTrue(found[0]["sentence"])
        self.assertEqual(self.sort("nothing at all"), [])
        both = self.sort(f"x_min: open\n{SETTINGS}")
        self.assertEqual({f["kind"] for f in both}, {"switches", "settings"})

    def test_a_row_at_a_printer_without_such_a_beam(self):
        visit = self.new_visit(self.new_printer()["id"])["id"]
        found = self.sort("-0.2 0.0 0.2", visit)[0]
        self.assertEqual(found["step"], "measure")

    def test_touches_and_a_summary_are_stored_as_tests(self):
        for text in (
            "\n".join(f"{i} of 10: z: {0.1 + 0.002 * (i % 3):.4f}" for i in range(1, 11)),
            "Standard deviation: 0.004 Range: 0.012\n10 samples",
        ):
            find = self.sort(text)[0]
            data = {"heights": find["heights"]} if find["heights"] else {"summary": find["summary"]}
            body = {"client_key": key(), "test": {"kind": "repeatability"} | data}
            made = self.ask("POST", f"/api/visits/{self.visit}/tests", body, status=201)
            self.assertEqual(made["level"], "good")
            self.assertIn("10 touches", made["figures"])
        # the summary is what plans go by now
        survey = self.new_survey(self.visit)["id"]
        plan = self.ask("GET", f"/api/surveys/{survey}/plan")
        self.assertIn("10 touches", plan["noise_sentence"])
        wrong = {"client_key": key(), "test": {"kind": "repeatability"}}
        self.ask("POST", f"/api/visits/{self.visit}/tests", wrong, status=422)
        summary = {"sd": 0.5, "range": 0.1, "count": 10}
        odd = {"client_key": key(), "test": {"kind": "repeatability", "summary": summary}}
        self.ask("POST", f"/api/visits/{self.visit}/tests", odd, status=422)

    def test_an_offset_reset_behind_our_back_is_caught_from_pasted_settings(self):
        parts = {"client_key": key(), "parts": {"printer": -1.75}, "reason": "paper"}
        self.ask("POST", f"/api/printers/{self.printer}/offset", parts, status=201)
        rows = {r["name"]: r for r in self.sort(SETTINGS)[0]["rows"]}
        self.assertEqual(rows["offset"]["state"], "other")
        self.assertNotIn("mesh", rows)
        kept = {r["name"]: r["state"] for r in self.keep(SETTINGS)["rows"]}
        self.assertEqual(kept["offset"], "other")
        changes = self.ask("GET", f"/api/printers/{self.printer}/changes")["since"]
        self.assertEqual([c["what"] for c in changes], ["offset"])
        self.keep(SETTINGS)  # said once, until the book is put right
        changes = self.ask("GET", f"/api/printers/{self.printer}/changes")["since"]
        self.assertEqual([c["what"] for c in changes], ["offset"])

    def test_what_a_text_leaves_out_stays_as_it_was_said(self):
        self.keep(SETTINGS)
        self.keep("echo: M92 X80.00 Y80.00 Z402.00")
        told = self.ask("GET", f"/api/printers/{self.printer}/told")
        says = {r["name"]: r["says"] for r in told["rows"]}
        self.assertIn("2.1", says["firmware"])
        self.assertIn("402", says["steps"])
        changes = self.ask("GET", f"/api/printers/{self.printer}/changes")["since"]
        self.assertNotIn("firmware", [c["what"] for c in changes])
        self.keep("nothing of a machine", status=422)
