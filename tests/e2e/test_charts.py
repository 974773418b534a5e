"""Runs over time and maps as pictures, as tables, and what is seen while the server is away."""

import csv
import io
import re
from xml.etree import ElementTree

from playwright.sync_api import expect

from tests.fixtures.api import ApiMixin
from tests.fixtures.browser import PHONE, BrowserCase
from tests.fixtures.support import key

TILTED = [(x, y, 0.002 * (x - 110)) for x in (15, 110, 205) for y in (15, 110, 205)]


class ChartTest(ApiMixin, BrowserCase):
    allowed_errors = ("ERR_FAILED", "ERR_ABORTED")  # the line is cut on purpose

    def measured(self, times=1):
        printer, visit = self.printer_and_visit()
        for share in range(times):
            points = [{"x": x, "y": y, "value": z / (share + 1)} for x, y, z in TILTED]
            self.post(f"/api/visits/{visit['id']}/surveys", {"client_key": key(), "points": points})
        return printer, visit

    def test_a_run_is_a_picture_and_a_table(self):
        page = self.page
        printer, _ = self.measured(2)
        self.go(f"/printers/{printer['id']}")
        run = page.get_by_role("region", name="From visit to visit")
        picture = run.locator(".paper")
        picture.scroll_into_view_if_needed()
        expect(picture).to_have_accessible_name(re.compile(r"^Variation at 1 visit: 0\.19 mm as left"))
        expect(picture.locator("svg text").first).to_be_visible()
        run.get_by_role("button", name="As a table").click()
        cells = run.locator("tbody tr").first.locator("td")
        expect(cells.nth(1)).to_have_text("0.38")
        expect(cells.nth(2)).to_have_text("0.19")
        run.get_by_role("button", name="Save the picture").click()
        with page.expect_download() as download:
            page.get_by_role("menuitem", name="As SVG").click()
        root = ElementTree.fromstring(download.value.path().read_text("utf-8"))
        words = " ".join(node.text or "" for node in root.iter("{http://www.w3.org/2000/svg}text"))
        self.assertIn("good up to", words)

    def test_a_chart_fits_a_phone(self):
        page = self.page
        printer, _ = self.measured()
        page.set_viewport_size(PHONE)
        self.go(f"/printers/{printer['id']}")
        picture = page.get_by_role("region", name="From visit to visit").locator(".paper")
        picture.scroll_into_view_if_needed()
        expect(picture.locator("svg")).to_be_visible()
        self.assertLessEqual(picture.locator("svg").bounding_box()["width"], PHONE["width"])

    def test_a_map_is_a_table_of_heights(self):
        page = self.page
        _, visit = self.measured()
        self.go(f"/visits/{visit['id']}/judge")
        page.get_by_role("button", name="The heights as a table").click()
        table = page.get_by_role("region", name="Map").locator(".table")
        expect(table.locator("tbody tr")).to_have_count(9)
        # the verdict is read before the figures
        expect(page.get_by_role("region", name="Map").locator(".fold p").first).to_contain_text(
            "Turn the screws"
        )
        link = table.get_by_role("link", name="Save as CSV")
        with page.expect_download() as download:
            link.click()
        rows = list(csv.DictReader(io.StringIO(download.value.path().read_text("utf-8"))))
        told = {(float(r["X, mm"]), float(r["Y, mm"])): float(r["Height, mm"]) for r in rows}
        middle = sum(told.values()) / len(told)
        for x, y, z in TILTED:
            self.assertAlmostEqual(told[x, y] - middle, z, places=3)

    def test_a_server_that_is_away_is_said_quietly(self):
        page = self.page
        self.measured()
        self.go("/")
        page.route("**/api/**", lambda route: route.abort())
        expect(page.locator("[data-away]")).to_contain_text("What you see may be old")
        expect(page.get_by_role("alert")).to_have_count(0)
        page.unroute("**/api/**")
        expect(page.locator("[data-away]")).to_have_count(0)
