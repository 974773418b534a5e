import csv
import io
from datetime import datetime, timedelta, timezone

from tests.fixtures.support import WebCase, key, tilted_points


class WorkshopTest(WebCase):
    def test_empty_then_filled(self):
        empty = self.ask("GET", "/api/workshop")
        self.assertEqual((empty["name"], empty["cards"]), ("My workshop", []))
        visit = self.new_visit()
        self.new_survey(visit["id"])
        (card,) = self.ask("GET", "/api/workshop")["cards"]
        self.assertEqual(card["open_visit"], visit["id"])
        self.assertAlmostEqual(card["last"]["spread"], 0.3, places=6)
        self.assertEqual(
            len(card["relief"]["heights_um"]), card["relief"]["columns"] * card["relief"]["rows"]
        )
        self.assertEqual(len(card["history"]), 1)

    def test_rename(self):
        version = self.ask("GET", "/api/workshop")["version"]
        self.ask("PUT", "/api/workshop", {"name": " Reed bed ", "version": version})
        self.assertEqual(self.ask("GET", "/api/workshop")["name"], "Reed bed")
        problem = self.ask("PUT", "/api/workshop", {"name": "x", "version": version}, status=409)
        self.assertEqual(problem["type"], "stale")


class PrinterTest(WebCase):
    def test_least_input_gives_a_whole_printer(self):
        made = self.ask("POST", "/api/printers", {"name": "Rush", "width": 180, "depth": 180}, status=201)
        self.assertEqual(
            (made["first_layer"], made["divisions"], made["knob_view"], made["plate_width"]),
            (0.2, 8, "behind", 180),
        )

    def test_suggestions(self):
        body = {"width": 200, "depth": 100, "origin": "centre", "screws": 3}
        found = self.ask("POST", "/api/suggestions", body)
        self.assertEqual(found["bed"]["x_min"], -100)
        self.assertEqual([s["name"] for s in found["screws"]], ["front left", "front right", "back"])
        self.assertEqual(self.ask("POST", "/api/suggestions", body | {"screws": 0})["screws"], [])
        self.ask("POST", "/api/suggestions", body | {"width": 3}, status=422)

    def test_two_tabs(self):
        made = self.new_printer()
        body = {k: made[k] for k in ("name", "width", "depth", "screws", "version")}
        self.ask("PUT", f"/api/printers/{made['id']}", body | {"name": "Mine"})
        problem = self.ask("PUT", f"/api/printers/{made['id']}", body | {"name": "Theirs"}, status=409)
        self.assertEqual(problem["type"], "stale")
        self.assertEqual(self.ask("GET", f"/api/printers/{made['id']}")["printer"]["name"], "Mine")

    def test_two_tabs_that_only_move_a_screw(self):
        made = self.new_printer()
        body = {k: made[k] for k in ("name", "width", "depth", "version")}
        for x, status in ((21, 200), (22, 409)):
            screws = [made["screws"][0] | {"x": x}, *made["screws"][1:]]
            self.ask("PUT", f"/api/printers/{made['id']}", body | {"screws": screws}, status=status)
        kept = self.ask("GET", f"/api/printers/{made['id']}")["printer"]["screws"][0]["x"]
        self.assertEqual(kept, 21)

    def test_delete_and_undo(self):
        made = self.new_printer()
        self.ask("DELETE", f"/api/printers/{made['id']}")
        self.ask("GET", f"/api/printers/{made['id']}", status=404)
        self.ask("DELETE", f"/api/printers/{made['id']}", status=404)
        self.ask("POST", f"/api/printers/{made['id']}/restore")
        self.assertEqual(self.ask("GET", f"/api/printers/{made['id']}")["printer"]["name"], "Reed")

    def test_patterns(self):
        made = self.new_printer()["id"]
        grid = self.ask("GET", f"/api/printers/{made}/pattern?columns=4&rows=3")["points"]
        self.assertEqual((len(grid), grid[0]), (12, {"x": 15, "y": 15}))
        near = self.ask("GET", f"/api/printers/{made}/pattern?kind=screws")["points"]
        self.assertEqual(len(near), 5)
        self.ask("GET", f"/api/printers/{made}/pattern?columns=1", status=422)

    def test_threads(self):
        found = {t["name"]: t["pitch"] for t in self.ask("GET", "/api/threads")["threads"]}
        self.assertEqual(found["M3"], 0.5)

    def test_errors_name_the_field(self):
        body = {"name": "", "width": 5, "depth": "deep", "color": "red", "screws": [{"name": "a"}]}
        problem = self.ask("POST", "/api/printers", body, status=422)
        fields = {e["field"]: e["message"] for e in problem["errors"]}
        self.assertEqual(fields["width"], "This must be at least 40.")
        self.assertEqual(fields["depth"], "This must be a number.")
        self.assertEqual(fields["color"], "This is not known here.")
        self.assertEqual(fields["name"], "This must not be empty.")
        self.assertIn("screws.0.x", fields)

    def test_numbers_must_be_finite(self):
        for text in (
            '{"name": "a", "width": NaN, "depth": 100}',
            '{"name": "a", "width": 1e999, "depth": 100}',
        ):
            answer = self.client.post("/api/printers", data=text, content_type="application/json")
            self.assertEqual(answer.status_code, 422)
        self.assertEqual(self.ask("GET", "/api/workshop")["cards"], [])


