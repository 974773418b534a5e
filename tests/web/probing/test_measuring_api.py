"""Walk round, tests, hand readings, files, advice, surfaces and jobs over the API."""

import base64

from sqlalchemy import text

from finchwort.core.surveys import Survey
from finchwort.formats import survey_sdf
from finchwort.store.machine import jobs, lines
from tests.fixtures.support import WebCase, key, tilted_points

LINE = {"port": "socket://127.0.0.1:9", "probe_kind": "inductive", "probe_dx": 28, "probe_dy": -12}
SHEET = {"name": "Sheet", "kind": "smooth_pei", "thickness": 0.8}


class SetUpTest(WebCase):
    def test_everything_is_kept(self):
        more = {
            "pads": [
                {"name": "a", "x": 10, "y": 10, "foils": [0.2, 0.05]},
                {"name": "b", "x": 200, "y": 10, "foils": []},
                {"name": "c", "x": 100, "y": 200, "foils": []},
            ],
            "keep_off": [
                {"name": "clip", "x_min": 90, "y_min": 0, "x_max": 130, "y_max": 8, "height": 4},
            ],
            "screws": [],
            "beam_screws": 2,
            "beam_left": -10,
            "beam_right": 230,
            "closer_is": "positive",
            "compensation": "mean",
            "offset_kept": ["printer", "slicer"],
            "surfaces": [
                SHEET,
                {"name": "Glass", "kind": "glass", "condition": "worn", "prints_since_wash": 3},
            ],
            "materials": ["PLA", "PETG"],
            **LINE,
        }
        printer = self.new_printer(**more)
        shown = self.ask("GET", f"/api/printers/{printer['id']}")["printer"]
        for name, value in more.items():
            if name not in ("surfaces",):
                self.assertEqual(shown[name], value, name)
        self.assertEqual([s["kind_name"] for s in shown["surfaces"]], ["Smooth PEI sheet", "Bare glass"])
        self.assertIn("add up", shown["offset_warning"])
        self.assertEqual(shown["probe_reach"], {"x_min": 28, "y_min": 0, "x_max": 220, "y_max": 208})

    def test_refused_in_words(self):
        for change in (
            {"port": "spy:///etc/passwd"},
            {"port": "/dev/../etc/passwd"},
            {"probe_dx": 149, "probe_dy": 0, "width": 100, "depth": 100, "screws": []},
            {"surfaces": [SHEET, SHEET]},
            {"surfaces": [{**SHEET, "kind": "carpet"}]},
            {"materials": ["cheese"]},
            {"pads": [{"name": "a", "x": 1, "y": 1}]},
            {"beam_screws": 2, "beam_left": 10, "beam_right": 0},
            {"most_bed": 500},
        ):
            with self.subTest(change):
                body = {"name": "Reed", "width": 220, "depth": 220, **change}
                if "pads" in change:
                    body["screws"] = [
                        {"name": n, "x": x, "y": y, "thread": "M4", "pitch": 0.7}
                        for n, x, y in (("a", 0, 0), ("b", 9, 0), ("c", 0, 9))
                    ]
                self.assertTrue(self.ask("POST", "/api/printers", body, status=422)["detail"])

    def test_a_first_visit_starts_with_what_suits(self):
        printer = self.new_printer(surfaces=[SHEET], materials=["PETG"])
        visit = self.new_visit(printer["id"])
        self.assertEqual(
            (visit["surface"], visit["surface_kind"], visit["material"]), ("Sheet", "smooth_pei", "PETG")
        )
        self.assertEqual((visit["bed_temperature"], visit["nozzle_temperature"]), (75, 235))
        self.assertEqual(visit["suit"]["state"], "needs")

    def test_an_unsuitable_pair_is_said_at_once(self):
        found = self.ask("GET", "/api/suit?surface=low_temperature_sheet&material=ABS&bed=40")
        self.assertEqual(found["state"], "unsuitable")
        self.assertEqual(len(self.ask("GET", "/api/knowledge")["surfaces"]), 9)
        visit = self.new_visit()
        change = {"version": visit["version"], "surface_kind": "masking_tape", "material": "PC"}
        self.assertEqual(
            self.ask("PATCH", f"/api/visits/{visit['id']}", change)["suit"]["state"], "unsuitable"
        )

    def test_a_surface_is_used_and_washed(self):
        path = f"/api/printers/{self.new_printer(surfaces=[SHEET])['id']}/surfaces/use"
        for action, prints, coats in (
            ("printed", 1, 0),
            ("coated", 1, 1),
            ("printed", 2, 1),
            ("washed", 0, 0),
        ):
            surface = self.ask("POST", path, {"name": "Sheet", "action": action})["surfaces"][0]
            self.assertEqual((surface["prints_since_wash"], surface["coats"]), (prints, coats))
        self.ask("POST", path, {"name": "Door", "action": "washed"}, status=404)


