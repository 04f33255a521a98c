"""devices that are let in from other machines."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "pairing",
        sa.Column("id", sa.UUID(), primary_key=True),
        sa.Column("device", sa.UUID(), nullable=False, unique=True),
        sa.Column("angler", sa.UUID(), nullable=False),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("paired_at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_index("ix_pairing_angler", "pairing", ["angler"])
