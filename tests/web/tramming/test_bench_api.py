"""Levelling at the bench, offsets by paper, looks and zero by hand over the API."""

from tests.fixtures.support import WebCase, key


class BenchCase(WebCase):
    def setUp(self):
        super().setUp()
        self.printer = self.new_printer()["id"]
        self.visit = self.new_visit(self.printer)["id"]

    def bench(self):
        return self.ask("GET", f"/api/visits/{self.visit}/bench")

    def step(self, what, place, status=200, **more):
        body = {"client_key": key(), "what": what, "place": place} | more
        return self.ask("POST", f"/api/visits/{self.visit}/bench", body, status=status)

    def undo(self, status=200):
        return self.ask("POST", f"/api/visits/{self.visit}/bench/undo", {}, status=status)

    def finish(self, status=201, mine=None):
        body = {"client_key": mine or key()}
        return self.ask("POST", f"/api/visits/{self.visit}/bench/finish", body, status=status)

    def changes(self):
        return self.ask("GET", f"/api/printers/{self.printer}/changes")["since"]


class BenchTest(BenchCase):
    def test_from_the_first_feel_to_a_survey(self):
        begun = self.bench()
        self.assertEqual((begun["ask"], begun["phase"], begun["passes"]), ("feel", "corners", 1))
        self.assertEqual([p["name"] for p in begun["places"]][-1], "centre")
        stuck = self.step("feel", 0, feel="stuck")
        self.assertEqual((stuck["ask"], stuck["turn"]["action"]), ("turn", "tighten"))
        self.assertIn(stuck["turn"]["direction"], ("clockwise", "counterclockwise"))
        self.assertEqual(self.changes(), [])
        now = self.step("drag", 0)
        # whatever was measured before no longer holds
        self.assertEqual([c["what"] for c in self.changes()], ["knobs"])
        for _ in range(20):
            if now["ask"] == "done":
                break
            self.assertEqual(now["ask"], "feel")
            now = self.step("feel", now["place"], feel="slight")
        self.assertIn("level within", now["sentence"])
        self.assertLess(now["low"], now["high"])
        mine = key()
        survey = self.finish(mine=mine)
        self.assertEqual((survey["source"], survey["count"]), ("bench", 5))
        self.assertIn(survey["verdict"], ("level", "compensate"))
        self.assertEqual(self.finish(mine=mine)["id"], survey["id"])
        # the next levelling begins afresh
        self.assertEqual(self.bench()["steps"], [])

    def test_it_is_left_and_resumed_and_undone(self):
        self.step("feel", 2, feel="free")
        self.step("drag", 2)
        self.assertEqual(len(self.bench()["steps"]), 2)
        self.assertEqual(len(self.undo()["steps"]), 1)
        self.assertEqual(self.changes(), [])
        self.assertEqual(self.bench()["ask"], "turn")
        self.step("drag", 2)
        self.assertEqual([c["what"] for c in self.changes()], ["knobs"])
        for _ in range(2):
            self.undo()
        self.undo(status=409)

    def test_a_step_sent_again_is_one_step(self):
        mine = key()
        self.step("feel", 1, feel="free", client_key=mine)
        self.step("feel", 1, feel="free", client_key=mine)
        self.assertEqual(len(self.bench()["steps"]), 1)
        self.step("feel", 1, feel="stuck", client_key=mine, status=409)

    def test_a_centre_that_is_only_bounded_is_not_level(self):
        now = self.bench()
        while now["phase"] != "centre":
            now = self.step("feel", now["place"], feel="slight")
        now = self.step("feel", 4, feel="free")
        self.assertTrue(now["open"])
        self.assertIn("no knob takes it out", now["shape"])
        survey = self.finish()
        self.assertEqual(survey["verdict"], "open")
        self.ask("DELETE", f"/api/surveys/{survey['id']}")
        # deleted, the session goes on where it was
        self.assertEqual(self.bench()["ask"], "done")
        read = self.step("read", 4, value=-0.06)
        self.assertFalse(read["open"])
        self.assertIn("lower than the corners", read["shape"])
        self.assertNotEqual(self.finish()["verdict"], "open")

    def test_a_bed_that_does_not_settle_is_not_stored_as_known(self):
        for i in range(24):
            self.step("feel", i % 4, feel="slight")
        self.step("feel", 0, feel="free")
        self.step("turn", 0, turns=-3)
        now = self.step("feel", 0, feel="slight")
        self.assertEqual(now["phase"], "centre")
        now = self.step("feel", 4, feel="slight")
        self.assertTrue(any(p["feel"] is None and p["sd"] > 0.035 for p in now["places"]))
        body = {"client_key": key()}
        answer = self.ask("POST", f"/api/visits/{self.visit}/bench/finish", body, status=409)
        self.assertIn("Feel it once more", answer["detail"])

    def test_those_who_count_are_told_eighths(self):
        now = self.step("feel", 0, feel="free")
        self.assertEqual((now["turn"]["bold"], now["turn"]["bold_figures"]), (-0.5, "4/8"))
        self.step("turn", 0, turns=-0.5)
        now = self.step("feel", 0, feel="stuck")
        self.assertEqual(now["turn"]["bold"], 0.25)

    def test_what_cannot_be(self):
        self.finish(status=409)
        for body in (
            {"what": "feel", "place": 0},
            {"what": "feel", "place": 8, "feel": "free"},
            {"what": "drag", "place": 4},
            {"what": "turn", "place": 0},
            {"what": "read", "place": 4, "value": 9},
            {"what": "read", "place": 4},
        ):
            with self.subTest(body):
                self.step(status=422, **body)
        bare = self.new_printer(name="Bare", screws=[])["id"]
        visit = self.new_visit(bare)["id"]
        self.ask("GET", f"/api/visits/{visit}/bench", status=409)
        self.step("feel", 0, feel="slight")
        self.new_survey(self.visit)
        self.ask("POST", f"/api/visits/{self.visit}/finish", {})
        self.step("feel", 0, feel="slight", status=409)