class ReadingsTest(WebCase):
    def setUp(self):
        super().setUp()
        self.printer = self.new_printer()["id"]
        self.preview = f"/api/printers/{self.printer}/preview"

    def understood(self, body):
        return self.ask("POST", self.preview, body)["preview"]

    def test_points_typed(self):
        found = self.understood({"points": tilted_points(0.3)})
        self.assertEqual(found["figures"]["verdict"]["level"], "turn")
        self.assertAlmostEqual(found["figures"]["spread"], 0.3, places=6)
        self.assertEqual(len(found["outline"]), 4)
        gaps = self.understood({"points": tilted_points(0.3), "values": "gap"})
        self.assertEqual(gaps["height"], [-h + 0.0 for h in found["height"]])

    def test_text_with_corrections(self):
        text = "0.3 0.2 0.1\n0 0 0\n0 0 0"
        plain = self.understood({"text": text})
        self.assertEqual((plain["layout"], plain["columns"], plain["rows"]), ("grid", 3, 3))
        self.assertEqual((plain["x"][0], plain["y"][0], plain["height"][0]), (15, 15, 0.3))
        turned = self.understood({"text": text, "flip_x": True, "flip_y": True})
        self.assertEqual(turned["height"][-1], 0.3)
        bounds = {"x_min": 30, "y_min": 30, "x_max": 190, "y_max": 190}
        self.assertEqual(self.understood({"text": text, "bounds": bounds})["bounds"], bounds)

    def test_unread_lines_are_told(self):
        text = "15,15,0.1\nover there,1\n200,15,0\n15,200,0\n"
        found = self.understood({"text": text})
        self.assertEqual(found["lines"][0]["line"], 2)
        problem = self.ask("POST", self.preview, {"text": "15,15,0\nhm,1,2\n30,30,0\n60,60,0"}, status=422)
        self.assertIn("one line", problem["detail"])
        self.assertEqual(problem["lines"][0]["line"], 2)

    def test_points_still_being_typed_are_waited_with(self):
        line = [{"x": x, "y": 15, "value": 0.1} for x in (15, 110, 205)]
        for points, reason in ((line, "one line"), (line[:2], "2 readings cannot show a tilt")):
            answer = self.ask("POST", self.preview, {"points": points})
            self.assertIsNone(answer["preview"])
            self.assertIn(reason, answer["waiting"]["reason"])
        visit = self.new_visit(self.printer)["id"]
        body = {"client_key": key(), "points": line}
        self.ask("POST", f"/api/visits/{visit}/surveys", body, status=422)

    def test_readings_beside_the_plate_are_doubted(self):
        self.assertIsNone(self.understood({"points": tilted_points(0.3)})["doubt"])
        text = "\n".join(f"{p['x'] - 110} {p['y'] - 110} {p['value']}" for p in tilted_points(0.3))
        found = self.understood({"text": text})
        self.assertIn("if X 0, Y 0 were in the middle", found["doubt"])
        visit = self.new_visit(self.printer)["id"]
        body = {"client_key": key(), "text": text}
        stored = self.ask("POST", f"/api/visits/{visit}/surveys", body, status=201)
        self.assertEqual(stored["assumptions"][-1], found["doubt"])

    def test_neither_or_both(self):
        self.ask("POST", self.preview, {}, status=422)
        self.ask("POST", self.preview, {"text": "1", "points": []}, status=422)

    def test_too_much(self):
        self.ask("POST", self.preview, {"text": "1 " * 500_001}, status=422)
        self.ask("POST", self.preview, {"text": "x" * 3_000_000}, status=413)

    def test_a_file_of_the_largest_size(self):
        lines = [f"{i % 200},{i // 200},{(i % 7) / 100}" for i in range(20_000)]
        found = self.understood({"text": "\n".join(lines)})
        self.assertEqual(found["figures"]["count"], 20_000)

    def test_far_from_zero_is_shown_from_the_mean(self):
        points = [p | {"value": p["value"] + 2} for p in tilted_points(0.3)]
        relief = self.understood({"points": points})["relief"]
        self.assertEqual(relief["datum"], 2.0)
        self.assertLessEqual(relief["high"], 0.2)


