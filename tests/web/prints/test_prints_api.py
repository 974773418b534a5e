"""Prints over the API: begun, looked at, ended; counts, cases, statistics."""

from datetime import timedelta

from finchwort.store.prints.models import PrintRun
from finchwort.store.records import utcnow
from tests.fixtures.sent_files import FilesCase
from tests.fixtures.support import key

SHEET = {"name": "Sheet", "kind": "smooth_pei", "prints_since_wash": 3, "coats": 1}


class PrintsCase(FilesCase):
    def setUp(self):
        super().setUp()
        self.printer = self.new_printer(name="Rush", surfaces=[SHEET])["id"]
        self.visit = self.ask(
            "POST", f"/api/printers/{self.printer}/visits", {"surface": "Sheet"}, status=201
        )["id"]

    def begin(self, status=201, **told):
        body = {"client_key": key(), **told}
        return self.ask("POST", f"/api/printers/{self.printer}/prints", body, status=status)

    def look(self, print_, seen="good", status=201, **told):
        body = {"client_key": key(), "seen": seen, **told}
        return self.ask("POST", f"/api/prints/{print_['id']}/looks", body, status=status)

    def show(self, print_):
        return self.ask("GET", f"/api/prints/{print_['id']}")

    def end(self, print_, outcome="held", status=200, **told):
        body = {"client_key": key(), "version": self.show(print_)["version"], "outcome": outcome, **told}
        return self.ask("POST", f"/api/prints/{print_['id']}/end", body, status=status)

    def shift(self, print_, minutes):
        """Let a print have begun so many minutes earlier, with its looks."""
        with self.sessions() as session:
            row = session.get(PrintRun, print_["id"])
            row.started_at -= timedelta(minutes=minutes)
            for look in row.looks:
                look.at -= timedelta(minutes=minutes)
            session.commit()

    def surface(self, printer=None):
        page = self.ask("GET", f"/api/printers/{printer or self.printer}")
        return page["printer"]["surfaces"][0]

    def due(self):
        return [one for one in self.ask("GET", "/api/today")["due"] if one["print_id"]]


