import unittest

from alembic.autogenerate import compare_metadata
from alembic.runtime.migration import MigrationContext
from sqlalchemy import inspect, text

from finchwort.demo.workshop import load_demo
from finchwort.store import migrate
from finchwort.store.database import make_engine, make_sessions
from finchwort.store.models import Base
from tests import support


class MigrationTest(unittest.TestCase):
    def setUp(self):
        self.engine = make_engine(support.new_database("test_migrations"))
        self.addCleanup(self.engine.dispose)

    def test_tables_are_those_of_the_models(self):
        with self.engine.connect() as link:
            context = MigrationContext.configure(link, opts={"compare_type": True})
            self.assertEqual(compare_metadata(context, Base.metadata), [])

    def test_up_and_down_on_a_populated_database(self):
        with make_sessions(self.engine).begin() as session:
            self.assertTrue(load_demo(session))
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
