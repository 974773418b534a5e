"""Probe, surfaces and line of a printer; walk round, tests, and jobs at the machine"""

from typing import Any

import sqlalchemy as sa
from finchwort.store.migrations import steps as op
from sqlalchemy.dialects import mysql

revision = '0002'
down_revision = '0001'

TIME = mysql.DATETIME(fsp=6)
PRINTER: list[tuple[Any, ...]] = [
    ('pads', sa.JSON(), '[]'),
    ('beam_screws', sa.Integer(), '0'),
    ('beam_lead', sa.Double(), '8'),
    ('beam_left', sa.Double(), None),
    ('beam_right', sa.Double(), None),
    ('probe_kind', sa.String(length=20), 'none'),
    ('probe_dx', sa.Double(), '0'),
    ('probe_dy', sa.Double(), '0'),
    ('closer_is', sa.String(length=10), 'negative'),
    ('compensation', sa.String(length=10), 'none'),
    ('offset_kept', sa.JSON(), '["printer"]'),
    ('materials', sa.JSON(), '[]'),
    ('port', sa.String(length=200), ''),
    ('baud', sa.Integer(), '115200'),
    ('dialect', sa.String(length=40), 'open'),
    ('link_name', sa.String(length=40), ''),
    ('most_bed', sa.Double(), '110'),
    ('most_nozzle', sa.Double(), '260'),
    ('lift', sa.Double(), '5'),
]


