"""the list before launch."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "launch_list",
        sa.Column("id", sa.UUID(), primary_key=True),
        sa.Column("owner", sa.UUID(), nullable=True),
        sa.Column("items", sa.ARRAY(sa.Text()), nullable=False),
        sa.Column("done", sa.ARRAY(sa.Text()), nullable=False),
        sa.Column("day", sa.Date(), nullable=True),
        sa.Column("changed_at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_index("ix_launch_list_owner", "launch_list", ["owner", "changed_at"])