class OffsetByPaperTest(BenchCase):
    def offset(self, value=-1.0):
        body = {"client_key": key(), "parts": {"printer": value}, "visit_id": self.visit}
        return self.ask("POST", f"/api/printers/{self.printer}/offset", body, status=201)

    def paper(self, feel, z, status=200, **more):
        body = {"client_key": key(), "z": z, "feel": feel, "thickness": 0.1} | more
        return self.ask("POST", f"/api/visits/{self.visit}/offset/paper", body, status=status)

    def known(self):
        return self.ask("GET", f"/api/visits/{self.visit}/offset/known")

    def test_a_stuck_strip_goes_up_and_gives_no_number(self):
        self.offset()
        self.assertEqual(self.known()["step"], "feel")
        found = self.paper("stuck", 0.0)
        self.assertEqual(
            (found["step"], found["next_z"], found["value"], found["parts"]), ("up", 0.1, None, {})
        )
        found = self.paper("stuck", 0.1)
        self.assertEqual(found["next_z"], 0.2)
        found = self.paper("slight", 0.3)
        self.assertEqual(found["step"], "type")
        self.assertAlmostEqual(found["closer"], -0.2, delta=0.02)
        # negative is closer here: farther is less negative
        self.assertAlmostEqual(found["value"], -0.8, delta=0.02)
        self.assertEqual(len(self.known()["clues"]), 3)
        self.ask("DELETE", f"/api/trials/{found['trial']}")
        self.assertEqual(self.known()["step"], "up")

    def test_a_stuck_strip_stops_files_and_the_line(self):
        port = "socket://127.0.0.1:9"
        self.printer = self.new_printer(name="Line", port=port)["id"]
        self.visit = self.new_visit(self.printer)["id"]
        self.offset(-1.0)
        look = {"client_key": key(), "what": "clear", "visit_id": self.visit}
        self.ask("POST", f"/api/printers/{self.printer}/changes", look, status=201)
        strip = self.ask("GET", f"/api/visits/{self.visit}")
        warm = {"version": strip["version"], "bed_temperature": 60, "nozzle_temperature": 205}
        self.ask("PATCH", f"/api/visits/{self.visit}", warm)
        path = f"/api/visits/{self.visit}/test-print?kind=patches"
        self.ask("GET", path)
        closer = {"job": {"kind": "trim", "value": 0.02}}
        self.ask("POST", f"/api/printers/{self.printer}/jobs/ask", closer)
        self.paper("stuck", 0.1)
        self.assertIn("would not move", self.ask("GET", path, status=409)["detail"])
        for way in ("ladder", "judged-bed"):
            self.ask("GET", f"/api/visits/{self.visit}/{way}", status=409)
        self.ask("GET", path.replace("patches", "paper_walk"))
        refused = self.ask("POST", f"/api/printers/{self.printer}/jobs/ask", closer, status=409)
        self.assertIn("nothing brings the tip down", refused["detail"])
        self.ask("POST", f"/api/printers/{self.printer}/jobs/ask", {"job": {"kind": "trim", "value": -0.02}})
        looked = {"client_key": key(), "looks": {"middle": "good"}}
        self.ask("POST", f"/api/visits/{self.visit}/looks", looked)
        self.ask("POST", f"/api/printers/{self.printer}/jobs/ask", closer)

    def test_free_gives_no_number_either(self):
        self.offset()
        found = self.paper("free", 0.1)
        self.assertEqual((found["step"], found["value"], found["low"]), ("lower", None, None))
        self.assertLess(found["next_z"], 0.1)
        found = self.paper("slight", -0.05, step=0.05)
        self.assertEqual(found["step"], "type")
        self.assertGreater(found["closer"], 0.1)
        self.assertLess(found["value"], -1.1)
        self.assertTrue(found["low"] < found["closer"] < found["high"])

    def test_calipers_and_their_zero(self):
        self.offset()
        plain = self.paper("slight", 0.0)
        self.ask("DELETE", f"/api/trials/{plain['trial']}")
        measured = self.paper("slight", 0.0, thickness=0.12, measured=True, caliper_zero=0.02)
        self.assertAlmostEqual(measured["closer"], plain["closer"], delta=0.011)
        self.assertLess(measured["high"] - measured["low"], plain["high"] - plain["low"])
        self.paper("slight", 0.0, thickness=0.02, measured=True, caliper_zero=0.1, status=422)
        self.paper("slight", 90, status=422)

    def test_patches_join_paper_and_a_written_offset_moves_both(self):
        self.offset()
        paper = self.paper("slight", 0.0)
        patch = {"x": 110, "y": 110, "commanded": 0.2, "thickness": [0.28, 0.29, 0.28, 0.29]}
        body = {"client_key": key(), "patches": [patch], "caliper_zero": 0.0}
        both = self.ask("POST", f"/api/visits/{self.visit}/offset/patches", body)
        self.assertEqual(len(both["clues"]), 2)
        self.assertLess(both["high"] - both["low"], paper["high"] - paper["low"])
        self.offset(both["value"])
        after = self.known()
        self.assertEqual(after["step"], "leave")
        self.assertAlmostEqual(after["low"] + both["closer"], both["low"], delta=0.01)

    def test_zero_kept_by_knobs_and_switch(self):
        printer = self.ask("GET", f"/api/printers/{self.printer}")["printer"]
        for kept, word in (("knobs", "looser"), ("switch", "lower")):
            with self.subTest(kept):
                wide = self.new_printer(name=kept, zero_kept=kept)["id"]
                self.printer, self.visit = wide, self.new_visit(wide)["id"]
                self.offset(0.0)
                found = self.paper("slight", 0.0)
                self.assertEqual(found["by_hand"]["reason"], kept)
                self.assertIn(word, found["by_hand"]["sentence"])
                made = found["by_hand"]["closer"]
                body = {"client_key": key(), "parts": {"printer": 0.0}, "reason": kept, "by_hand": made}
                entry = self.ask(
                    "POST",
                    f"/api/printers/{self.printer}/offset",
                    body | {"visit_id": self.visit},
                    status=201,
                )
                self.assertAlmostEqual(entry["closer"], made)
                self.assertEqual(self.known()["step"], "leave")
        self.assertEqual(printer["zero_kept"], "")
        self.ask(
            "POST",
            f"/api/printers/{self.printer}/offset",
            {"client_key": key(), "parts": {"printer": 0.0}, "reason": "knobs"},
            status=422,
        )

    def test_after_turning_the_offset_that_keeps_the_first_layer(self):
        self.printer = self.new_printer(name="Post", zero_kept="switch")["id"]
        self.visit = self.new_visit(self.printer)["id"]
        self.offset(-1.25)
        survey = self.new_survey(self.visit)["id"]
        body = {"client_key": key(), "done": {"front left": 0.5}}
        self.ask("POST", f"/api/surveys/{survey}/turnings", body, status=201)
        keep = self.ask("GET", f"/api/visits/{self.visit}")["rounds"][-1]["turning"]["keep"]
        # the middle sank by a quarter of half a turn: the tip has to follow
        self.assertLess(keep["rise"], 0)
        self.assertAlmostEqual(keep["value"], round(-1.25 + keep["rise"], 2))
        self.assertIn("keeps your first layer", keep["sentence"])
        stored = {"client_key": key(), "parts": keep["parts"], "reason": "turned", "visit_id": self.visit}
        self.ask("POST", f"/api/printers/{self.printer}/offset", stored, status=201)
        self.assertIsNone(self.ask("GET", f"/api/visits/{self.visit}")["rounds"][-1]["turning"]["keep"])


