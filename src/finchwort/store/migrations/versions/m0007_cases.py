"""Cases, what happened in them, and counts of other workshops"""

import sqlalchemy as sa
from finchwort.store.migrations import steps as op
from sqlalchemy.dialects import mysql

revision = '0007'
down_revision = '0006'

TIME = mysql.DATETIME(fsp=6)


def upgrade() -> None:
    op.create_table('trouble',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('deleted_at', TIME, nullable=True),
    sa.Column('printer_id', sa.Integer(), nullable=False),
    sa.Column('visit_id', sa.Integer(), nullable=True),
    sa.Column('opened_at', TIME, nullable=False),
    sa.Column('client_key', sa.String(length=36), nullable=False),
    sa.Column('words', sa.String(length=500), nullable=False),
    sa.Column('x', mysql.DOUBLE(asdecimal=False), nullable=True),
    sa.Column('y', mysql.DOUBLE(asdecimal=False), nullable=True),
    sa.Column('circumstances', sa.JSON(), nullable=False),
    sa.Column('strip', sa.JSON(), nullable=False),
    sa.ForeignKeyConstraint(['printer_id'], ['printer.id'], name=op.f('fk_trouble_printer_id_printer')),
    sa.ForeignKeyConstraint(['visit_id'], ['visit.id'], name=op.f('fk_trouble_visit_id_visit')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_trouble')),
    sa.UniqueConstraint('client_key', name=op.f('uq_trouble_client_key'))
    )
    op.create_index(op.f('ix_trouble_printer_id_opened_at'), 'trouble', ['printer_id', 'opened_at'], unique=False)
    op.create_table('case_event',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('deleted_at', TIME, nullable=True),
    sa.Column('trouble_id', sa.Integer(), nullable=False),
    sa.Column('at', TIME, nullable=False),
    sa.Column('client_key', sa.String(length=36), nullable=False),
    sa.Column('kind', sa.String(length=12), nullable=False),
    sa.Column('key', sa.String(length=40), nullable=False),
    sa.Column('value', sa.String(length=20), nullable=False),
    sa.Column('data', sa.JSON(), nullable=False),
    sa.Column('note', sa.String(length=500), nullable=False),
    sa.ForeignKeyConstraint(['trouble_id'], ['trouble.id'], name=op.f('fk_case_event_trouble_id_trouble')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_case_event')),
    sa.UniqueConstraint('client_key', name=op.f('uq_case_event_client_key'))
    )
    op.create_index(op.f('ix_case_event_trouble_id'), 'case_event', ['trouble_id'], unique=False)
    op.create_table('belief_import',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('deleted_at', TIME, nullable=True),
    sa.Column('name', sa.String(length=80), nullable=False),
    sa.Column('client_key', sa.String(length=36), nullable=False),
    sa.Column('counts', sa.JSON(), nullable=False),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_belief_import')),
    sa.UniqueConstraint('client_key', name=op.f('uq_belief_import_client_key'))
    )
    op.create_table('own_pair',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('deleted_at', TIME, nullable=True),
    sa.Column('client_key', sa.String(length=36), nullable=False),
    sa.Column('surface_kind', sa.String(length=40), nullable=False),
    sa.Column('material', sa.String(length=80), nullable=False),
    sa.Column('bed_low', mysql.DOUBLE(asdecimal=False), nullable=False),
    sa.Column('bed_high', mysql.DOUBLE(asdecimal=False), nullable=False),
    sa.Column('note', sa.String(length=200), nullable=False),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_own_pair')),
    sa.UniqueConstraint('client_key', name=op.f('uq_own_pair_client_key'))
    )
    op.create_index(op.f('ix_own_pair_surface_kind_material'), 'own_pair', ['surface_kind', 'material'], unique=False)
    op.add_column('entry', sa.Column('case_id', sa.Integer(), nullable=True))
    op.create_foreign_key(op.f('fk_entry_case_id_trouble'), 'entry', 'trouble', ['case_id'], ['id'])


def downgrade() -> None:
    op.drop_constraint(op.f('fk_entry_case_id_trouble'), 'entry', type_='foreignkey')
    op.drop_column('entry', 'case_id')
    op.drop_table('own_pair')
    op.drop_table('belief_import')
    op.drop_table('case_event')
    op.drop_table('trouble')
