"""Z offsets with their history"""

import sqlalchemy as sa
from finchwort.store.migrations import steps as op
from sqlalchemy.dialects import mysql

revision = '0004'
down_revision = '0003'

TIME = mysql.DATETIME(fsp=6)


def upgrade() -> None:
    op.create_table('z_offset',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('deleted_at', TIME, nullable=True),
    sa.Column('printer_id', sa.Integer(), nullable=False),
    sa.Column('visit_id', sa.Integer(), nullable=True),
    sa.Column('made_at', TIME, nullable=False),
    sa.Column('client_key', sa.String(length=36), nullable=False),
    sa.Column('reason', sa.String(length=20), nullable=False),
    sa.Column('parts', sa.JSON(), nullable=False),
    sa.Column('closer_is', sa.String(length=10), nullable=False),
    sa.Column('closer', sa.Double(), nullable=True),
    sa.Column('data', sa.JSON(), nullable=False),
    sa.Column('note', sa.String(length=500), nullable=False),
    sa.ForeignKeyConstraint(['printer_id'], ['printer.id'], name=op.f('fk_z_offset_printer_id_printer')),
    sa.ForeignKeyConstraint(['visit_id'], ['visit.id'], name=op.f('fk_z_offset_visit_id_visit')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_z_offset')),
    sa.UniqueConstraint('client_key', name=op.f('uq_z_offset_client_key'))
    )
    op.create_index(op.f('ix_z_offset_printer_id_made_at'), 'z_offset', ['printer_id', 'made_at'], unique=False)
    op.add_column('entry', sa.Column('offset_id', sa.Integer(), nullable=True))
    op.create_foreign_key(op.f('fk_entry_offset_id_z_offset'), 'entry', 'z_offset', ['offset_id'], ['id'])


def downgrade() -> None:
    op.drop_constraint(op.f('fk_entry_offset_id_z_offset'), 'entry', type_='foreignkey')
    op.drop_column('entry', 'offset_id')
    op.drop_table('z_offset')