class LooksTest(BenchCase):
    def look(self, status=200, printing=False, **looks):
        body = {
            "client_key": key(),
            "looks": {k.replace("_", " "): v for k, v in looks.items()},
            "printing": printing,
        }
        return self.ask("POST", f"/api/visits/{self.visit}/looks", body, status=status)

    def test_places_lie_in_rows_as_the_bed_does(self):
        told = self.ask("GET", f"/api/visits/{self.visit}/looks")
        places = {one["place"]: one for one in told["places"]}
        self.assertEqual(sorted(name for row in told["rows"] for name in row), sorted(places))
        for row in told["rows"]:
            xs = [places[name]["x"] for name in row]
            self.assertEqual(xs, sorted(xs))
            self.assertEqual(len({places[name]["y"] for name in row}), 1)
        heads = [places[row[0]]["y"] for row in told["rows"]]
        self.assertEqual(heads, sorted(heads, reverse=True))
        edges = {name for name, one in places.items() if one["edge"]}
        self.assertEqual(edges, {"front", "right", "back", "left"})

    def test_a_thin_corner_gets_its_knob(self):
        self.assertEqual(self.ask("GET", f"/api/visits/{self.visit}/looks")["what"], "look")
        found = self.look(front_left="too_close", middle="good", back_right="good", printing=True)
        self.assertEqual((found["what"], found["turn"]["name"]), ("turn", "front left"))
        self.assertEqual((found["turn"]["action"], found["turn"]["turns"]), ("tighten", 0.125))
        body = {"client_key": key(), "name": "front left", "turns": 0.125}
        after = self.ask("POST", f"/api/visits/{self.visit}/looks/turned", body)
        self.assertEqual(after["what"], "look")
        self.assertEqual([c["what"] for c in self.changes()], ["knobs"])
        # what was seen before the knob was turned says nothing any more
        self.assertEqual(self.ask("GET", f"/api/visits/{self.visit}/looks")["what"], "look")
        self.ask(
            "POST",
            f"/api/visits/{self.visit}/looks/turned",
            body | {"client_key": key(), "name": "tail"},
            status=409,
        )

    def test_a_good_middle_speaks_for_the_offset(self):
        body = {"client_key": key(), "parts": {"printer": -1.0}, "visit_id": self.visit}
        self.ask("POST", f"/api/printers/{self.printer}/offset", body, status=201)
        self.look(middle="good")
        known = self.ask("GET", f"/api/visits/{self.visit}/offset/known")
        self.assertEqual((known["step"], len(known["clues"])), ("leave", 1))

    def test_bad_looks(self):
        self.look(status=422)
        self.look(status=422, roof="good")
        self.look(status=422, middle="fine")