class BeginTest(PrintsCase):
    def test_what_is_known_is_filled_in_from_the_file(self):
        file = self.send(printer_id=self.printer, name="nest-box roof.gcode.gz")
        form = self.ask("GET", f"/api/printers/{self.printer}/print-form?file={file['id']}")
        self.assertEqual((form["origin"], form["name"], form["surface"]), ("file", "nest-box roof", "Sheet"))
        self.assertAlmostEqual(form["minutes"], file["minutes"], delta=0.1)
        self.assertAlmostEqual(form["grams"], file["grams"], delta=0.1)
        self.assertEqual(form["bed_temperature"], file["facts"]["bed"])
        made = self.begin(file_id=file["id"])
        self.assertEqual(
            (made["origin"], made["file_id"], made["name"]), ("file", file["id"], "nest-box roof")
        )
        self.assertGreater(len(self.ask("GET", f"/api/prints/{made['id']}/path")["paths"]), 1)

    def test_from_a_visit_and_plain(self):
        visit = self.begin(visit_id=self.visit, test=True)
        self.assertEqual(
            (visit["origin"], visit["visit_id"], visit["surface"]), ("test", self.visit, "Sheet")
        )
        self.end(visit)
        plain = self.begin(name="Hooks")
        self.assertEqual((plain["origin"], plain["surface"]), ("plain", "Sheet"))
        self.assertEqual(self.ask("GET", f"/api/prints/{plain['id']}/path")["paths"], [])

    def test_it_is_counted_on_its_surface_and_taken_back_with_it(self):
        made = self.begin()
        self.assertEqual(self.surface()["prints_since_wash"], 4)
        self.ask("DELETE", f"/api/prints/{made['id']}")
        self.assertEqual(self.surface()["prints_since_wash"], 3)
        self.ask("GET", f"/api/prints/{made['id']}", status=404)
        self.ask("POST", f"/api/prints/{made['id']}/restore")
        self.assertEqual(self.surface()["prints_since_wash"], 4)

    def test_what_was_washed_since_is_not_counted_back(self):
        made = self.begin()
        use = {"name": "Sheet", "action": "washed"}
        self.ask("POST", f"/api/printers/{self.printer}/surfaces/use", use)
        self.ask("DELETE", f"/api/prints/{made['id']}")
        self.assertEqual(self.surface()["prints_since_wash"], 0)

    def test_a_count_goes_along_when_the_surface_is_set_right(self):
        made = self.begin()
        body = {
            "version": made["version"],
            "surface": "Tape",
            "surface_kind": "masking_tape",
            "name": "Hooks",
        }
        changed = self.ask("PATCH", f"/api/prints/{made['id']}", body)
        self.assertEqual((changed["surface"], changed["name"]), ("Tape", "Hooks"))
        self.assertEqual(self.surface()["prints_since_wash"], 3)
        self.ask("PATCH", f"/api/prints/{made['id']}", body, status=409)

    def test_sent_twice_it_begins_once(self):
        body = {"client_key": key(), "name": "Hooks"}
        first, second = (
            self.ask("POST", f"/api/printers/{self.printer}/prints", body, status=201) for _ in range(2)
        )
        self.assertEqual(first["id"], second["id"])
        self.assertEqual(self.surface()["prints_since_wash"], 4)

    def test_one_at_a_time(self):
        made = self.begin(name="Hooks")
        refused = self.begin(status=409)
        self.assertIn("Tell what came of it first", refused["detail"])
        form = self.ask("GET", f"/api/printers/{self.printer}/print-form")
        self.assertEqual((form["running"], form["running_name"]), (made["id"], "“Hooks”"))
        self.end(made)
        self.begin()

    def test_figures_that_cannot_be(self):
        for wrong in (
            {"minutes": 0},
            {"bed_temperature": 900},
            {"ago": -1},
            {"grams": -5},
            {"name": "x" * 121},
        ):
            self.begin(status=422, **wrong)
        self.ask("POST", "/api/printers/999/prints", {"client_key": key()}, status=404)
        other = self.new_visit()["id"]
        self.begin(status=409, visit_id=other)
        self.assertEqual(self.surface()["prints_since_wash"], 3)

    def test_an_old_coat_is_told_before(self):
        for _ in range(4):
            self.ask(
                "POST", f"/api/printers/{self.printer}/surfaces/use", {"name": "Sheet", "action": "printed"}
            )
        notes = self.ask("GET", f"/api/printers/{self.printer}/print-form")["notes"]
        self.assertIn("7 prints on this coat", notes[0])


