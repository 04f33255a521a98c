"""what phones in the boat bring home, and the packs that they take along."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "pack",
        sa.Column("id", sa.UUID(), primary_key=True),
        sa.Column("owner", sa.UUID(), nullable=True),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("content", postgresql.JSONB(), nullable=False),
    )
    op.create_index("ix_pack_owner", "pack", ["owner", "made_at"])
    op.create_table(
        "boat_entry",
        sa.Column("id", sa.UUID(), primary_key=True),
        sa.Column("owner", sa.UUID(), nullable=True),
        sa.Column("given", sa.UUID(), nullable=False),
        sa.Column("device", sa.UUID(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("offset_s", sa.Double(), nullable=False),
        sa.Column("received_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("values", postgresql.JSONB(), nullable=False),
        sa.Column("clash_of", sa.UUID(), nullable=True),
    )
    op.create_index("ix_boat_entry_owner", "boat_entry", ["owner", "at"])