class VisitTest(WebCase):
    def test_the_whole_round(self):
        """Measure, plan, turn, measure again, close; the book has it all."""
        visit = self.new_visit()
        survey = self.new_survey(visit["id"], (0.5, 0.1))
        plan = self.ask("GET", f"/api/surveys/{survey['id']}/plan")
        self.assertLess(plan["spread_after"], 0.15)
        by_name = {t["name"]: t for t in plan["turns"]}
        self.assertEqual(by_name["front right"]["action"], "tighten")
        self.assertEqual(by_name["front right"]["direction"], "counterclockwise")
        self.assertIn("as you see it", by_name["front right"]["sentence"])
        body = {"client_key": key(), "done": {t["name"]: t["rounded"] for t in plan["turns"]}}
        self.ask("POST", f"/api/surveys/{survey['id']}/turnings", body, status=201)
        state = {s["name"]: s["state"] for s in self.ask("GET", f"/api/visits/{visit['id']}")["route"]}
        self.assertEqual(state["measure"], "out_of_date")

        self.new_survey(visit["id"], (0.03, 0.02))
        shown = self.ask("GET", f"/api/visits/{visit['id']}")
        self.assertEqual(len(shown["rounds"]), 2)
        self.assertIsNone(shown["rounds"][0]["review"])
        self.assertEqual(shown["rounds"][1]["review"]["findings"][-1]["kind"], "level")
        closed = self.ask("POST", f"/api/visits/{visit['id']}/finish", {"note": "Springs are tired."})
        self.assertIsNotNone(closed["ended_at"])
        entries = self.ask("GET", "/api/logbook?q=tired")["entries"]
        self.assertEqual(entries[0]["title"], "Visit closed: Level")
        kinds = [e["kind"] for e in self.ask("GET", "/api/logbook")["entries"]]
        self.assertEqual(kinds, ["verdict", "survey", "turning", "survey", "printer"])

    def test_strip(self):
        visit = self.new_visit()
        body = {"version": visit["version"], "surface": " Glass ", "bed_temperature": 60, "first_layer": 0.3}
        changed = self.ask("PATCH", f"/api/visits/{visit['id']}", body)
        self.assertEqual((changed["surface"], changed["bed_temperature"]), ("Glass", 60))
        self.ask("PATCH", f"/api/visits/{visit['id']}", body, status=409)
        cleared = {"version": changed["version"], "bed_temperature": None, "surface": None}
        changed = self.ask("PATCH", f"/api/visits/{visit['id']}", cleared)
        self.assertEqual(
            (changed["surface"], changed["bed_temperature"], changed["first_layer"]), ("", None, 0.3)
        )

    def test_judged_against_the_layer_of_the_visit(self):
        visit = self.new_visit()
        survey = self.new_survey(visit["id"], (0.14, 0))
        before = self.ask("GET", f"/api/surveys/{survey['id']}/map")["figures"]["verdict"]["level"]
        self.ask("PATCH", f"/api/visits/{visit['id']}", {"version": visit["version"], "first_layer": 0.3})
        after = self.ask("GET", f"/api/surveys/{survey['id']}/map")["figures"]["verdict"]["level"]
        self.assertEqual((before, after), ("turn", "level"))
        # and so are the route, the rounds, the workshop and the end
        now = self.ask("GET", f"/api/visits/{visit['id']}")
        self.assertEqual(now["rounds"][0]["survey"]["verdict"], "level")
        self.assertEqual(
            {step["name"]: step["state"] for step in now["route"]}
            | dict.fromkeys(("sound", "warm"), "passed over"),
            {
                "sound": "passed over",
                "warm": "passed over",
                "measure": "done",
                "judge": "done",
                "level": "done",
                "offset": "doing",
                "first-layer": "to_do",
                "finish": "to_do",
            },
        )
        self.assertEqual(self.ask("GET", "/api/workshop")["cards"][0]["last"]["word"], "Level")
        self.ask("POST", f"/api/visits/{visit['id']}/finish", {})
        self.assertEqual(
            self.ask("GET", "/api/logbook?kind=verdict")["entries"][0]["title"], "Visit closed: Level"
        )
        closed = self.ask("GET", f"/api/visits/{visit['id']}")
        change = {"version": closed["version"], "first_layer": 0.2}
        problem = self.ask("PATCH", f"/api/visits/{visit['id']}", change, status=409)
        self.assertIn("Open it again", problem["detail"])

    def test_map(self):
        visit = self.new_visit()
        survey = self.new_survey(visit["id"], (0.5, -0.3))
        found = self.ask("GET", f"/api/surveys/{survey['id']}/map")
        self.assertLess(max(map(abs, found["level"])), 1e-3)
        self.assertAlmostEqual(
            max(found["measured"]) - min(found["measured"]), found["figures"]["spread"], places=3
        )
        relief = found["measured_relief"]
        corner = relief["heights_um"][relief["columns"] - 1] / 1000 + relief["datum"]
        self.assertAlmostEqual(corner, (0.5 + 0.3) / 2 * 220 / 190, places=2)
        self.assertAlmostEqual(found["figures"]["tilt_x"], 0.5 * 220 / 190, places=3)
        zone = self.ask("GET", f"/api/surveys/{survey['id']}/minimum-zone")
        self.assertLessEqual(zone["peak_to_valley"], found["figures"]["peak_to_valley"] + 1e-9)

    def test_map_follows_the_set_up(self):
        """A map that was kept ready is made anew when a screw, the layer or the plate changed."""
        visit = self.new_visit()
        path = f"/api/surveys/{self.new_survey(visit['id'])['id']}/map"
        first = self.ask("GET", path)
        self.assertEqual(self.ask("GET", path), first)
        made = visit["printer"]
        screws = [made["screws"][0] | {"x": 33}, *made["screws"][1:]]
        body = {k: made[k] for k in ("name", "width", "depth", "version")} | {"screws": screws}
        self.ask("PUT", f"/api/printers/{made['id']}", body)
        self.assertEqual(self.ask("GET", path)["screws"][0]["x"], 33)

    def test_holds(self):
        visit = self.new_visit()
        survey = self.new_survey(visit["id"], (0.5, 0.2))
        plan = self.ask("GET", f"/api/surveys/{survey['id']}/plan?hold=only_tighten")
        self.assertTrue(all(t["rounded"] >= 0 for t in plan["turns"]))
        self.assertIn("farther", plan["centre_sentence"])
        self.assertEqual(len(plan["holds"]), 7)
        self.ask("GET", f"/api/surveys/{survey['id']}/plan?hold=nobody", status=422)

    def test_readings_as_csv(self):
        visit = self.new_visit()
        survey = self.new_survey(visit["id"])
        answer = self.client.get(f"/api/surveys/{survey['id']}/readings.csv")
        rows = list(csv.reader(io.StringIO(answer.get_data(as_text=True))))
        self.assertEqual(rows[0], ["x_mm", "y_mm", "height_mm"])
        self.assertEqual(len(rows), 26)
        self.assertIn("attachment", answer.headers["Content-Disposition"])

    def test_deleting_and_undoing_each_thing(self):
        visit = self.new_visit()
        survey = self.new_survey(visit["id"])
        turning = self.ask(
            "POST",
            f"/api/surveys/{survey['id']}/turnings",
            {"client_key": key(), "done": {"front left": 0.25}},
            status=201,
        )
        self.ask("DELETE", f"/api/surveys/{survey['id']}", status=409)
        self.ask("DELETE", f"/api/turnings/{turning['id']}")
        self.ask("POST", f"/api/turnings/{turning['id']}/restore")
        self.ask("DELETE", f"/api/turnings/{turning['id']}")
        self.ask("DELETE", f"/api/surveys/{survey['id']}")
        self.assertEqual(self.ask("GET", f"/api/visits/{visit['id']}")["rounds"], [])
        self.ask("POST", f"/api/surveys/{survey['id']}/restore")
        self.ask("DELETE", f"/api/visits/{visit['id']}")
        self.ask("GET", f"/api/surveys/{survey['id']}/map", status=404)
        self.ask("POST", f"/api/visits/{visit['id']}/restore")
        self.assertEqual(len(self.ask("GET", f"/api/visits/{visit['id']}")["rounds"]), 1)

    def test_closed_visits_take_nothing(self):
        visit = self.new_visit()
        survey = self.new_survey(visit["id"])
        self.ask("POST", f"/api/visits/{visit['id']}/finish", {})
        body = {"client_key": key(), "points": tilted_points(0.1)}
        problem = self.ask("POST", f"/api/visits/{visit['id']}/surveys", body, status=409)
        self.assertIn("closed", problem["detail"])
        self.ask(
            "POST", f"/api/surveys/{survey['id']}/turnings", {"client_key": key(), "done": {}}, status=409
        )
        self.ask("POST", f"/api/visits/{visit['id']}/reopen")
        self.new_survey(visit["id"])

    def test_a_bed_without_screws(self):
        printer = self.new_printer(screws=[])["id"]
        visit = self.new_visit(printer)
        survey = self.new_survey(visit["id"])
        self.assertEqual(survey["word"], "Take the tilt out")
        self.ask("GET", f"/api/surveys/{survey['id']}/plan", status=409)
        state = {s["name"]: s["state"] for s in self.ask("GET", f"/api/visits/{visit['id']}")["route"]}
        self.assertEqual(state["level"], "skipped")

    def test_a_refused_request_leaves_no_trace(self):
        visit = self.new_visit()
        survey = self.new_survey(visit["id"])
        before = self.ask("GET", "/api/logbook")
        bad = {"client_key": key(), "done": {"front left": 0.1, "somewhere": 0.2}}
        self.ask("POST", f"/api/surveys/{survey['id']}/turnings", bad, status=422)
        self.ask(
            "POST", f"/api/visits/{visit['id']}/surveys", {"client_key": key(), "points": []}, status=422
        )
        self.assertEqual(self.ask("GET", "/api/logbook"), before)


