"""What is kept of files of prints"""

import sqlalchemy as sa
from sqlalchemy.dialects import mysql

from finchwort.store.migrations import steps as op

revision = '0015'
down_revision = '0014'

TIME = mysql.DATETIME(fsp=6)


def upgrade() -> None:
    op.create_table('print_file',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('deleted_at', TIME, nullable=True),
    sa.Column('client_key', sa.String(length=36), nullable=False),
    sa.Column('device_id', sa.Integer(), nullable=True),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('printer_id', sa.Integer(), nullable=True),
    sa.Column('name', sa.String(length=120), nullable=False),
    sa.Column('digest', sa.String(length=64), nullable=False),
    sa.Column('surface_kind', sa.String(length=40), nullable=False),
    sa.Column('material', sa.String(length=80), nullable=False),
    sa.Column('nozzle', sa.Double(), nullable=True),
    sa.Column('price', sa.Double(), nullable=True),
    sa.Column('minutes', sa.Double(), nullable=False),
    sa.Column('volume', sa.Double(), nullable=False),
    sa.Column('parts', sa.Integer(), nullable=False),
    sa.Column('packed', mysql.MEDIUMBLOB(), nullable=False),
    sa.ForeignKeyConstraint(['device_id'], ['device.id'], name=op.f('fk_print_file_device_id_device')),
    sa.ForeignKeyConstraint(['printer_id'], ['printer.id'], name=op.f('fk_print_file_printer_id_printer')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_print_file')),
    sa.UniqueConstraint('client_key', name=op.f('uq_print_file_client_key')),
    )
    op.create_index(op.f('ix_print_file_printer_id_created_at'), 'print_file', ['printer_id', 'created_at'])


def downgrade() -> None:
    op.drop_table('print_file')
