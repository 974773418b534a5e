"""Readings set aside, when each was taken, the drift of a survey, the noise of its tilt, which way lead screws raise, and
an index by which lines taken back are found"""

from typing import Any

import sqlalchemy as sa

from finchwort.store.migrations import steps as op

revision = '0010'
down_revision = '0009'

ADDED: list[tuple[Any, ...]] = [
    ('reading', 'aside', sa.Boolean(), None),
    ('reading', 'second', sa.Double(), None),
    ('survey', 'drift', sa.Double(), None),
    ('survey', 'drift_sd', sa.Double(), None),
    ('survey', 'noise_x', sa.Double(), None),
    ('survey', 'noise_y', sa.Double(), None),
    ('printer', 'beam_raises', sa.String(length=20), ''),
]


def upgrade() -> None:
    for table, name, kind, value in ADDED:
        required = value is not None
        op.add_column(table, sa.Column(name, kind, nullable=not required, server_default=value))
        if required:
            op.alter_column(table, name, existing_type=kind, existing_nullable=False, server_default=None)
    op.create_index(op.f('ix_entry_deleted_at_id'), 'entry', ['deleted_at', 'id'])


def downgrade() -> None:
    op.drop_index(op.f('ix_entry_deleted_at_id'), 'entry')
    for table, name, _, _ in reversed(ADDED):
        op.drop_column(table, name)
