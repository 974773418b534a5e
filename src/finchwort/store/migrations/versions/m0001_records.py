"""Printers, visits, surveys, turnings and the logbook"""

import sqlalchemy as sa
from finchwort.store.migrations import steps as op
from sqlalchemy.dialects import mysql

revision = '0001'
down_revision = None


def upgrade() -> None:
    op.create_table('printer',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.Column('changed_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.Column('deleted_at', mysql.DATETIME(fsp=6), nullable=True),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('name', sa.String(length=80), nullable=False),
    sa.Column('width', sa.Double(), nullable=False),
    sa.Column('depth', sa.Double(), nullable=False),
    sa.Column('origin', sa.String(length=20), nullable=False),
    sa.Column('plate_width', sa.Double(), nullable=False),
    sa.Column('plate_depth', sa.Double(), nullable=False),
    sa.Column('first_layer', sa.Double(), nullable=False),
    sa.Column('thread_hand', sa.String(length=10), nullable=False),
    sa.Column('knob_view', sa.String(length=10), nullable=False),
    sa.Column('tightening_lowers', sa.Boolean(), nullable=False),
    sa.Column('divisions', sa.Integer(), nullable=False),
    sa.Column('repeatability', sa.Double(), nullable=True),
    sa.Column('note', sa.String(length=500), nullable=False),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_printer'))
    )
    op.create_table('workshop',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('name', sa.String(length=80), nullable=False),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_workshop'))
    )
    op.create_table('printer_screw',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.Column('printer_id', sa.Integer(), nullable=False),
    sa.Column('place', sa.Integer(), nullable=False),
    sa.Column('name', sa.String(length=40), nullable=False),
    sa.Column('x', sa.Double(), nullable=False),
    sa.Column('y', sa.Double(), nullable=False),
    sa.Column('thread', sa.String(length=20), nullable=False),
    sa.Column('pitch', sa.Double(), nullable=False),
    sa.ForeignKeyConstraint(['printer_id'], ['printer.id'], name=op.f('fk_printer_screw_printer_id_printer'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_printer_screw'))
    )
    op.create_table('visit',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.Column('deleted_at', mysql.DATETIME(fsp=6), nullable=True),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('printer_id', sa.Integer(), nullable=False),
    sa.Column('started_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.Column('ended_at', mysql.DATETIME(fsp=6), nullable=True),
    sa.Column('surface', sa.String(length=80), nullable=False),
    sa.Column('material', sa.String(length=80), nullable=False),
    sa.Column('bed_temperature', sa.Double(), nullable=True),
    sa.Column('nozzle_temperature', sa.Double(), nullable=True),
    sa.Column('first_layer', sa.Double(), nullable=False),
    sa.Column('note', sa.String(length=2000), nullable=False),
    sa.ForeignKeyConstraint(['printer_id'], ['printer.id'], name=op.f('fk_visit_printer_id_printer')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_visit'))
    )
    op.create_index(op.f('ix_visit_printer_id_started_at'), 'visit', ['printer_id', 'started_at'], unique=False)
    op.create_table('survey',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.Column('deleted_at', mysql.DATETIME(fsp=6), nullable=True),
    sa.Column('visit_id', sa.Integer(), nullable=False),
    sa.Column('taken_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.Column('client_key', sa.String(length=36), nullable=False),
    sa.Column('source', sa.String(length=20), nullable=False),
    sa.Column('original', sa.Text().with_variant(mysql.MEDIUMTEXT(), 'mariadb').with_variant(mysql.MEDIUMTEXT(), 'mysql'), nullable=True),
    sa.Column('assumptions', sa.JSON(), nullable=False),
    sa.Column('first_layer', sa.Double(), nullable=False),
    sa.Column('count', sa.Integer(), nullable=False),
    sa.Column('spread', sa.Double(), nullable=False),
    sa.Column('peak_to_valley', sa.Double(), nullable=False),
    sa.Column('rms', sa.Double(), nullable=False),
    sa.Column('tilt_x', sa.Double(), nullable=False),
    sa.Column('tilt_y', sa.Double(), nullable=False),
    sa.Column('shape', sa.String(length=20), nullable=False),
    sa.Column('verdict', sa.String(length=20), nullable=False),
    sa.ForeignKeyConstraint(['visit_id'], ['visit.id'], name=op.f('fk_survey_visit_id_visit')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_survey')),
    sa.UniqueConstraint('client_key', name=op.f('uq_survey_client_key'))
    )
    op.create_index(op.f('ix_survey_visit_id_taken_at'), 'survey', ['visit_id', 'taken_at'], unique=False)
    op.create_table('reading',
    sa.Column('survey_id', sa.Integer(), nullable=False),
    sa.Column('place', sa.Integer(), autoincrement=False, nullable=False),
    sa.Column('created_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.Column('x', sa.Double(), nullable=False),
    sa.Column('y', sa.Double(), nullable=False),
    sa.Column('height', sa.Double(), nullable=False),
    sa.ForeignKeyConstraint(['survey_id'], ['survey.id'], name=op.f('fk_reading_survey_id_survey'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('survey_id', 'place', name=op.f('pk_reading'))
    )
    op.create_table('turning',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.Column('deleted_at', mysql.DATETIME(fsp=6), nullable=True),
    sa.Column('survey_id', sa.Integer(), nullable=False),
    sa.Column('turned_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.Column('client_key', sa.String(length=36), nullable=False),
    sa.Column('hold', sa.String(length=40), nullable=False),
    sa.Column('spread_expected', sa.Double(), nullable=False),
    sa.Column('note', sa.String(length=500), nullable=False),
    sa.ForeignKeyConstraint(['survey_id'], ['survey.id'], name=op.f('fk_turning_survey_id_survey')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_turning')),
    sa.UniqueConstraint('client_key', name=op.f('uq_turning_client_key'))
    )
    op.create_index(op.f('ix_turning_survey_id'), 'turning', ['survey_id'], unique=False)
    op.create_table('entry',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('created_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.Column('deleted_at', mysql.DATETIME(fsp=6), nullable=True),
    sa.Column('at', mysql.DATETIME(fsp=6), nullable=False),
    sa.Column('kind', sa.String(length=20), nullable=False),
    sa.Column('title', sa.String(length=200), nullable=False),
    sa.Column('detail', sa.String(length=2000), nullable=False),
    sa.Column('printer_id', sa.Integer(), nullable=True),
    sa.Column('visit_id', sa.Integer(), nullable=True),
    sa.Column('survey_id', sa.Integer(), nullable=True),
    sa.Column('turning_id', sa.Integer(), nullable=True),
    sa.ForeignKeyConstraint(['printer_id'], ['printer.id'], name=op.f('fk_entry_printer_id_printer')),
    sa.ForeignKeyConstraint(['survey_id'], ['survey.id'], name=op.f('fk_entry_survey_id_survey')),
    sa.ForeignKeyConstraint(['turning_id'], ['turning.id'], name=op.f('fk_entry_turning_id_turning')),
    sa.ForeignKeyConstraint(['visit_id'], ['visit.id'], name=op.f('fk_entry_visit_id_visit')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_entry'))
    )
    op.create_index(op.f('ix_entry_at_id'), 'entry', ['at', 'id'], unique=False)
    op.create_index(op.f('ix_entry_printer_id_at'), 'entry', ['printer_id', 'at'], unique=False)
    op.create_table('turning_screw',
    sa.Column('turning_id', sa.Integer(), nullable=False),
    sa.Column('place', sa.Integer(), autoincrement=False, nullable=False),
    sa.Column('created_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.Column('name', sa.String(length=40), nullable=False),
    sa.Column('x', sa.Double(), nullable=False),
    sa.Column('y', sa.Double(), nullable=False),
    sa.Column('pitch', sa.Double(), nullable=False),
    sa.Column('tightening_lowers', sa.Boolean(), nullable=False),
    sa.Column('divisions', sa.Integer(), nullable=False),
    sa.Column('planned', sa.Double(), nullable=False),
    sa.Column('done', sa.Double(), nullable=False),
    sa.ForeignKeyConstraint(['turning_id'], ['turning.id'], name=op.f('fk_turning_screw_turning_id_turning'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('turning_id', 'place', name=op.f('pk_turning_screw'))
    )


def downgrade() -> None:
    op.drop_table('turning_screw')
    op.drop_table('entry')
    op.drop_table('turning')
    op.drop_table('reading')
    op.drop_table('survey')
    op.drop_table('visit')
    op.drop_table('printer_screw')
    op.drop_table('workshop')
    op.drop_table('printer')
