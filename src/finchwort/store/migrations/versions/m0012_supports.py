"""Places to keep off, and what foil lies under each pad"""

import json

import sqlalchemy as sa

from finchwort.store.migrations import steps as op

revision = '0012'
down_revision = '0011'


def upgrade() -> None:
    kind = sa.JSON()
    op.add_column('printer', sa.Column('keep_off', kind, nullable=False, server_default='[]'))
    op.alter_column('printer', 'keep_off', existing_type=kind, existing_nullable=False, server_default=None)
    # what is pasted of a machine has no job
    op.alter_column('machine_told', 'job_id', existing_type=sa.Integer(), nullable=True)
    for printer, pads in op.rows("SELECT id, pads FROM printer"):
        pads = json.loads(pads)
        if not pads or any('foils' in pad for pad in pads):
            continue
        newest = op.rows(
            "SELECT a.data FROM adjustment a JOIN survey s ON s.id = a.survey_id JOIN visit v ON v.id = s.visit_id "
            f"WHERE a.printer_id = {int(printer)} AND a.kind = 'shims' AND a.deleted_at IS NULL "
            "AND s.deleted_at IS NULL AND v.deleted_at IS NULL ORDER BY a.id DESC LIMIT 1"
        )
        stacks = json.loads(newest[0][0])['stacks'] if newest else {}
        laid = [{**pad, 'foils': stacks.get(pad['name'], [])} for pad in pads]
        op.change("UPDATE printer SET pads = :pads WHERE id = :id", pads=json.dumps(laid), id=printer)


def downgrade() -> None:
    op.change("DELETE FROM machine_told WHERE job_id IS NULL")
    op.alter_column('machine_told', 'job_id', existing_type=sa.Integer(), nullable=False)
    op.drop_column('printer', 'keep_off')