class SoundTest(WebCase):
    def setUp(self):
        super().setUp()
        self.visit = self.new_visit()["id"]

    def look(self):
        return self.ask("GET", f"/api/visits/{self.visit}")

    def mark(self, item, state, status=201, **more):
        return self.ask(
            "POST",
            f"/api/visits/{self.visit}/findings",
            {"item": item, "state": state, **more},
            status=status,
        )

    def test_a_bad_find_weakens_the_plan_and_blocks_nothing(self):
        self.mark("springs", "bad", note="gives under a finger")
        self.mark("tip", "good")
        now = self.look()
        self.assertIn("springs well compressed", now["weaknesses"]["plan"][0])
        self.assertEqual(now["weaknesses"]["trust"], [])
        self.assertEqual(
            {i["key"]: i["state"] for i in now["items"] if i["state"]}, {"springs": "bad", "tip": "good"}
        )
        survey = self.new_survey(self.visit)["id"]
        self.assertTrue(self.ask("GET", f"/api/surveys/{survey}/plan")["turns"])
        self.assertEqual(
            self.ask("GET", "/api/logbook?kind=finding")["entries"][0]["detail"], "gives under a finger"
        )
        self.mark("springs", "open")
        self.assertEqual(self.look()["weaknesses"]["plan"], [])

    def test_items_the_printer_does_not_have(self):
        self.assertNotIn("probe_mount", [i["key"] for i in self.look()["items"]])
        self.mark("probe_mount", "bad", status=422)

    def test_closed_visits_are_left_alone(self):
        self.new_survey(self.visit)
        self.ask("POST", f"/api/visits/{self.visit}/finish", {})
        self.mark("tip", "good", status=409)


