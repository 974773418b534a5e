import gzip
import json
import subprocess
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from alembic.autogenerate import compare_metadata
from alembic.runtime.migration import MigrationContext
from sqlalchemy import event, inspect, text

from finchwort.demo.workshop import load_demo
from finchwort.services.upkeep import judge_again
from finchwort.services.visits.changes import record_change
from finchwort.store import migrate
from finchwort.store.database import make_engine, make_sessions
from finchwort.store.forms import known_forms
from finchwort.store.printers import printers
from finchwort.store.records import Base
from finchwort.store.visits import visits
from tests.fixtures import support

KILL_EVERY = 3
"""Of the steps, in the order in which they are first taken; 1 kills after each, which takes three times as long."""


class MigrationTest(unittest.TestCase):
    def setUp(self):
        self.engine = make_engine(support.new_database("test_migrations"))
        self.addCleanup(self.engine.dispose)

    def test_tables_are_those_of_the_models(self):
        with self.engine.connect() as link:
            context = MigrationContext.configure(link, opts={"compare_type": True})
            self.assertEqual(compare_metadata(context, Base.metadata), [])

    def test_every_form_is_known_without_its_migration_being_loaded(self):
        self.assertEqual(known_forms(), {script.revision for script in migrate.scripts()})

    def test_up_and_down_on_a_populated_database(self):
        support.fill_with_demo(self.engine)
        migrate.upgrade(self.engine)  # nothing to do, nothing lost
        with self.engine.connect() as link:
            self.assertGreater(link.scalar(text("SELECT COUNT(*) FROM reading")), 300)
        migrate.downgrade(self.engine, "base")
        left = set(inspect(self.engine).get_table_names()) - {"alembic_version"}
        self.assertEqual(left, set())
        migrate.upgrade(self.engine)
        self.assertEqual(migrate.current(self.engine), migrate.head())
        with make_sessions(self.engine).begin() as session:
            self.assertTrue(load_demo(session))

    def test_records_of_the_first_form_are_carried_over(self):
        """A printer and its visits of revision 0001 get usual values for what is new."""
        migrate.downgrade(self.engine, "0001")
        with self.engine.begin() as link:
            link.execute(
                text(
                    "INSERT INTO printer (created_at, changed_at, version, name, width, depth, origin, plate_width, "
                    "plate_depth, first_layer, thread_hand, knob_view, tightening_lowers, divisions, note) VALUES "
                    "(NOW(6), NOW(6), 1, 'Old', 220, 220, 'front_left', 220, 220, 0.2, 'right', 'behind', 1, 8, '')"
                )
            )
            link.execute(
                text(
                    "INSERT INTO visit (created_at, version, printer_id, started_at, surface, material, first_layer, note) "
                    "VALUES (NOW(6), 1, LAST_INSERT_ID(), NOW(6), 'Glass', 'PLA', 0.2, '')"
                )
            )
        migrate.upgrade(self.engine)
        with make_sessions(self.engine)() as session:
            old = printers.list_printers(session)[0]
            self.assertEqual(
                (old.pads, old.probe_kind, old.closer_is, old.port), ([], "none", "negative", "")
            )
            self.assertEqual((old.offset_kept, old.materials, old.surfaces), (["printer"], [], []))
            visit = visits.list_visits(session, old.id)[0]
            self.assertEqual((visit.surface, visit.surface_kind), ("Glass", ""))

    def test_foil_under_the_pads_is_carried_over(self):
        """Before 0012 what lay under a pad stood only in the newest record of it."""
        support.fill_with_demo(self.engine)
        migrate.downgrade(self.engine, "0011")
        with self.engine.begin() as link:
            rows = link.execute(text("SELECT id, pads FROM printer")).all()
            for printer, pads in rows:
                kept = [{k: v for k, v in pad.items() if k != "foils"} for pad in json.loads(pads)]
                link.execute(
                    text("UPDATE printer SET pads = :p WHERE id = :i"), {"p": json.dumps(kept), "i": printer}
                )
        migrate.upgrade(self.engine, after=judge_again)
        with make_sessions(self.engine)() as session:
            rail = next(p for p in printers.list_printers(session) if p.name == "Water Rail")
            stacks = {pad.name: pad.stack for pad in printers.pads_of(rail)}
        self.assertEqual(
            stacks, {"front left": (), "front right": (0.2,), "back right": (0.1,), "back left": ()}
        )

    def test_records_of_the_second_form_are_carried_over(self):
        """Printers and screws of revision 0002 get usual values, and nothing else changes."""
        support.fill_with_demo(self.engine)
        before = self.counts()
        migrate.downgrade(self.engine, "0002")
        self.assertNotIn("adjustment", inspect(self.engine).get_table_names())
        migrate.upgrade(self.engine, after=judge_again)
        after = self.counts()
        for newer in (
            "adjustment",
            "z_offset",
            "trial",
            "trouble",
            "case_event",
            "print_file",
            "print_run",
            "print_look",
        ):
            self.assertEqual(after.pop(newer), 0)
            self.assertGreaterEqual(before.pop(newer), newer != "trial")
        self.assertEqual(after, before)
        with make_sessions(self.engine)() as session:
            self.assertEqual(printers.get_workshop(session).foils, [])
            for printer in printers.list_printers(session):
                told = (printer.beam_carries, printer.beam_steps, printer.plate_bends, printer.learned_since)
                self.assertEqual(told, ("unknown", None, False, None))
                self.assertTrue(all(s.to_tight is None and s.limits_at is None for s in printer.screws))

    def test_surveys_of_open_visits_are_judged_by_the_new_version(self):
        support.fill_with_demo(self.engine)
        before = self.verdicts()
        migrate.downgrade(self.engine, "0009")
        with self.engine.begin() as link:
            link.execute(text("UPDATE survey SET verdict = 'as it was'"))
        migrate.upgrade(self.engine, after=judge_again)
        after = self.verdicts()
        open_now = {one for one in before if one[1]}
        self.assertGreater(len(open_now), 1)
        for one, verdict in before.items():
            self.assertEqual(after[one], verdict if one in open_now else "as it was", one)

    def test_lines_of_the_logbook_point_at_what_they_told_of(self):
        """Up to 0013 a line had a column for each kind of record, a turning's the survey's too."""
        support.fill_with_demo(self.engine)
        with make_sessions(self.engine).begin() as session:
            printer = printers.list_printers(session)[0]
            record_change(session, printer.id, "nozzle", client_key="nozzle")
        query = "SELECT id, subject_kind, subject_id FROM entry ORDER BY id"
        with self.engine.connect() as link:
            before = link.execute(text(query)).all()
        kinds = {"survey", "turning", "test", "adjustment", "offset", "change", "case"}
        self.assertLessEqual(kinds, {kind for _, kind, _ in before})
        migrate.downgrade(self.engine, "0013")
        older = (
            "SELECT COUNT(*) FROM entry e JOIN turning t ON t.id = e.turning_id "
            "WHERE e.survey_id = t.survey_id AND e.kind = 'turning'"
        )
        with self.engine.connect() as link:
            turnings = sum(kind == "turning" for _, kind, _ in before)
            self.assertEqual(link.scalar(text(older)), turnings)
            surveys = "SELECT COUNT(*) FROM entry WHERE survey_id IS NOT NULL AND kind = 'survey'"
            self.assertEqual(link.scalar(text(surveys)), sum(kind == "survey" for _, kind, _ in before))
        migrate.upgrade(self.engine)
        with self.engine.connect() as link:
            # of prints nobody knew then
            kept = [(line, None, None) if kind == "print" else (line, kind, to) for line, kind, to in before]
            self.assertEqual(link.execute(text(query)).all(), kept)

    def verdicts(self):
        """Of every survey: what it says, by its number and whether its visit is open."""
        query = "SELECT s.id, v.ended_at IS NULL, s.verdict FROM survey s JOIN visit v ON v.id = s.visit_id"
        with self.engine.connect() as link:
            return {
                (number, bool(is_open)): verdict for number, is_open, verdict in link.execute(text(query))
            }

    def counts(self):
        with self.engine.connect() as link:
            return {
                name: link.scalar(text(f"SELECT COUNT(*) FROM `{name}`")) for name in Base.metadata.tables
            }

    def test_killed_at_any_point_they_go_on_at_the_next_start(self):
        migrate.downgrade(self.engine, "base")
        with self.engine.begin() as link:
            link.execute(text("DROP TABLE IF EXISTS alembic_version"))
        kills, self.killed, self.seen = 0, set(), 0
        while migrate.current(self.engine) != migrate.head():
            self.assertLess(kills, 300)
            with mock.patch.object(migrate, "make_engine", self.killing):
                try:
                    migrate.upgrade(self.engine)
                except KeyboardInterrupt:
                    kills += 1
        self.assertGreater(self.seen, 60)
        self.assertEqual(kills, self.seen // KILL_EVERY)
        self.test_tables_are_those_of_the_models()
        with make_sessions(self.engine).begin() as session:
            self.assertTrue(load_demo(session))

    def killing(self, url, patience):
        """An engine that is killed right after it has changed a table once."""
        engine = make_engine(url, patience)

        @event.listens_for(engine, "after_cursor_execute")
        def kill(_link, _cursor, statement, *_more):
            changes = statement.split()[0] in ("CREATE", "ALTER", "DROP", "DELETE")
            if changes and "alembic_version" not in statement and statement not in self.killed:
                self.killed.add(statement)
                self.seen += 1
                if self.seen % KILL_EVERY == 0:
                    raise KeyboardInterrupt

        return engine

    def test_records_are_copied_before_they_are_changed(self):
        support.fill_with_demo(self.engine)
        with tempfile.TemporaryDirectory() as folder:
            self.assertIsNone(migrate.upgrade(self.engine, dumps=Path(folder)))  # nothing to change
            migrate.downgrade(self.engine, "0007")
            made = migrate.upgrade(self.engine, dumps=Path(folder))
            said = gzip.decompress(made.read_bytes()).decode()
            self.assertIn("INSERT INTO `reading`", said)
            # brought back, they are as they were
            migrate.downgrade(self.engine, "base")
            words = [
                "mariadb",
                "--no-defaults",
                f"--socket={self.engine.url.query['unix_socket']}",
                self.engine.url.database,
            ]
            subprocess.run(words, input=said, text=True, check=True)
            self.assertEqual(migrate.current(self.engine), "0007")
            migrate.upgrade(self.engine)
            with self.engine.connect() as link:
                self.assertGreater(link.scalar(text("SELECT COUNT(*) FROM reading")), 300)
            migrate.downgrade(self.engine, "0007")
            blocked = Path(folder, "a file")
            blocked.write_text("")
            with self.assertRaisesRegex(
                migrate.MigrationError, "could not be copied into .* Nothing was changed"
            ):
                migrate.upgrade(self.engine, dumps=blocked)
            with mock.patch("finchwort.store.dump.find_program", return_value=None):
                with self.assertRaisesRegex(migrate.MigrationError, "not installed"):
                    migrate.upgrade(self.engine, dumps=Path(folder))
            self.assertEqual(migrate.current(self.engine), "0007")

    def test_a_newer_database_is_left_alone(self):
        with self.engine.begin() as link:
            link.execute(text("UPDATE alembic_version SET version_num = '9999'"))
        with self.assertRaisesRegex(migrate.MigrationError, "newer Finchwort"):
            migrate.upgrade(self.engine)
        self.assertEqual(migrate.current(self.engine), "9999")

    def test_a_damaged_table_is_told(self):
        migrate.downgrade(self.engine, "0007")
        with self.engine.begin() as link:
            link.execute(text("SET FOREIGN_KEY_CHECKS=0"))
            link.execute(text("DROP TABLE printer_surface, printer_screw, printer"))
        with self.assertRaisesRegex(migrate.MigrationError, "What was stored is kept"):
            migrate.upgrade(self.engine)

    def test_character_set_and_strictness(self):
        with self.engine.connect() as link:
            self.assertIn("STRICT_ALL_TABLES", link.scalar(text("SELECT @@sql_mode")))
            self.assertEqual(link.scalar(text("SELECT @@time_zone")), "+00:00")
            found = link.scalars(
                text(
                    "SELECT DISTINCT table_collation FROM information_schema.tables "
                    "WHERE table_schema = DATABASE()"
                )
            ).all()
        self.assertTrue(all(name.startswith("utf8mb4") for name in found), found)

    def test_every_table_knows_when_a_row_was_made(self):
        for name, table in Base.metadata.tables.items():
            self.assertIn("created_at", table.columns, name)
