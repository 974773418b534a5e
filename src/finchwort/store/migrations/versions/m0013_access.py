"""Devices that may come in, their pairing, the audit trail, settings, and from which device a record came"""

import sqlalchemy as sa
from sqlalchemy.dialects import mysql

from finchwort.store.migrations import steps as op

revision = '0013'
down_revision = '0012'

TIME = mysql.DATETIME(fsp=6)
RECORDS = (
    'visit', 'survey', 'bench_step', 'turning', 'adjustment', 'entry', 'finding', 'probing_test', 'job', 'machine_told',
    'z_offset', 'trial', 'machine_change', 'trouble', 'case_event', 'belief_import', 'own_pair',
)


def upgrade() -> None:
    op.create_table('device',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('name', sa.String(length=60), nullable=False),
    sa.Column('role', sa.String(length=10), nullable=False),
    sa.Column('token_hash', sa.String(length=64), nullable=False),
    sa.Column('expires_at', TIME, nullable=False),
    sa.Column('seen_at', TIME, nullable=False),
    sa.Column('removed_at', TIME, nullable=True),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_device')),
    sa.UniqueConstraint('token_hash', name=op.f('uq_device_token_hash')),
    )
    op.create_table('pairing',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('code_hash', sa.String(length=64), nullable=False),
    sa.Column('role', sa.String(length=10), nullable=False),
    sa.Column('days', sa.Integer(), nullable=False),
    sa.Column('expires_at', TIME, nullable=False),
    sa.Column('withdrawn_at', TIME, nullable=True),
    sa.Column('used_at', TIME, nullable=True),
    sa.Column('device_id', sa.Integer(), nullable=True),
    sa.ForeignKeyConstraint(['device_id'], ['device.id'], name=op.f('fk_pairing_device_id_device')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_pairing')),
    sa.UniqueConstraint('code_hash', name=op.f('uq_pairing_code_hash')),
    )
    op.create_table('audit',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('kind', sa.String(length=12), nullable=False),
    sa.Column('text', sa.String(length=300), nullable=False),
    sa.Column('device_id', sa.Integer(), nullable=True),
    sa.Column('device', sa.String(length=60), nullable=False),
    sa.Column('address', sa.String(length=45), nullable=False),
    sa.ForeignKeyConstraint(['device_id'], ['device.id'], name=op.f('fk_audit_device_id_device')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_audit')),
    )
    op.create_index(op.f('ix_audit_kind_created_at'), 'audit', ['kind', 'created_at'])
    op.create_index(op.f('ix_audit_created_at'), 'audit', ['created_at'])
    op.create_table('setting',
    sa.Column('name', sa.String(length=40), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('value', sa.JSON(), nullable=False),
    sa.PrimaryKeyConstraint('name', name=op.f('pk_setting')),
    )
    op.create_table('written',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_written')),
    )
    op.create_index(op.f('ix_written_created_at'), 'written', ['created_at'])
    for table in RECORDS:
        op.add_column(table, sa.Column('device_id', sa.Integer(), nullable=True))
        op.create_foreign_key(op.f(f'fk_{table}_device_id_device'), table, 'device', ['device_id'], ['id'])


def downgrade() -> None:
    for table in RECORDS:
        op.drop_constraint(op.f(f'fk_{table}_device_id_device'), table, type_='foreignkey')
        op.drop_column(table, 'device_id')
    for table in ('written', 'setting', 'audit', 'pairing', 'device'):
        op.drop_table(table)