class LookTest(PrintsCase):
    def test_the_first_look_is_due_at_once_and_leads_to_the_next(self):
        made = self.begin(name="Hooks", minutes=200)
        (line,) = self.due()
        self.assertEqual((line["kind"], line["print_id"]), ("look", made["id"]))
        self.assertIn("look at the first lines", line["sentence"])
        self.look(made)
        self.assertEqual(self.due(), [])
        found = self.show(made)
        self.assertIsNone(found["wanted"])
        self.assertEqual(found["coming"]["kind"], "layer")

    def test_late_looks_are_marked(self):
        made = self.begin(minutes=300)
        self.look(made)
        self.shift(made, 40)
        (line,) = self.due()
        self.assertIn("25 min late", line["sentence"])
        self.look(made)
        clock = {one["kind"]: one for one in self.show(made)["clock"]}
        self.assertEqual(clock["layer"]["state"], "missed")
        self.assertTrue(clock["quarter"]["was_late"])

    def test_who_was_not_sure_looks_once_more(self):
        made = self.begin(minutes=300)
        self.look(made, "unsure", note="thin at the left")
        found = self.show(made)
        self.assertEqual((found["wanted"], found["coming"]["kind"]), (None, "lines"))
        self.shift(made, 3.5)
        self.assertEqual(self.show(made)["wanted"]["kind"], "lines")
        self.assertEqual(self.show(made)["looks"][0]["note"], "thin at the left")

    def test_a_stop_ends_it_and_can_be_taken_back(self):
        made = self.begin(minutes=300)
        self.look(made)
        stop = self.look(made, "stopped")
        found = self.show(made)
        self.assertEqual((found["runs"], found["over"], found["outcome"]), (False, True, None))
        (line,) = self.due()
        self.assertEqual(line["kind"], "outcome")
        self.assertIn("was stopped", line["sentence"])
        self.look(made, status=409)
        self.ask("DELETE", f"/api/print-looks/{stop['id']}")
        self.assertTrue(self.show(made)["runs"])
        self.ask("POST", f"/api/print-looks/{stop['id']}/restore")
        self.assertFalse(self.show(made)["runs"])
        self.end(made, "let_go")
        self.ask("DELETE", f"/api/print-looks/{stop['id']}", status=409)

    def test_after_its_end_it_is_asked_what_came_of_it(self):
        made = self.begin(minutes=60)
        self.look(made)
        self.shift(made, 63)
        self.assertEqual((self.due(), self.show(made)["wanted"]), ([], None))
        self.shift(made, 60)
        (line,) = self.due()
        self.assertEqual(line["kind"], "outcome")
        self.assertIn("should have ended", line["sentence"])

    def test_what_a_stop_saves_is_said(self):
        made = self.begin(minutes=100, grams=50, price=30)
        self.look(made)
        self.shift(made, 20)
        self.assertEqual(self.show(made)["saves"], "Stopping now saves 80 min and 40 g (1.20 of material).")

    def test_the_list_of_those_that_run_puts_looks_first(self):
        first = self.begin(minutes=300)
        self.look(first)
        other = self.new_printer(name="Alder")["id"]
        second = self.ask("POST", f"/api/printers/{other}/prints", {"client_key": key()}, status=201)
        running = self.ask("GET", "/api/prints/running")["prints"]
        self.assertEqual([one["id"] for one in running], [second["id"], first["id"]])
        self.ask("DELETE", f"/api/printers/{other}")
        self.assertEqual(len(self.ask("GET", "/api/prints/running")["prints"]), 1)


