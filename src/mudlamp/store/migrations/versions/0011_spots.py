"""spots."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "spot",
        sa.Column("id", sa.UUID(), primary_key=True),
        sa.Column("owner", sa.UUID(), nullable=True),
        sa.Column("water", sa.String(60), nullable=False),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("note", sa.Text(), nullable=False),
        sa.Column("x_m", sa.Double(), nullable=False),
        sa.Column("y_m", sa.Double(), nullable=False),
        sa.Column("depth_m", sa.Double(), nullable=True),
        sa.Column("xx_m2", sa.Double(), nullable=False),
        sa.Column("xy_m2", sa.Double(), nullable=False),
        sa.Column("yy_m2", sa.Double(), nullable=False),
        sa.Column("looks", sa.Integer(), nullable=False),
        sa.Column("source", sa.String(12), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.CheckConstraint("source in ('demo', 'simulated', 'recorded', 'real')", name="spot_source"),
    )
    op.create_index("ix_spot_owner", "spot", ["owner", "water"])