class TestsTest(WebCase):
    def setUp(self):
        super().setUp()
        self.printer = self.new_printer()["id"]
        self.visit = self.new_visit(self.printer)["id"]

    def add(self, status=201, client_key=None, **test):
        body = {"client_key": client_key or key(), "test": test}
        return self.ask("POST", f"/api/visits/{self.visit}/tests", body, status=status)

    def test_repeatability_feeds_the_plan(self):
        survey = self.new_survey(self.visit, (0.06, 0.0))["id"]
        before = self.ask("GET", f"/api/surveys/{survey}/plan")
        self.assertIn("how well the readings fit", before["noise_sentence"])
        test = self.add(
            kind="repeatability", heights=[0.1, 0.13, 0.09, 0.12, 0.1, 0.14, 0.08, 0.11, 0.1, 0.12]
        )
        self.assertEqual((test["level"], test["repeatability"]["aside"]), ("poor", []))
        after = self.ask("GET", f"/api/surveys/{survey}/plan")
        self.assertIn("test of 10 touches", after["noise_sentence"])
        self.assertGreater(after["turns"][0]["uncertainty"], before["turns"][0]["uncertainty"])
        visit = self.ask("GET", f"/api/visits/{self.visit}")
        self.assertIn("find the cause", visit["weaknesses"]["plan"][0])
        self.assertEqual(visit["route"][2]["state"], "done")
        self.ask("DELETE", f"/api/tests/{test['id']}")
        self.assertEqual(self.ask("GET", f"/api/surveys/{survey}/plan")["noise"], before["noise"])
        self.ask("POST", f"/api/tests/{test['id']}/restore")
        self.assertEqual(len(self.ask("GET", f"/api/visits/{self.visit}")["tests"]), 1)

    def test_sent_again_it_is_stored_once(self):
        body = {"client_key": key(), "kind": "beam", "left": 14.1, "right": 13.9, "span": 300}
        one, two = (self.add(**body) for _ in range(2))
        self.assertEqual(one["id"], two["id"])
        self.add(409, **(body | {"left": 15}))

    def test_soak_switches_and_lines(self):
        soak = self.add(
            kind="soak", times=[0, 30, 60, 90, 120, 150], heights=[0, 0.05, 0.08, 0.1, 0.112, 0.12]
        )
        self.assertEqual(soak["level"], "moving")
        self.assertIn("Still moving", soak["sentences"][0])
        self.assertEqual(len(soak["soak"]["curve"]), len(soak["soak"]["curve_times"]))
        states = {"x": "open", "y": "open"}
        switches = self.add(
            kind="switches",
            untouched=states,
            pressed={"x": {"x": "open", "y": "triggered"}, "y": {"x": "triggered", "y": "open"}},
        )
        self.assertEqual([one["kind"] for one in switches["switches"]], ["swapped", "swapped"])
        visit = self.ask("GET", f"/api/visits/{self.visit}")
        self.assertIn("still moving", visit["weaknesses"]["map"][0])
        self.assertIn("do not home", visit["weaknesses"]["trust"][0])
        x = [0, 50, 100, 150, 200]
        self.add(kind="line", what="carrier", positions=x, gaps=[0, 0, 0, 0, 0])
        plate = self.add(kind="line", what="plate", positions=x, gaps=[0, 0.15, 0.2, 0.15, 0])
        self.assertIn("plate itself sags", plate["line"]["compared"])

    def test_preview_waits_and_refuses(self):
        path = f"/api/printers/{self.printer}/tests/preview"
        self.assertIn(
            "3 readings",
            self.ask("POST", path, {"test": {"kind": "repeatability", "heights": [0.1]}})["waiting"],
        )
        self.ask("POST", path, {"test": {"kind": "beam", "left": 1}}, status=422)
        self.ask("POST", path, {"test": {"kind": "switches"}}, status=422)
        self.ask("POST", path, {"test": {"kind": "soak", "times": [0, 1], "heights": [1]}}, status=200)
        self.ask("POST", path, {"test": {"kind": "weather"}}, status=422)
        refused = self.ask("POST", path, {"test": {"kind": "beam", "left": 1, "right": 2}}, status=422)
        self.assertEqual(refused["detail"], "test.span: This is needed.")
        refused = self.ask("POST", path, {"test": {"kind": "repeatability", "gaps": [0.1]}}, status=422)
        self.assertEqual([error["field"] for error in refused["errors"]], ["test.gaps"])