class EndTest(PrintsCase):
    def test_a_failure_opens_its_case_filled_in(self):
        file = self.send(printer_id=self.printer)
        made = self.begin(file_id=file["id"], material="PLA", bed_temperature=45)
        for minutes in (0, 6, 30):
            self.shift(made, minutes)
            self.look(made)
        ended = self.end(
            made,
            "let_go",
            how="corners",
            place={"x": 60, "y": 45},
            note="Left corner came up",
            minutes=34,
            case=True,
        )
        self.assertEqual((ended["outcome"], ended["how"], ended["x"]), ("let_go", "Corners lifted", 60))
        case = self.ask("GET", f"/api/cases/{ended['case_id']}")
        self.assertEqual((case["words"], case["place"]["x"]), ("Left corner came up", 60))
        answers = {s["key"]: s["answer"] for g in case["groups"] for s in g["signs"] if s["answer"] == "yes"}
        self.assertIn("corners_later", answers)
        self.assertIn("first_layer_fine", answers)
        told = {one["key"]: one["value"] for one in case["setup"]["settings"]}
        self.assertEqual((told["surface"], told["bed_temperature"]), ("Sheet", 45))
        self.assertEqual(told["speed"], file["facts"]["speed"])
        self.assertEqual(told["prints_since_wash"], 3)

    def test_a_print_without_a_file_does_not_take_another_files_settings(self):
        self.send(printer_id=self.printer)
        ended = self.end(self.begin(name="Hooks"), "let_go", case=True)
        told = {
            one["key"]: one["value"]
            for one in self.ask("GET", f"/api/cases/{ended['case_id']}")["setup"]["settings"]
        }
        self.assertIsNone(told["speed"])
        self.assertIsNone(told["part_height"])

    def test_taking_it_back_takes_the_case_along_unless_it_was_worked_on(self):
        made = self.begin()
        case = self.end(made, "let_go", how="loose", case=True)["case_id"]
        back = self.ask("POST", f"/api/prints/{made['id']}/reopen")
        self.assertEqual((back["outcome"], back["case_id"], back["runs"]), (None, None, True))
        self.ask("GET", f"/api/cases/{case}", status=404)
        case = self.end(made, "let_go", how="loose", case=True)["case_id"]
        sign = {"client_key": key(), "sign": "round_spots", "answer": "yes"}
        self.ask("POST", f"/api/cases/{case}/signs", sign, status=201)
        self.ask("POST", f"/api/prints/{made['id']}/reopen")
        self.ask("GET", f"/api/cases/{case}")

    def test_when_it_let_go_is_guessed_from_the_looks(self):
        made = self.begin(minutes=120)
        self.look(made)
        self.shift(made, 40)
        self.assertAlmostEqual(self.show(made)["usual_letting_go"], 20, delta=0.3)
        self.look(made)
        self.shift(made, 20)
        ended = self.end(made, "let_go")
        self.assertAlmostEqual(ended["ran"], 50, delta=0.5)

    def test_when_it_held_it_ended_at_its_end(self):
        made = self.begin(minutes=60)
        self.look(made)
        self.shift(made, 600)
        ended = self.end(made)
        self.assertAlmostEqual(ended["ran"], 60, delta=0.5)

    def test_one_that_was_forgotten_can_be_told_of_and_is_no_week_of_printing(self):
        made = self.begin(name="Hooks")
        self.look(made)
        self.shift(made, 9 * 24 * 60)
        (line,) = self.due()
        self.assertEqual(line["kind"], "outcome")
        ended = self.end(made)
        self.assertAlmostEqual(ended["ran"], 90, delta=1)
        self.begin(name="Labels")

    def test_told_twice_or_by_two(self):
        made = self.begin()
        version = self.show(made)["version"]
        body = {"client_key": key(), "version": version, "outcome": "held"}
        first = self.ask("POST", f"/api/prints/{made['id']}/end", body)
        self.assertEqual(self.ask("POST", f"/api/prints/{made['id']}/end", body)["version"], first["version"])
        self.ask("POST", f"/api/prints/{made['id']}/end", {**body, "outcome": "other"}, status=409)

    def test_what_cannot_be(self):
        made = self.begin(ago=10)
        self.end(made, "held", status=422, how="corners")
        self.end(made, "let_go", status=422, minutes=500)
        self.end(made, "let_go", status=422, place={"x": 4000, "y": 10})
        self.assertIsNone(self.show(made)["outcome"])

    def test_the_logbook_tells_of_it(self):
        made = self.begin(name="Hooks")
        self.end(made, "let_go", how="loose", note="Knocked over")
        titles = [one["title"] for one in self.ask("GET", "/api/logbook?kind=print")["entries"]]
        self.assertEqual(titles, ["Print let go: Hooks", "Print begun: Hooks"])
        self.ask("DELETE", f"/api/prints/{made['id']}")
        self.assertEqual(self.ask("GET", "/api/logbook?kind=print")["entries"], [])


