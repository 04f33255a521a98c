"""where casts landed, for the angler's own casting error."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "landing",
        sa.Column("id", sa.UUID(), primary_key=True),
        sa.Column("owner", sa.UUID(), nullable=True),
        sa.Column("aimed_m", sa.Double(), nullable=False),
        sa.Column("landed_m", sa.Double(), nullable=False),
        sa.Column("off_rad", sa.Double(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_index("ix_landing_owner", "landing", ["owner", "created_at"])
