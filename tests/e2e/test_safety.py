"""Nothing is lost: reloads, two tabs, undo, a server that goes away."""

from playwright.sync_api import expect

from finchwort.runtime.parts import start_web, stop
from tests.fixtures.api import ApiMixin
from tests.fixtures.browser import BrowserCase


class ReloadTest(ApiMixin, BrowserCase):
    def test_half_typed_readings_survive(self):
        self.allowed_errors = ("422",)  # two pasted lines are refused by the server, as they should be
        _, visit = self.printer_and_visit()
        page = self.page
        self.type_readings(visit, "0.12", "0.05", "-0.02", "0.1")
        page.locator("#reading").fill("0.0")
        page.reload()
        page.get_by_text("Reading 5 of 9").wait_for()
        expect(page.locator("#reading")).to_have_value("0.0")
        self.see("Store these 5 readings")
        page.get_by_text("Paste or drop text").click()
        page.get_by_label("Paste your readings, or drop a file here").fill("15 15 0.1\n200")
        page.reload()
        expect(page.get_by_label("Paste your readings, or drop a file here")).to_have_value("15 15 0.1\n200")

    def test_accepted_readings_are_not_typed_twice(self):
        _, visit = self.printer_and_visit()
        page = self.page
        self.type_readings(visit, "0.12", "0.05", "-0.02", "0.1")
        self.press("Store these 4 readings")
        page.wait_for_url("**/judge")
        page.reload()
        self.see("0.14 mm")
        self.go(f"/visits/{visit['id']}/measure")
        expect(page.locator("#reading")).to_have_value("")
        self.assertEqual(len(self.get(f"/api/visits/{visit['id']}")["rounds"]), 1)

    def test_readings_on_one_line_are_waited_with(self):
        _, visit = self.printer_and_visit()
        self.type_readings(visit, "0.12", "0.05", "-0.02")
        self.see("All readings lie on one line")
        expect(self.page.get_by_role("button", name="Store these 3 readings")).to_be_disabled()
        self.page.locator("#reading").fill("0.1")
        self.page.keyboard.press("Enter")
        self.see("0.14 mm from highest to lowest so far.")

    def test_a_wrong_value_is_told_at_the_field(self):
        _, visit = self.printer_and_visit()
        self.go(f"/visits/{visit['id']}/measure")
        self.page.locator("#reading").fill("0.1.2")
        self.page.keyboard.press("Enter")
        self.see("“0.1.2” is not a number.")
        expect(self.page.locator("#reading")).to_have_value("0.1.2")


class ServerAwayTest(ApiMixin, BrowserCase):
    allowed_errors = ("Failed to load resource", "net::ERR")
    own_server = True

    def test_readings_stay_while_the_server_is_away(self):
        _, visit = self.printer_and_visit()
        page = self.page
        self.type_readings(visit, "0.12", "0.05", "-0.02", "0.1")
        self.see("from highest to lowest so far")
        stop(self.web)
        self.press("Store these 4 readings")
        self.see("Finchwort does not answer.")
        # it stores by itself when the server is back, and says so quietly
        type(self).web = start_web(self.port, self.url.render_as_string(), workers=1)
        page.wait_for_url("**/judge")
        self.see("Finchwort is back, and what waited is stored. 4 readings stored.")
        expect(page.get_by_role("button", name="Undo", exact=True)).to_be_visible()
        self.assertEqual(len(self.get(f"/api/visits/{visit['id']}")["rounds"]), 1)

    def test_whoever_does_not_wait_keeps_what_was_typed(self):
        _, visit = self.printer_and_visit()
        page = self.page
        self.type_readings(visit, "0.12", "0.05", "-0.02", "0.1")
        self.see("from highest to lowest so far")
        stop(self.web)
        self.press("Store these 4 readings")
        self.press("Do not wait")
        self.see("Nothing you typed is lost.")
        type(self).web = start_web(self.port, self.url.render_as_string(), workers=1)
        self.press("Store these 4 readings")
        page.wait_for_url("**/judge")
        self.assertEqual(len(self.get(f"/api/visits/{visit['id']}")["rounds"]), 1)


class LostAnswerTest(ApiMixin, BrowserCase):
    """The readings were stored, but the answer never came back."""

    allowed_errors = ("Failed to load resource", "net::ERR")

    def lose_the_answer(self):
        _, visit = self.printer_and_visit()
        page = self.page
        self.type_readings(visit, "0.12", "0.05", "-0.02", "0.1")
        self.see("from highest to lowest so far")

        def lose(route):
            route.fetch()
            route.abort()

        page.route("**/surveys", lose, times=1)
        page.route("**/health", lambda route: route.abort())
        self.press("Store these 4 readings")
        self.see("Finchwort does not answer.")
        return visit

    def rounds(self, visit):
        return [one["survey"]["count"] for one in self.get(f"/api/visits/{visit['id']}")["rounds"]]

    def test_sent_again_they_are_stored_once(self):
        visit = self.lose_the_answer()
        self.page.unroute("**/health")
        self.page.wait_for_url("**/judge")
        self.assertEqual(self.rounds(visit), [4])

    def test_with_one_more_reading_nothing_is_dropped(self):
        visit = self.lose_the_answer()
        self.press("Do not wait")
        self.see("Nothing you typed is lost.")
        self.page.unroute("**/health")
        self.page.locator("#reading").fill("0.07")
        self.page.keyboard.press("Enter")
        self.press("Store these 5 readings")
        self.page.wait_for_url("**/judge")
        self.assertEqual(self.rounds(visit), [4, 5])


