"""where a trip was, where its boat went, which session a recording is of, from where a spot was seen."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for table, names in (
        ("trip", ("latitude_deg", "longitude_deg")),
        ("spot", ("bearing_rad", "away_m")),
        ("recording", ("begins_s",)),
    ):
        for name in names:
            op.add_column(table, sa.Column(name, sa.Double(), nullable=True))
    # No foreign key: a recording may be of a session that is not written yet, and outlives it.
    op.add_column("recording", sa.Column("session_id", sa.UUID(), nullable=True))
    op.create_table(
        "boat_point",
        sa.Column("id", sa.UUID(), primary_key=True),
        sa.Column("trip_id", sa.UUID(), sa.ForeignKey("trip.id", ondelete="CASCADE"), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("latitude_deg", sa.Double(), nullable=False),
        sa.Column("longitude_deg", sa.Double(), nullable=False),
        sa.Column("depth_m", sa.Double(), nullable=True),
        sa.Column("origin", sa.String(10), nullable=False),
    )
    op.create_index("ix_boat_point_trip", "boat_point", ["trip_id", "at"])


def downgrade() -> None:
    op.drop_table("boat_point")
    for table, names in (
        ("recording", ("session_id", "begins_s")),
        ("spot", ("bearing_rad", "away_m")),
        ("trip", ("latitude_deg", "longitude_deg")),
    ):
        for name in names:
            op.drop_column(table, name)