def upgrade() -> None:
    for name, kind, value in PRINTER:
        # what stands there already gets the usual value, then the default goes: new rows say it themselves
        op.add_column('printer', sa.Column(name, kind, nullable=value is None, server_default=value))
        if value is not None:
            op.alter_column('printer', name, existing_type=kind, existing_nullable=False, server_default=None)
    op.add_column('visit', sa.Column('surface_kind', sa.String(length=40), nullable=False, server_default=''))
    op.alter_column('visit', 'surface_kind', existing_type=sa.String(length=40), existing_nullable=False, server_default=None)
    op.add_column('survey', sa.Column('noise', sa.Double(), nullable=True))
    op.add_column('survey', sa.Column('bed_temperature', sa.Double(), nullable=True))
    op.create_table('printer_surface',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('printer_id', sa.Integer(), nullable=False),
    sa.Column('place', sa.Integer(), nullable=False),
    sa.Column('name', sa.String(length=80), nullable=False),
    sa.Column('kind', sa.String(length=40), nullable=False),
    sa.Column('thickness', sa.Double(), nullable=True),
    sa.Column('condition', sa.String(length=10), nullable=False),
    sa.Column('prints_since_wash', sa.Integer(), nullable=False),
    sa.Column('coats', sa.Integer(), nullable=False),
    sa.ForeignKeyConstraint(['printer_id'], ['printer.id'], name=op.f('fk_printer_surface_printer_id_printer'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_printer_surface'))
    )
    op.create_table('finding',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('visit_id', sa.Integer(), nullable=False),
    sa.Column('item', sa.String(length=40), nullable=False),
    sa.Column('state', sa.String(length=10), nullable=False),
    sa.Column('note', sa.String(length=500), nullable=False),
    sa.ForeignKeyConstraint(['visit_id'], ['visit.id'], name=op.f('fk_finding_visit_id_visit')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_finding'))
    )
    op.create_index(op.f('ix_finding_visit_id_id'), 'finding', ['visit_id', 'id'], unique=False)
    op.create_table('probing_test',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('deleted_at', TIME, nullable=True),
    sa.Column('visit_id', sa.Integer(), nullable=False),
    sa.Column('taken_at', TIME, nullable=False),
    sa.Column('client_key', sa.String(length=36), nullable=False),
    sa.Column('kind', sa.String(length=20), nullable=False),
    sa.Column('source', sa.String(length=20), nullable=False),
    sa.Column('data', sa.JSON(), nullable=False),
    sa.Column('level', sa.String(length=20), nullable=False),
    sa.ForeignKeyConstraint(['visit_id'], ['visit.id'], name=op.f('fk_probing_test_visit_id_visit')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_probing_test')),
    sa.UniqueConstraint('client_key', name=op.f('uq_probing_test_client_key'))
    )
    op.create_index(op.f('ix_probing_test_visit_id_taken_at'), 'probing_test', ['visit_id', 'taken_at'], unique=False)
    op.add_column('entry', sa.Column('test_id', sa.Integer(), nullable=True))
    op.create_foreign_key(op.f('fk_entry_test_id_probing_test'), 'entry', 'probing_test', ['test_id'], ['id'])
    op.create_table('machine_line',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('link_name', sa.String(length=40), nullable=False),
    sa.Column('port', sa.String(length=200), nullable=False),
    sa.Column('owner', sa.String(length=80), nullable=True),
    sa.Column('lease_until', TIME, nullable=True),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_machine_line')),
    sa.UniqueConstraint('link_name', 'port', name=op.f('uq_machine_line_link_name_port'))
    )
    op.create_table('job',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('printer_id', sa.Integer(), nullable=False),
    sa.Column('visit_id', sa.Integer(), nullable=True),
    sa.Column('line_id', sa.Integer(), nullable=False),
    sa.Column('client_key', sa.String(length=36), nullable=False),
    sa.Column('kind', sa.String(length=20), nullable=False),
    sa.Column('params', sa.JSON(), nullable=False),
    sa.Column('state', sa.String(length=20), nullable=False),
    sa.Column('stop', sa.String(length=10), nullable=True),
    sa.Column('message', sa.String(length=500), nullable=False),
    sa.Column('live', sa.JSON(), nullable=False),
    sa.Column('done', sa.Integer(), nullable=False),
    sa.Column('total', sa.Integer(), nullable=False),
    sa.Column('owner', sa.String(length=80), nullable=True),
    sa.Column('lease_until', TIME, nullable=True),
    sa.Column('started_at', TIME, nullable=True),
    sa.Column('ended_at', TIME, nullable=True),
    sa.Column('resumes', sa.Integer(), nullable=True),
    sa.Column('survey_id', sa.Integer(), nullable=True),
    sa.Column('test_id', sa.Integer(), nullable=True),
    sa.ForeignKeyConstraint(['line_id'], ['machine_line.id'], name=op.f('fk_job_line_id_machine_line')),
    sa.ForeignKeyConstraint(['printer_id'], ['printer.id'], name=op.f('fk_job_printer_id_printer')),
    sa.ForeignKeyConstraint(['resumes'], ['job.id'], name=op.f('fk_job_resumes_job')),
    sa.ForeignKeyConstraint(['survey_id'], ['survey.id'], name=op.f('fk_job_survey_id_survey')),
    sa.ForeignKeyConstraint(['test_id'], ['probing_test.id'], name=op.f('fk_job_test_id_probing_test')),
    sa.ForeignKeyConstraint(['visit_id'], ['visit.id'], name=op.f('fk_job_visit_id_visit')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_job')),
    sa.UniqueConstraint('client_key', name=op.f('uq_job_client_key'))
    )
    op.create_index(op.f('ix_job_state_id'), 'job', ['state', 'id'], unique=False)
    op.create_index(op.f('ix_job_printer_id_id'), 'job', ['printer_id', 'id'], unique=False)
    op.create_table('job_reading',
    sa.Column('job_id', sa.Integer(), nullable=False),
    sa.Column('place', sa.Integer(), autoincrement=False, nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('after', sa.Double(), nullable=False),
    sa.Column('x', sa.Double(), nullable=False),
    sa.Column('y', sa.Double(), nullable=False),
    sa.Column('height', sa.Double(), nullable=False),
    sa.ForeignKeyConstraint(['job_id'], ['job.id'], name=op.f('fk_job_reading_job_id_job'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('job_id', 'place', name=op.f('pk_job_reading'))
    )
    op.create_table('job_line',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('job_id', sa.Integer(), nullable=False),
    sa.Column('created_at', TIME, nullable=False),
    sa.Column('way', sa.String(length=1), nullable=False),
    sa.Column('text', sa.String(length=500), nullable=False),
    sa.ForeignKeyConstraint(['job_id'], ['job.id'], name=op.f('fk_job_line_job_id_job'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_job_line'))
    )
    op.create_index(op.f('ix_job_line_job_id_id'), 'job_line', ['job_id', 'id'], unique=False)


def downgrade() -> None:
    op.drop_constraint(op.f('fk_entry_test_id_probing_test'), 'entry', type_='foreignkey')
    op.drop_column('entry', 'test_id')
    op.execute("DELETE FROM entry WHERE kind IN ('test', 'finding', 'job')")
    for table in ('job_line', 'job_reading', 'job', 'machine_line', 'probing_test', 'finding', 'printer_surface'):
        op.drop_table(table)
    op.drop_column('survey', 'bed_temperature')
    op.drop_column('survey', 'noise')
    op.drop_column('visit', 'surface_kind')
    for name, _, _ in reversed(PRINTER):
        op.drop_column('printer', name)