class HandAndFilesTest(WebCase):
    def test_paper_becomes_a_survey_with_its_noise(self):
        visit = self.new_visit()["id"]
        feels = self.ask("GET", "/api/feels")["feels"]
        self.assertEqual([f["key"] for f in feels], ["free", "slight", "strong", "bunches", "stuck"])
        places = [
            (15, 15, "bunches"),
            (205, 15, "slight"),
            (205, 205, "strong"),
            (15, 205, "slight"),
            (110, 110, "slight"),
        ]
        points = [{"x": x, "y": y, "value": 0.1, "feel": feel, "z": 0.2} for x, y, feel in places]
        body = {"client_key": key(), "by_hand": {"way": "paper", "points": points}}
        survey = self.ask("POST", f"/api/visits/{visit}/surveys", body, status=201)
        self.assertEqual((survey["source"], survey["count"]), ("paper", 5))
        self.assertGreater(survey["noise"], 0.01)
        plan = self.ask("GET", f"/api/surveys/{survey['id']}/plan")
        self.assertIn("the way it was read", plan["noise_sentence"])

    def test_what_paper_leaves_open_is_planned_by_nobody(self):
        visit = self.new_visit()["id"]
        places = [(15, 15, "free"), (205, 15, "stuck"), (205, 205, "slight"), (15, 205, "free")]
        points = [{"x": x, "y": y, "value": 0.1, "feel": feel} for x, y, feel in places]
        body = {"client_key": key(), "by_hand": {"way": "paper", "points": points}}
        survey = self.ask("POST", f"/api/visits/{visit}/surveys", body, status=201)
        self.assertEqual((survey["verdict"], survey["word"]), ("open", "Not known yet"))
        self.assertLess(survey["spread"], 0.065)
        shown = self.ask("GET", f"/api/surveys/{survey['id']}/map")
        self.assertEqual(shown["figures"]["open"], [True, True, False, True])
        self.assertTrue(shown["unknown"])
        for path in ("plan", "left"):
            self.ask("GET", f"/api/surveys/{survey['id']}/{path}", status=409)
        route = {s["name"]: s for s in self.ask("GET", f"/api/visits/{visit}")["route"]}
        self.assertEqual(route["level"]["state"], "doing")
        # with another first layer it is as little known
        now = self.ask("GET", f"/api/visits/{visit}")
        thick = {"version": now["version"], "first_layer": 0.4}
        changed = self.ask("PATCH", f"/api/visits/{visit}", thick)
        self.assertEqual(changed["rounds"][0]["survey"]["verdict"], "open")
        line = self.ask("GET", "/api/logbook?kind=survey")["entries"][0]
        self.assertIn("at least", line["title"])

    def test_lowered_until_it_drags_is_a_plan_at_once(self):
        visit = self.new_visit()["id"]
        heights = {(15, 15): 0.5, (205, 15): 0.1, (205, 205): -0.1, (15, 205): 0.3, (110, 110): 0.2}
        points = [{"x": x, "y": y, "value": round(h + 0.1, 2)} for (x, y), h in heights.items()]
        hand = {"way": "lowered", "points": points, "thickness": 0.1, "step": 0.025}
        body = {"client_key": key(), "by_hand": hand}
        survey = self.ask("POST", f"/api/visits/{visit}/surveys", body, status=201)
        self.assertEqual((survey["source"], survey["verdict"]), ("lowered", "turn"))
        plan = self.ask("GET", f"/api/surveys/{survey['id']}/plan")
        self.assertLess(plan["spread_after"], 0.1)
        self.assertNotIn("17", plan["outlook"]["sentence"])

    def test_a_mesh_by_hand_for_a_machine_without_a_probe(self):
        printer = self.new_printer(name="Mesh", probe_kind="none", compensation="mesh")["id"]
        visit = self.new_visit(printer)["id"]
        asked = self.ask("GET", f"/api/printers/{printer}/pattern?kind=grid&columns=4&rows=3&inset=20")
        self.assertEqual((len(asked["points"]), len(asked["names"])), (12, 12))
        self.assertEqual(asked["names"][0], "front left")
        points = [p | {"value": round(0.1 + (p["x"] - 110) ** 2 / 1e5, 3)} for p in asked["points"]]
        hand = {"way": "lowered", "points": points, "thickness": 0.1, "step": 0.01}
        body = {"client_key": key(), "by_hand": hand}
        survey = self.ask("POST", f"/api/visits/{visit}/surveys", body, status=201)["id"]
        made = self.ask("GET", f"/api/surveys/{survey}/compensation?columns=4&rows=3")
        self.assertEqual((made["columns"], made["rows"]), (4, 3))
        self.assertIn("M421", made["commands"])

    def test_one_way_at_a_time(self):
        visit = self.new_visit()["id"]
        body = {"client_key": key(), "points": tilted_points(0.1), "text": "1 2 3"}
        self.ask("POST", f"/api/visits/{visit}/surveys", body, status=422)

    def test_a_binary_file_and_every_download(self):
        printer = self.new_printer()
        visit = self.new_visit(printer["id"])["id"]
        grid = Survey.from_grid([15, 110, 205], [15, 205], [[0.1, 0, -0.1], [0.05, 0, 0.02]])
        file = base64.b64encode(survey_sdf(grid, binary=True)).decode()
        preview = self.ask("POST", f"/api/printers/{printer['id']}/preview", {"file": file})["preview"]
        self.assertEqual((preview["columns"], preview["rows"]), (3, 2))
        survey = self.ask(
            "POST", f"/api/visits/{visit}/surveys", {"client_key": key(), "file": file}, status=201
        )["id"]
        self.ask("POST", f"/api/printers/{printer['id']}/preview", {"file": "%%%"}, status=422)
        for form, mark in (("csv", b"x_mm"), ("json", b"{"), ("sdf", b"aISO"), ("bsdf", b"bISO")):
            answer = self.client.get(f"/api/surveys/{survey}/readings.{form}")
            self.assertTrue(answer.data.startswith(mark), form)
            again = {"client_key": key(), "file": base64.b64encode(answer.data).decode()}
            back = self.ask("POST", f"/api/visits/{visit}/surveys", again, status=201)
            self.assertEqual((back["count"], round(back["spread"], 9)), (6, 0.2))
        self.assertEqual(self.client.get(f"/api/surveys/{survey}/readings.xls").status_code, 404)

    def test_scattered_readings_have_no_sdf(self):
        visit = self.new_visit()["id"]
        points = [{"x": x, "y": y, "value": 0} for x, y in ((10, 10), (200, 15), (100, 190))]
        survey = self.new_survey(visit, points=points)["id"]
        self.ask("GET", f"/api/surveys/{survey}/readings.sdf", status=422)

    def test_movement_between_two_surveys(self):
        visit = self.new_visit()["id"]
        cold, hot = (self.new_survey(visit, points=tilted_points(0.1, 0, bow))["id"] for bow in (0.0, 0.1))
        moved = self.ask("GET", f"/api/surveys/{hot}/movement?before={cold}")
        self.assertIn("The middle rose", moved["sentence"])
        other = self.new_survey(self.new_visit(self.new_printer(name="Other")["id"])["id"])["id"]
        self.ask("GET", f"/api/surveys/{hot}/movement?before={other}", status=422)


