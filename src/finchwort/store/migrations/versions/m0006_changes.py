"""What was changed at a machine by hand"""

import sqlalchemy as sa
from finchwort.store.migrations import steps as op
from sqlalchemy.dialects import mysql

revision = '0006'
down_revision = '0005'

TIME = mysql.DATETIME(fsp=6)


def upgrade() -> None:
    op.create_table('machine_change',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('deleted_at', TIME, nullable=True),
    sa.Column('printer_id', sa.Integer(), nullable=False),
    sa.Column('visit_id', sa.Integer(), nullable=True),
    sa.Column('made_at', TIME, nullable=False),
    sa.Column('client_key', sa.String(length=36), nullable=False),
    sa.Column('what', sa.String(length=20), nullable=False),
    sa.Column('note', sa.String(length=500), nullable=False),
    sa.ForeignKeyConstraint(['printer_id'], ['printer.id'], name=op.f('fk_machine_change_printer_id_printer')),
    sa.ForeignKeyConstraint(['visit_id'], ['visit.id'], name=op.f('fk_machine_change_visit_id_visit')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_machine_change')),
    sa.UniqueConstraint('client_key', name=op.f('uq_machine_change_client_key'))
    )
    op.create_index(op.f('ix_machine_change_printer_id_made_at'), 'machine_change', ['printer_id', 'made_at'], unique=False)
    op.add_column('entry', sa.Column('change_id', sa.Integer(), nullable=True))
    op.create_foreign_key(op.f('fk_entry_change_id_machine_change'), 'entry', 'machine_change', ['change_id'], ['id'])


def downgrade() -> None:
    op.drop_constraint(op.f('fk_entry_change_id_machine_change'), 'entry', type_='foreignkey')
    op.drop_column('entry', 'change_id')
    op.drop_table('machine_change')