class LogbookTest(WebCase):
    def test_the_book_up_to_a_moment(self):
        self.ask("POST", "/api/logbook", {"text": "of today"}, status=201)
        at = datetime.fromisoformat(self.ask("GET", "/api/logbook")["entries"][0]["at"])
        for until, found in ((at, 0), (at + timedelta(seconds=1), 1), (at - timedelta(days=1), 0)):
            # the same moment, told in the hours of another place
            told = until.astimezone(timezone(timedelta(hours=5, minutes=30))).isoformat()
            answer = self.client.get("/api/logbook", query_string={"until": told})
            self.assertEqual(len(answer.get_json()["entries"]), found, told)
        for nonsense in ("yesterday", "2026-01-01T00:00:00", "0001-01-01T00:00:00+01:00"):
            answer = self.client.get("/api/logbook", query_string={"until": nonsense})
            self.assertEqual(answer.status_code, 422, nonsense)

    def test_pages(self):
        for i in range(60):
            self.ask("POST", "/api/logbook", {"text": f"note {i}"}, status=201)
        first = self.ask("GET", "/api/logbook")
        self.assertEqual((len(first["entries"]), first["entries"][0]["title"]), (50, "note 59"))
        second = self.client.get("/api/logbook", query_string={"before": first["before"]}).get_json()
        self.assertEqual([e["title"] for e in second["entries"]], [f"note {i}" for i in range(9, -1, -1)])
        self.assertIsNone(second["before"])
        self.ask("GET", "/api/logbook?before=yesterday", status=422)

    def test_notes(self):
        printer = self.new_printer()["id"]
        note = self.ask(
            "POST", "/api/logbook", {"text": "New springs.\nStiffer.", "printer": printer}, status=201
        )
        self.assertEqual(
            (note["title"], note["detail"], note["printer"]), ("New springs.", "Stiffer.", "Reed")
        )
        self.ask("DELETE", f"/api/logbook/{note['id']}")
        self.assertEqual(self.ask("GET", "/api/logbook?kind=note")["entries"], [])
        self.ask("POST", f"/api/logbook/{note['id']}/restore")
        self.assertEqual(len(self.ask("GET", f"/api/logbook?kind=note&printer={printer}")["entries"]), 1)
        self.ask("POST", "/api/logbook", {"text": "   "}, status=422)

    def test_export_is_safe_in_a_spreadsheet(self):
        self.ask("POST", "/api/logbook", {"text": "=HYPERLINK(1)"}, status=201)
        text = self.client.get("/api/logbook.csv").get_data(as_text=True)
        rows = list(csv.reader(io.StringIO(text)))
        self.assertEqual(rows[0][:3], ["time_utc", "printer", "kind"])
        self.assertEqual(rows[1][3], "'=HYPERLINK(1)")
