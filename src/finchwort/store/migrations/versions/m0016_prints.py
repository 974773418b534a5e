"""Prints and the looks at them"""

import sqlalchemy as sa
from sqlalchemy.dialects import mysql

from finchwort.store.migrations import steps as op

revision = '0016'
down_revision = '0015'

TIME = mysql.DATETIME(fsp=6)


def upgrade() -> None:
    op.create_table('print_run',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('deleted_at', TIME, nullable=True),
    sa.Column('client_key', sa.String(length=36), nullable=False),
    sa.Column('device_id', sa.Integer(), nullable=True),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('printer_id', sa.Integer(), nullable=False),
    sa.Column('visit_id', sa.Integer(), nullable=True),
    sa.Column('file_id', sa.Integer(), nullable=True),
    sa.Column('case_id', sa.Integer(), nullable=True),
    sa.Column('origin', sa.String(length=10), nullable=False),
    sa.Column('name', sa.String(length=120), nullable=False),
    sa.Column('surface', sa.String(length=80), nullable=False),
    sa.Column('surface_kind', sa.String(length=40), nullable=False),
    sa.Column('material', sa.String(length=80), nullable=False),
    sa.Column('bed_temperature', sa.Double(), nullable=True),
    sa.Column('nozzle_temperature', sa.Double(), nullable=True),
    sa.Column('first_layer', sa.Double(), nullable=False),
    sa.Column('settings', sa.JSON(), nullable=False),
    sa.Column('grams', sa.Double(), nullable=True),
    sa.Column('price', sa.Double(), nullable=True),
    sa.Column('minutes', sa.Double(), nullable=True),
    sa.Column('layer_minutes', sa.Double(), nullable=True),
    sa.Column('slender', sa.Boolean(), nullable=False),
    sa.Column('failures', sa.Integer(), nullable=False),
    sa.Column('failure_hours', sa.Double(), nullable=False),
    sa.Column('look_every', sa.Double(), nullable=False),
    sa.Column('surface_prints', sa.Integer(), nullable=True),
    sa.Column('surface_coats', sa.Integer(), nullable=True),
    sa.Column('started_at', TIME, nullable=False),
    sa.Column('ended_at', TIME, nullable=True),
    sa.Column('outcome', sa.String(length=10), nullable=True),
    sa.Column('ran', sa.Double(), nullable=True),
    sa.Column('how', sa.String(length=10), nullable=False),
    sa.Column('x', sa.Double(), nullable=True),
    sa.Column('y', sa.Double(), nullable=True),
    sa.Column('note', sa.String(length=500), nullable=False),
    sa.ForeignKeyConstraint(['device_id'], ['device.id'], name=op.f('fk_print_run_device_id_device')),
    sa.ForeignKeyConstraint(['printer_id'], ['printer.id'], name=op.f('fk_print_run_printer_id_printer')),
    sa.ForeignKeyConstraint(['visit_id'], ['visit.id'], name=op.f('fk_print_run_visit_id_visit')),
    sa.ForeignKeyConstraint(['file_id'], ['print_file.id'], name=op.f('fk_print_run_file_id_print_file')),
    sa.ForeignKeyConstraint(['case_id'], ['trouble.id'], name=op.f('fk_print_run_case_id_trouble')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_print_run')),
    sa.UniqueConstraint('client_key', name=op.f('uq_print_run_client_key')),
    )
    op.create_index(op.f('ix_print_run_printer_id_started_at'), 'print_run', ['printer_id', 'started_at'])
    op.create_index(op.f('ix_print_run_outcome_started_at'), 'print_run', ['outcome', 'started_at'])
    op.create_index(op.f('ix_print_run_started_at_id'), 'print_run', ['started_at', 'id'])
    op.create_table('print_look',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('deleted_at', TIME, nullable=True),
    sa.Column('client_key', sa.String(length=36), nullable=False),
    sa.Column('device_id', sa.Integer(), nullable=True),
    sa.Column('print_id', sa.Integer(), nullable=False),
    sa.Column('at', TIME, nullable=False),
    sa.Column('seen', sa.String(length=10), nullable=False),
    sa.Column('note', sa.String(length=500), nullable=False),
    sa.ForeignKeyConstraint(['device_id'], ['device.id'], name=op.f('fk_print_look_device_id_device')),
    sa.ForeignKeyConstraint(['print_id'], ['print_run.id'], name=op.f('fk_print_look_print_id_print_run')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_print_look')),
    sa.UniqueConstraint('client_key', name=op.f('uq_print_look_client_key')),
    )
    op.create_index(op.f('ix_print_look_print_id_at'), 'print_look', ['print_id', 'at'])


def downgrade() -> None:
    op.drop_table('print_look')
    op.drop_table('print_run')
