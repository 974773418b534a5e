"""Feels with their bounds, what was done at the bench, where a printer keeps its zero, and on what paper was felt"""

from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects import mysql

from finchwort.store.migrations import steps as op

revision = '0009'
down_revision = '0008'

TIME = mysql.DATETIME(fsp=6)
ADDED: list[tuple[Any, ...]] = [
    ('reading', 'feel', sa.String(length=10), None),
    ('reading', 'at_z', sa.Double(), None),
    ('reading', 'low', sa.Double(), None),
    ('reading', 'high', sa.Double(), None),
    ('printer', 'zero_kept', sa.String(length=10), ''),
    ('printer', 'switch_pitch', sa.Double(), None),
    ('machine_change', 'surface', sa.String(length=80), ''),
    ('machine_change', 'compensated', sa.Boolean(), None),
]


def upgrade() -> None:
    for table, name, kind, value in ADDED:
        required = value is not None
        op.add_column(table, sa.Column(name, kind, nullable=not required, server_default=value))
        if required:
            op.alter_column(table, name, existing_type=kind, existing_nullable=False, server_default=None)
    op.create_table(
        'bench_step',
        sa.Column('id', sa.Integer(), autoincrement=True, nullable=False),
        sa.Column('created_at', TIME, nullable=False),
        sa.Column('deleted_at', TIME, nullable=True),
        sa.Column('visit_id', sa.Integer(), nullable=False),
        sa.Column('survey_id', sa.Integer(), nullable=True),
        sa.Column('client_key', sa.String(length=36), nullable=False),
        sa.Column('what', sa.String(length=10), nullable=False),
        sa.Column('place', sa.Integer(), nullable=False),
        sa.Column('name', sa.String(length=40), nullable=False),
        sa.Column('feel', sa.String(length=10), nullable=True),
        sa.Column('turns', sa.Double(), nullable=True),
        sa.Column('value', sa.Double(), nullable=True),
        sa.PrimaryKeyConstraint('id', name=op.f('pk_bench_step')),
        sa.ForeignKeyConstraint(['visit_id'], ['visit.id'], name=op.f('fk_bench_step_visit_id_visit')),
        sa.ForeignKeyConstraint(['survey_id'], ['survey.id'], name=op.f('fk_bench_step_survey_id_survey')),
        sa.UniqueConstraint('client_key', name=op.f('uq_bench_step_client_key')),
    )
    op.create_index(op.f('ix_bench_step_visit_id_id'), 'bench_step', ['visit_id', 'id'])


def downgrade() -> None:
    op.drop_table('bench_step')
    for table, name, _, _ in reversed(ADDED):
        op.drop_column(table, name)