class TwoTabsTest(ApiMixin, BrowserCase):
    allowed_errors = ("409",)

    def open_both(self, path):
        other = self.new_page(self.context)
        # what the one stores has not come to the other yet
        self.context.route("**/api/written", lambda route: route.fulfill(status=304))
        self.go(path)
        self.go(path, other)
        return self.page, other

    def test_printer_set_up(self):
        printer, _ = self.printer_and_visit()
        mine, other = self.open_both(f"/printers/{printer['id']}/edit")
        other.get_by_label("Name", exact=True).fill("Theirs")
        self.press("Save the set-up", other)
        self.see("The set-up is saved.", other)
        mine.get_by_label("Name", exact=True).fill("Mine")
        self.press("Save the set-up", mine)
        dialog = mine.get_by_role("dialog", name="Changed elsewhere")
        dialog.get_by_role("row", name="Name Mine Theirs").wait_for()
        self.assertEqual(self.get(f"/api/printers/{printer['id']}")["printer"]["name"], "Theirs")
        dialog.get_by_role("button", name="Take theirs").click()
        expect(mine.locator("#name")).to_have_value("Theirs")
        mine.get_by_label("Name", exact=True).fill("Both")
        self.press("Save the set-up", mine)
        self.see("The set-up is saved.", mine)
        self.assertEqual(self.get(f"/api/printers/{printer['id']}")["printer"]["name"], "Both")

    def test_setup_bar(self):
        _, visit = self.printer_and_visit()
        mine, other = self.open_both(f"/visits/{visit['id']}/measure")
        for page in (mine, other):
            page.get_by_role("button", name="Change surface").click()
            page.locator("#surface").wait_for()
        for page, name in ((mine, "Tape"), (other, "Glass")):
            self.choose("#surface", "another one …", page)
            page.locator("#surface-own").fill(name)
        self.press("Save", other)
        self.see("Saved. The judgements follow it.", other)
        self.press("Save", mine)
        self.see("Theirs:", mine)
        self.assertEqual(self.get(f"/api/visits/{visit['id']}")["surface"], "Glass")
        self.press("Save mine instead", mine)
        self.see("Saved. The judgements follow it.", mine)
        self.assertEqual(self.get(f"/api/visits/{visit['id']}")["surface"], "Tape")

    def test_a_turning_recorded_in_another_tab(self):
        _, visit = self.printer_and_visit()
        self.survey(visit, 0.5)
        mine, other = self.open_both(f"/visits/{visit['id']}/level")
        self.press("I did this", other)
        other.wait_for_url("**/measure")
        self.press("I did this", mine)
        self.see("is recorded already", mine)
        self.assertEqual(len(self.get("/api/logbook?kind=turning")["entries"]), 1)


class UndoTest(ApiMixin, BrowserCase):
    def test_an_answer_from_before_the_change_is_not_shown(self):
        printer, _ = self.printer_and_visit()
        self.go(f"/printers/{printer['id']}")
        before, held = self.get("/api/workshop"), []

        def hold_back_the_first(route):
            held.append(route)
            if len(held) > 1:
                route.continue_()

        self.page.route("**/api/workshop", hold_back_the_first)
        self.press("Delete")
        self.press("Delete it")
        self.see("Reed was deleted with its visits.")
        self.assertEqual(before["cards"][0]["printer"]["name"], "Reed")
        held[0].fulfill(json=before)
        self.see("Begin with your printer")
        self.settle()
        expect(self.page.get_by_role("link", name="Reed")).to_have_count(0)

    def test_a_deleted_printer_comes_back(self):
        printer, _ = self.printer_and_visit()
        self.go(f"/printers/{printer['id']}")
        self.press("Delete")
        self.press("Delete it")
        self.see("Reed was deleted with its visits.")
        self.see("Begin with your printer")
        self.press("Undo")
        self.see("Undone.")
        self.page.get_by_role("link", name="Reed").wait_for()

    def test_a_deleted_visit_survey_turning_and_note(self):
        _, visit = self.printer_and_visit()
        survey = self.survey(visit, 0.5)
        self.post(
            f"/api/surveys/{survey['id']}/turnings", {"client_key": "12345678", "done": {"front left": 0.5}}
        )
        page = self.page
        self.go(f"/visits/{visit['id']}/finish")
        self.press("Take this back")
        self.see("taken back from the records")
        self.press("Undo")
        self.see("Then turned")
        self.press("Take this back")
        page.get_by_text("Then turned").wait_for(state="hidden")
        self.press("Delete this survey")
        self.see("Nothing to conclude yet")
        self.press("Undo")
        self.see("Where it stands")
        self.press("Delete this visit")
        page.wait_for_url("**/printers/*")
        self.see("No visit yet.")
        self.press("Undo")
        page.get_by_text("1 survey").wait_for()

        self.go("/logbook")
        page.get_by_label("Note", exact=True).fill("Order springs")
        self.press("Put it in the book")
        page.get_by_role("button", name="Delete the note: Order springs").click()
        self.see("The note was deleted.")
        self.press("Undo")
        page.get_by_role("button", name="Delete the note: Order springs").wait_for()