class PlanningTest(WebCase):
    def test_pattern_within_reach_and_advice(self):
        printer = self.new_printer(**LINE)["id"]
        pattern = self.ask("GET", f"/api/printers/{printer}/pattern?columns=5&rows=5&inset=10&by_probe=true")
        self.assertEqual(len(pattern["points"]), 25)
        self.assertGreaterEqual(min(p["x"] for p in pattern["points"]), 28)
        self.assertGreater(pattern["minutes"], 1)
        self.assertIn("Nothing is known", self.ask("GET", f"/api/printers/{printer}/advice")["sentence"])
        self.new_survey(self.new_visit(printer)["id"], (0.3, 0.1))
        advice = self.ask("GET", f"/api/printers/{printer}/advice")
        self.assertEqual(
            [o["columns"] for o in advice["options"] if o["advised"]], [2]
        )  # a plane needs no more


class JobTest(WebCase):
    def setUp(self):
        super().setUp()
        self.printer = self.new_printer(**LINE)["id"]
        self.visit = self.new_visit(self.printer)["id"]
        self.path = f"/api/printers/{self.printer}/jobs"

    def ask_for(self, **wanted):
        asked = self.ask("POST", f"{self.path}/ask", {"job": wanted})
        body = {"job": wanted, "client_key": key(), "token": asked["token"]}
        return self.ask("POST", self.path, body, status=201), body

    def test_nothing_begins_without_the_words_agreed_to(self):
        warm = {"kind": "heat", "bed": 60}
        self.ask("POST", self.path, {"job": warm, "client_key": key(), "token": "x"}, status=409)
        asked = self.ask("POST", f"{self.path}/ask", {"job": warm})
        self.assertTrue(asked["heats"])
        hotter = {"job": warm | {"bed": 100}, "client_key": key(), "token": asked["token"]}
        self.ask("POST", self.path, hotter, status=409)
        self.assertEqual(self.ask("GET", "/api/jobs")["jobs"], [])
        self.ask("POST", f"{self.path}/ask", {"job": {"kind": "heat", "bed": 140}}, status=422)

    def test_sent_again_it_is_begun_once(self):
        job, body = self.ask_for(kind="home", visit=self.visit)
        self.assertEqual(self.ask("POST", self.path, body, status=201)["id"], job["id"])
        self.assertEqual(len(self.ask("GET", "/api/jobs")["jobs"]), 1)
        asked = self.ask("POST", f"{self.path}/ask", {"job": {"kind": "cool"}})
        other = {"job": {"kind": "cool"}, "client_key": key(), "token": asked["token"]}
        self.assertIn("at work", self.ask("POST", self.path, other, status=409)["detail"])

    def test_a_job_nobody_takes(self):
        job, _ = self.ask_for(kind="home")
        self.assertIn("Waiting", self.ask("GET", f"/api/jobs/{job['id']}")["message"])
        with self.engine.begin() as link:
            link.execute(text("UPDATE job SET created_at = created_at - INTERVAL 1 MINUTE"))
        self.assertIn("finchwort link", self.ask("GET", f"/api/jobs/{job['id']}")["message"])

    def test_watched_stopped_and_kept(self):
        job, _ = self.ask_for(kind="grid", visit=self.visit, columns=3, rows=3)
        with self.sessions.begin() as session:
            mine = jobs.claim_job(session, "me")
            for place, (x, y) in enumerate(mine.params["points"][:4]):
                jobs.add_reading(session, mine.id, place, x, y, 0.01 * place, 5.0 * place)
            jobs.tell_progress(session, mine.id, "me", done=4, live={"bed": 60.0})
            jobs.add_lines(session, mine.id, [(lines.db_now(session), ">", "G28")])
        shown = self.ask("GET", f"/api/jobs/{job['id']}")
        self.assertEqual(
            (shown["done"], shown["seconds_left"], len(shown["touches"]), len(shown["points"])),
            (4, 40.0, 4, 9),
        )
        self.assertEqual(self.ask("GET", f"/api/jobs/{job['id']}/conversation")["lines"][0]["text"], "G28")
        self.ask("POST", f"/api/jobs/{job['id']}/keep", status=409)
        self.ask("POST", f"/api/jobs/{job['id']}/stop", {"how": "soft"})
        self.assertEqual(self.ask("GET", f"/api/jobs/{job['id']}")["stopping"], "soft")
        with self.sessions.begin() as session:
            jobs.end_job(session, jobs.get_job(session, job["id"]), "stopped", "Stopped.")
        self.ask("POST", f"/api/jobs/{job['id']}/stop", {"how": "now"}, status=409)
        shown = self.ask("GET", f"{self.path}")["jobs"][0]
        self.assertTrue(shown["can_resume"] and shown["can_keep"])
        asked = self.ask("POST", f"{self.path}/ask", {"job": {"kind": "grid", "resume": job["id"]}})
        self.assertIn("the 5 places that are left", asked["sentence"])
        kept = self.ask("POST", f"/api/jobs/{job['id']}/keep")
        self.assertIn("4 readings stored", kept["message"])
        self.assertEqual(self.ask("GET", f"/api/visits/{self.visit}")["rounds"][0]["survey"]["count"], 4)
        self.assertIn("after 4 of 12", self.ask("GET", "/api/logbook?kind=job")["entries"][0]["title"])

    def test_what_is_not_there(self):
        self.ask("GET", "/api/jobs/99", status=404)
        self.ask("POST", "/api/jobs/99/stop", {"how": "now"}, status=404)
        self.ask("POST", f"{self.path}/ask", {"job": {"kind": "grid", "resume": 99}}, status=404)

    def test_a_kind_of_job_takes_only_what_belongs_to_it(self):
        for wish, where in (
            ({"kind": "home", "bed": 60}, "job.bed"),
            ({"kind": "heat", "bed": "hot"}, "job.bed"),
            ({"kind": "trim"}, "job.value"),
            ({"kind": "dance"}, "job"),
        ):
            with self.subTest(wish):
                refused = self.ask("POST", f"{self.path}/ask", {"job": wish}, status=422)
                self.assertEqual([error["field"] for error in refused["errors"]], [where])
                self.assertTrue(refused["detail"].endswith("."), refused["detail"])


