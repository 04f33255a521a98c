"""where anglers ended with a control, beside where the card started."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "ended",
        sa.Column("id", sa.UUID(), primary_key=True),
        sa.Column("owner", sa.UUID(), nullable=True),
        sa.Column("control", sa.String(40), nullable=False),
        sa.Column("over", sa.Double(), nullable=False),
        sa.Column("clarity", sa.String(20), nullable=False),
        sa.Column("technique", sa.String(20), nullable=False),
        sa.Column("light", sa.String(20), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_index("ix_ended_owner", "ended", ["owner", "created_at"])
