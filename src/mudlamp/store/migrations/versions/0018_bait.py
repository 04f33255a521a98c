"""what clouds of bait did in a session: they tightened, or burst."""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None

SOURCES = "source in ('demo', 'simulated', 'recorded', 'real')"


def upgrade() -> None:
    op.create_table(
        "bait_event",
        sa.Column("id", sa.UUID(), primary_key=True),
        sa.Column("session_id", sa.UUID(), sa.ForeignKey("session.id", ondelete="CASCADE"), nullable=False),
        sa.Column("source", sa.String(10), nullable=False),
        sa.Column("session_s", sa.Double(), nullable=False),
        sa.Column("doing", sa.String(10), nullable=False),
        sa.Column("ahead_m", sa.Double(), nullable=False),
        sa.Column("other_m", sa.Double(), nullable=False),
        sa.Column("before_m", sa.Double(), nullable=False),
        sa.Column("after_m", sa.Double(), nullable=False),
        sa.CheckConstraint(SOURCES, name="source"),
    )
    op.create_index("ix_bait_event_session", "bait_event", ["session_id", "session_s"])


def downgrade() -> None:
    op.drop_table("bait_event")
