"""How long heaters stay on, since when they are, and on which surface a survey was taken"""

from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects import mysql

from finchwort.store.migrations import steps as op

revision = '0008'
down_revision = '0007'

TIME = mysql.DATETIME(fsp=6)
ADDED: list[tuple[Any, ...]] = [
    ('printer', 'longest_heat', sa.Double(), '60'),
    ('survey', 'surface', sa.String(length=80), ''),
    ('machine_line', 'hot_until', TIME, None),
    ('machine_line', 'hot_printer_id', sa.Integer(), None),
]


def upgrade() -> None:
    for table, name, kind, value in ADDED:
        # what stands there already gets the usual value, then the default goes: new rows say it themselves
        op.add_column(table, sa.Column(name, kind, nullable=value is None, server_default=value))
        if value is not None:
            op.alter_column(table, name, existing_type=kind, existing_nullable=False, server_default=None)
    op.create_foreign_key(op.f('fk_machine_line_hot_printer_id_printer'), 'machine_line', 'printer', ['hot_printer_id'], ['id'])


def downgrade() -> None:
    op.drop_constraint(op.f('fk_machine_line_hot_printer_id_printer'), 'machine_line', type_='foreignkey')
    for table, name, _, _ in reversed(ADDED):
        op.drop_column(table, name)
