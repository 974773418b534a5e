"""Travel left in springs, what a beam carries, shims, meshes and foil"""

from typing import Any

import sqlalchemy as sa
from finchwort.store.migrations import steps as op
from sqlalchemy.dialects import mysql

revision = '0003'
down_revision = '0002'

TIME = mysql.DATETIME(fsp=6)
ADDED: list[tuple[Any, ...]] = [
    ('workshop', 'foils', sa.JSON(), '[]'),
    ('printer', 'beam_carries', sa.String(length=10), 'unknown'),
    ('printer', 'beam_steps', sa.Integer(), None),
    ('printer', 'plate_bends', sa.Boolean(), '0'),
    ('printer', 'learned_since', TIME, None),
    ('printer_screw', 'to_tight', sa.Double(), None),
    ('printer_screw', 'to_loose', sa.Double(), None),
    ('printer_screw', 'limits_at', TIME, None),
]


def upgrade() -> None:
    for table, name, kind, value in ADDED:
        # what stands there already gets the usual value, then the default goes: new rows say it themselves
        op.add_column(table, sa.Column(name, kind, nullable=value is None, server_default=value))
        if value is not None:
            op.alter_column(table, name, existing_type=kind, existing_nullable=False, server_default=None)
    op.create_table('adjustment',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('deleted_at', TIME, nullable=True),
    sa.Column('printer_id', sa.Integer(), nullable=False),
    sa.Column('survey_id', sa.Integer(), nullable=False),
    sa.Column('made_at', TIME, nullable=False),
    sa.Column('client_key', sa.String(length=36), nullable=False),
    sa.Column('kind', sa.String(length=20), nullable=False),
    sa.Column('data', sa.JSON(), nullable=False),
    sa.Column('note', sa.String(length=500), nullable=False),
    sa.ForeignKeyConstraint(['printer_id'], ['printer.id'], name=op.f('fk_adjustment_printer_id_printer')),
    sa.ForeignKeyConstraint(['survey_id'], ['survey.id'], name=op.f('fk_adjustment_survey_id_survey')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_adjustment')),
    sa.UniqueConstraint('client_key', name=op.f('uq_adjustment_client_key'))
    )
    op.create_index(op.f('ix_adjustment_survey_id'), 'adjustment', ['survey_id'], unique=False)
    op.create_index(op.f('ix_adjustment_printer_id_kind_id'), 'adjustment', ['printer_id', 'kind', 'id'], unique=False)
    op.add_column('entry', sa.Column('adjustment_id', sa.Integer(), nullable=True))
    op.create_foreign_key(op.f('fk_entry_adjustment_id_adjustment'), 'entry', 'adjustment', ['adjustment_id'], ['id'])


def downgrade() -> None:
    op.drop_constraint(op.f('fk_entry_adjustment_id_adjustment'), 'entry', type_='foreignkey')
    op.drop_column('entry', 'adjustment_id')
    op.drop_table('adjustment')
    for table, name, _, _ in reversed(ADDED):
        op.drop_column(table, name)
