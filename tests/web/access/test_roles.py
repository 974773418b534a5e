"""Every role at every route: asked of the running application, and held against the table that is in the docs.

``python -m tests.web.access.test_roles`` writes the table anew; what changed in it is to be read before it is committed.
"""

import re
import sys
from pathlib import Path

from finchwort.services.access import devices
from finchwort.web.access import guard
from tests.fixtures.shared import SharedCase

TABLE = Path(__file__).parents[3] / "docs" / "roles.md"
HEAD = """# Every role at every route

Made by asking the application itself; a test holds it against what the application does now.
`yes`: the request is let through; `no`: refused (403). The computer that Finchwort runs on is the owner. A device that is not let in gets
the page that asks for a code, or 401, at every route. A job that heats or moves a machine needs a member or the owner, whatever this table says of
`/jobs`: that is looked at when it is known what it does.

| route | viewer | bench | member | owner |
|---|---|---|---|---|
"""
ORDER = ("viewer", "bench", "member", "owner")


class RolesTest(SharedCase):
    def rows(self):
        """Ask every route as every role; nothing there is found, so nothing is done."""
        clients = {role: self.device(role, role) for role in ORDER}
        found = []
        for rule in sorted(
            self.shared.url_map.iter_rules(), key=lambda rule: (rule.rule, sorted(rule.methods))
        ):
            for method in sorted(rule.methods - {"HEAD", "OPTIONS"}):
                path = re.sub(r"<[^>]*>", "999999", rule.rule)
                answers = {}
                for role, client in clients.items():
                    body = None if method in ("GET", "DELETE") else {"nothing": "known"}
                    answer = self.call(client, method, path, body)
                    self.assertNotIn(answer.status_code, (401, 500), (method, path, role))
                    answers[role] = "no" if answer.status_code == 403 else "yes"
                found.append((method, rule.rule, answers))
        return found

    def table(self):
        lines = [
            f"| `{m} {rule}` | {' | '.join(may[role] for role in ORDER)} |" for m, rule, may in self.rows()
        ]
        return HEAD + "\n".join(lines) + "\n"

    def test_the_table(self):
        self.assertEqual(self.table(), TABLE.read_text())

    def test_what_no_table_may_say(self):
        for method, rule, may in self.rows():
            with self.subTest(f"{method} {rule}"):
                granted = [may[role] for role in ORDER]
                self.assertEqual(granted, sorted(granted), "a lesser role may more than a greater one")
                self.assertEqual(may["owner"], "yes")
                if method == "DELETE" or rule.endswith("/restore"):
                    self.assertEqual((may["viewer"], may["bench"]), ("no", "no"))
                if re.search(r"device|pairing|audit|sharing|backups|/demo", rule):
                    self.assertEqual(may["member"], "no")
                if method != "GET" and may["viewer"] == "yes":
                    self.assertRegex(rule, r"/stop$|preview$|what-if$|suggestions$")

    def test_the_computer_itself_is_the_owner(self):
        self.assertEqual(
            self.ask("GET", "/api/me"),
            {
                "name": None,
                "role": "owner",
                "may": sorted(["look", "stop", "record", "change", "delete", "command", "own"]),
            },
        )
        self.assertEqual(devices.ROLES, ("owner", "member", "viewer", "bench"))
        self.assertTrue(guard.COOKIE.startswith("__Host-"))


if __name__ == "__main__":
    case = RolesTest("table")
    RolesTest.setUpClass()
    case.setUp()
    TABLE.write_text(case.table())
    RolesTest.tearDownClass()
    sys.exit()