class ResultsTest(PrintsCase):
    def run_of(self, outcome, minutes=120, **told):
        made = self.begin(ago=minutes + 5, minutes=minutes, material="PLA", **told)
        return self.end(made, outcome, minutes=minutes / 2 if outcome == "let_go" else minutes)

    def results(self):
        return self.ask("GET", "/api/print-results")

    def test_an_empty_book(self):
        found = self.results()
        self.assertEqual((found["share"]["told"], found["pairs"], found["printers"]), (0, [], []))

    def test_shares_by_pair_temperature_and_printer(self):
        for _ in range(3):
            self.run_of("held", bed_temperature=60)
        self.run_of("let_go", bed_temperature=51)
        self.run_of("too_well", bed_temperature=61.5)
        self.run_of("other", bed_temperature=60)
        found = self.results()
        self.assertEqual((found["share"]["held"], found["share"]["told"]), (3, 5))
        (pair,) = found["pairs"]
        self.assertEqual(
            (pair["surface"], pair["material"], pair["let_go"], pair["too_well"]),
            ("Smooth PEI sheet", "PLA", 1, 1),
        )
        bands = {band["bed"]: (band["share"]["held"], band["share"]["told"]) for band in pair["bands"]}
        self.assertEqual(bands, {50.0: (0, 1), 60.0: (3, 4)})
        self.assertEqual(pair["sentence"], "Held here at 60 °C; the table says 55 to 65 °C.")
        (printer,) = found["printers"]
        self.assertIn("Still held", printer["sentence"])
        self.assertEqual(sum(month["share"]["told"] for month in found["months"]), 5)

    def test_what_is_taken_back_does_not_count(self):
        made = self.run_of("let_go")
        self.ask("DELETE", f"/api/prints/{made['id']}")
        self.assertEqual(self.results()["share"]["told"], 0)

    def test_failures_make_the_next_be_looked_at_more_often(self):
        calm = self.begin()
        self.assertEqual(calm["why"], "Nothing is on record of how prints here let go: a look every 90 min.")
        self.end(calm)
        for _ in range(4):
            self.run_of("let_go", minutes=240)
        found = self.begin()
        self.assertIn("4 prints let go here in 7 h", found["why"])
        self.assertIn("a look every 60 min", found["why"])

    def test_a_page_after_another(self):
        ids = [self.run_of("held", name=f"Hook {number}")["id"] for number in range(32)]
        page = self.ask("GET", "/api/prints")
        self.assertEqual(len(page["prints"]), 30)
        rest = self.ask("GET", f"/api/prints?after={page['after']}")
        self.assertEqual(rest["after"], None)
        seen = [one["id"] for one in page["prints"] + rest["prints"]]
        self.assertEqual((sorted(seen), len(set(seen))), (sorted(ids), 32))
        self.assertEqual(len(self.ask("GET", "/api/prints?text=hook 31")["prints"]), 1)
        self.ask("GET", "/api/prints?after=99999", status=404)
        # a started time says nothing of the future
        self.assertLess(page["prints"][0]["started_at"], utcnow().isoformat())


class CountedTest(PrintsCase):
    def counted(self):
        return self.ask("GET", f"/api/printers/{self.printer}/counted")

    def test_an_empty_book(self):
        found = self.counted()
        self.assertEqual((found["nozzle_hours"], found["sheets"], found["failed"]), (0, [], 0))

    def test_hours_of_nozzle_and_sheet_and_what_failures_cost(self):
        for outcome, minutes in (("held", 120), ("let_go", 60)):
            made = self.begin(ago=200, minutes=120, grams=60, price=25)
            self.end(made, outcome, minutes=minutes)
        found = self.counted()
        self.assertAlmostEqual(found["nozzle_hours"], 3, delta=0.05)
        (sheet,) = found["sheets"]
        self.assertEqual((sheet["name"], sheet["prints"], sheet["let_go"]), ("Sheet", 2, 1))
        # half of 60 g at 25 a kilogram
        self.assertAlmostEqual(found["lost_grams"], 30, delta=0.5)
        self.assertAlmostEqual(found["lost_cost"], 0.75, delta=0.02)
        self.assertTrue(found["sentence"].startswith("1 print failed: 60 min of printing and 30 g, 0.75"))

    def test_a_new_nozzle_begins_at_none_and_an_old_one_is_due(self):
        for _ in range(3):
            made = self.begin(ago=8400, minutes=9000)
            self.end(made, "held", minutes=8300)
        self.assertIn("nozzle", [one["kind"] for one in self.ask("GET", "/api/today")["due"]])
        body = {"client_key": key(), "what": "nozzle"}
        change = self.ask("POST", f"/api/printers/{self.printer}/changes", body, status=201)
        found = self.counted()
        self.assertEqual(found["nozzle_hours"], 0)
        self.assertIsNotNone(found["nozzle_since"])
        self.assertNotIn("nozzle", [one["kind"] for one in self.ask("GET", "/api/today")["due"]])
        self.ask("DELETE", f"/api/changes/{change['id']}")
        self.assertGreater(self.counted()["nozzle_hours"], 400)
