"""A line of the logbook points at what it tells of by its kind and number"""

import sqlalchemy as sa

from finchwort.store.migrations import steps as op

revision = '0014'
down_revision = '0013'

# a turning and an adjustment had the survey beside them, so it is asked last
SUBJECTS = {
    'turning': 'turning',
    'adjustment': 'adjustment',
    'test': 'probing_test',
    'offset': 'z_offset',
    'trial': 'trial',
    'change': 'machine_change',
    'case': 'trouble',
    'survey': 'survey',
}
WITH_SURVEY = ('turning', 'adjustment')


def upgrade() -> None:
    op.add_column('entry', sa.Column('subject_kind', sa.String(length=20), nullable=True))
    op.add_column('entry', sa.Column('subject_id', sa.Integer(), nullable=True))
    for kind, table in SUBJECTS.items():
        if op.has_column('entry', f'{kind}_id'):
            op.change(
                f'UPDATE entry SET subject_kind = :kind, subject_id = {kind}_id '
                f'WHERE {kind}_id IS NOT NULL AND subject_id IS NULL',
                kind=kind,
            )
            op.drop_constraint(op.f(f'fk_entry_{kind}_id_{table}'), 'entry', type_='foreignkey')
            op.drop_column('entry', f'{kind}_id')
    op.create_index(op.f('ix_entry_subject_kind_subject_id'), 'entry', ['subject_kind', 'subject_id'])


def downgrade() -> None:
    for kind, table in SUBJECTS.items():
        op.add_column('entry', sa.Column(f'{kind}_id', sa.Integer(), nullable=True))
        op.change(
            f'UPDATE entry SET {kind}_id = subject_id WHERE subject_kind = :kind AND {kind}_id IS NULL', kind=kind
        )
        op.create_foreign_key(
            op.f(f'fk_entry_{kind}_id_{table}'), 'entry', table, [f'{kind}_id'], ['id']
        )
    for kind in WITH_SURVEY:
        op.change(
            f'UPDATE entry JOIN {kind} ON {kind}.id = entry.{kind}_id SET entry.survey_id = {kind}.survey_id '
            'WHERE entry.survey_id IS NULL'
        )
    op.drop_index(op.f('ix_entry_subject_kind_subject_id'), 'entry')
    op.drop_column('entry', 'subject_id')
    op.drop_column('entry', 'subject_kind')
