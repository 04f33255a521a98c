"""recordings and named set-ups."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "recording",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("device", sa.UUID(), nullable=False),
        sa.Column("source", sa.String(length=10), nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("digest", sa.String(length=64), nullable=False),
        sa.Column("size_bytes", sa.BigInteger(), nullable=False),
        sa.Column("pings", sa.Integer(), nullable=False),
        sa.Column("seconds", sa.Double(), nullable=False),
        sa.Column("fan", sa.String(length=6), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("expires_at", sa.DateTime(timezone=True), nullable=True),
        sa.CheckConstraint("source in ('demo', 'simulated', 'recorded', 'real')", name="source"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_recording_device", "recording", ["device", "created_at"], unique=False)
    op.create_table(
        "named_setup",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("device", sa.UUID(), nullable=False),
        sa.Column("name", sa.String(length=60), nullable=False),
        sa.Column("values", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("device", "name", name="one_name_a_device"),
    )


def downgrade() -> None:
    op.drop_table("named_setup")
    op.drop_index("ix_recording_device", table_name="recording")
    op.drop_table("recording")