class StraightedgeTest(WebCase):
    def lay(self, visit, way, gaps, status=201, **more):
        length = {"x": 220, "y": 220, "up": 311, "down": 311}[way]
        places = [round(length * share) for share in (0, 0.25, 0.5, 0.75, 1)]
        line = {"kind": "line", "what": "plate", "positions": places, "gaps": gaps, "direction": way}
        body = {"client_key": key(), "test": line | more}
        return self.ask("POST", f"/api/visits/{visit}/tests", body, status=status)

    def edges(self, visit, query=""):
        return self.ask("GET", f"/api/visits/{visit}/straightedge{query}")

    def test_lines_make_one_picture_and_stand_beside_the_survey(self):
        visit = self.new_visit(self.new_printer()["id"])["id"]
        self.assertEqual(self.edges(visit)["lines"], [])
        sag = [0, 0.075, 0.1, 0.075, 0]
        self.lay(visit, "x", sag, across=110)
        found = self.edges(visit)
        self.assertIsNone(found["relief"])
        self.assertEqual(found["missing"], ["y", "up"])
        self.lay(visit, "y", [0, 0, 0, 0, 0])
        found = self.edges(visit)
        self.assertIsNotNone(found["relief"])
        self.assertIn("sagging by 0.10", found["sentence"])
        self.assertIsNone(found["lines"][0]["survey"])
        # a survey that shows a crown where the edge shows a sag
        self.new_survey(visit, points=tilted_points(0.2, 0, 0.1))
        said = [one["survey"] for one in self.edges(visit)["lines"]]
        self.assertIn("beam bends", said[0])

    def test_plate_and_carrier_are_compared_the_same_way_round(self):
        visit = self.new_visit(self.new_printer()["id"])["id"]
        sag = [0, 0.075, 0.1, 0.075, 0]
        self.lay(visit, "x", sag)
        across = self.lay(visit, "y", sag, what="carrier")
        self.assertIsNone(across["line"]["compared"])
        along = self.lay(visit, "x", sag, what="carrier")
        self.assertIn("bend alike", along["line"]["compared"])
        self.assertEqual(len(self.edges(visit, "?what=carrier")["lines"]), 2)

    def test_a_line_beside_the_bed_is_refused(self):
        visit = self.new_visit(self.new_printer()["id"])["id"]
        self.lay(visit, "x", [0, 0, 0, 0, 0], status=422, across=900)
        self.lay(visit, "y", [0, 0, 0, 0, 0], status=422, positions=[0, 100, 200, 300, 400])
