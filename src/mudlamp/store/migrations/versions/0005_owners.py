"""one owner of everything that is kept; the demo belongs to nobody."""

import uuid

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

# Frozen here: the demo's rig as it was made under earlier revisions.
DEMO_RIG = uuid.uuid5(uuid.UUID("6d75646c-616d-5000-8000-000000000001"), "rig")


def upgrade() -> None:
    op.add_column("session", sa.Column("owner", sa.UUID(), nullable=True))
    op.execute("update session set owner = coalesce(angler_id, device) where source <> 'demo'")
    op.create_index("ix_session_owner", "session", ["owner", "started_at"])
    for table in ("recording", "named_setup"):
        op.alter_column(table, "device", new_column_name="owner", nullable=True)
    op.execute("alter index ix_recording_device rename to ix_recording_owner")
    op.execute("alter table named_setup rename constraint one_name_a_device to one_setup_name_an_owner")
    op.alter_column("card", "owner", nullable=True)
    op.alter_column("rig", "owner", nullable=True)
    op.execute(sa.text("update rig set owner = null, active = false where id = :rig").bindparams(rig=DEMO_RIG))
