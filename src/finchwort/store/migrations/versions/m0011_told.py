"""What machines say of themselves, and a full-text index by which the logbook is searched"""

import sqlalchemy as sa
from sqlalchemy.dialects import mysql

from finchwort.store.migrations import steps as op

revision = '0011'
down_revision = '0010'

TIME = mysql.DATETIME(fsp=6)


def upgrade() -> None:
    for table in ('trial', 'probing_test'):
        kind = sa.String(length=80)
        op.add_column(table, sa.Column('surface', kind, nullable=False, server_default=''))
        op.alter_column(table, 'surface', existing_type=kind, existing_nullable=False, server_default=None)
    op.create_table('machine_told',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('printer_id', sa.Integer(), nullable=False),
    sa.Column('job_id', sa.Integer(), nullable=False),
    sa.Column('told', sa.JSON(), nullable=False),
    sa.ForeignKeyConstraint(['job_id'], ['job.id'], name=op.f('fk_machine_told_job_id_job')),
    sa.ForeignKeyConstraint(['printer_id'], ['printer.id'], name=op.f('fk_machine_told_printer_id_printer')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_machine_told'))
    )
    op.create_index(op.f('ix_machine_told_printer_id_id'), 'machine_told', ['printer_id', 'id'])
    op.create_index(op.f('ix_entry_deleted_at_at_id'), 'entry', ['deleted_at', 'at', 'id'])
    op.create_words('ix_entry_words', 'entry', ['title', 'detail'])


def downgrade() -> None:
    op.drop_index('ix_entry_words', 'entry')
    op.drop_index(op.f('ix_entry_deleted_at_at_id'), 'entry')
    op.drop_table('machine_told')
    for table in ('trial', 'probing_test'):
        op.drop_column(table, 'surface')
