"""Printed trials and how they were judged"""

import sqlalchemy as sa
from finchwort.store.migrations import steps as op
from sqlalchemy.dialects import mysql

revision = '0005'
down_revision = '0004'

TIME = mysql.DATETIME(fsp=6)


def upgrade() -> None:
    op.create_table('trial',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('deleted_at', TIME, nullable=True),
    sa.Column('visit_id', sa.Integer(), nullable=False),
    sa.Column('made_at', TIME, nullable=False),
    sa.Column('client_key', sa.String(length=36), nullable=False),
    sa.Column('kind', sa.String(length=20), nullable=False),
    sa.Column('parts', sa.JSON(), nullable=False),
    sa.Column('patches', sa.JSON(), nullable=False),
    sa.Column('note', sa.String(length=500), nullable=False),
    sa.ForeignKeyConstraint(['visit_id'], ['visit.id'], name=op.f('fk_trial_visit_id_visit')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_trial')),
    sa.UniqueConstraint('client_key', name=op.f('uq_trial_client_key'))
    )
    op.create_index(op.f('ix_trial_visit_id'), 'trial', ['visit_id'], unique=False)
    op.add_column('entry', sa.Column('trial_id', sa.Integer(), nullable=True))
    op.create_foreign_key(op.f('fk_entry_trial_id_trial'), 'entry', 'trial', ['trial_id'], ['id'])


def downgrade() -> None:
    op.drop_constraint(op.f('fk_entry_trial_id_trial'), 'entry', type_='foreignkey')
    op.drop_column('entry', 'trial_id')
    op.drop_table('trial')
