"""trips made by hand with conditions and moves, catches, photos, bag rules; words to be searched; deleting that can be undone."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime(timezone=True)
SOURCES = "source in ('demo', 'simulated', 'recorded', 'real')"


def _key(name: str, other: str, then: str, *, nullable: bool = True) -> sa.Column[object]:
    return sa.Column(name, sa.UUID(), sa.ForeignKey(f"{other}.id", ondelete=then), nullable=nullable)


def _search(table: str, *texts: str) -> None:
    joined = " || ' ' || ".join(texts)
    op.add_column(table, sa.Column("words", postgresql.TSVECTOR(), sa.Computed(f"to_tsvector('english', {joined})", persisted=True)))
    op.create_index(f"ix_{table}_words", table, ["words"], postgresql_using="gin")


def upgrade() -> None:
    _trips()
    _catches()
    op.create_table(
        "own_chart",
        sa.Column("id", sa.UUID(), primary_key=True),
        sa.Column("owner", sa.UUID(), nullable=True),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("latitude_deg", sa.Double(), nullable=False),
        sa.Column("longitude_deg", sa.Double(), nullable=False),
        sa.Column("soundings", sa.ARRAY(sa.Double()), nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.UniqueConstraint("owner", "name", name="one_chart_a_water"),
    )
    for table in ("trip", "session", "spot", "catch"):
        op.add_column(table, sa.Column("deleted_at", MOMENT, nullable=True))
    op.add_column("session", sa.Column("known", postgresql.JSONB(), nullable=False, server_default="{}"))
    _search("trip", "title", "water", "notes")
    _search("session", "title")
    _search("spot", "kind", "note")
    _search("catch", "species", "lure", "rod", "note")
    spoken = sa.Computed("jsonb_to_tsvector('english', \"values\", '[\"string\"]')", persisted=True)
    op.add_column("boat_entry", sa.Column("words", postgresql.TSVECTOR(), spoken))
    op.create_index("ix_boat_entry_words", "boat_entry", ["words"], postgresql_using="gin")
    op.create_index("ix_shot_at", "shot", ["at", "id"])
    op.create_index("ix_reaction_shot", "reaction", ["shot_id"])
    # The planner would take every word for a rare one.
    op.execute("create statistics reaction_said on (coalesce(corrected, token)) from reaction")


def _trips() -> None:
    op.add_column("trip", sa.Column("owner", sa.UUID(), nullable=True))
    op.add_column("trip", sa.Column("people", sa.ARRAY(sa.Text()), nullable=False, server_default="{}"))
    op.add_column("trip", sa.Column("goal", sa.String(20), nullable=False, server_default=""))
    op.add_column("trip", _key("rig_id", "rig", "SET NULL"))
    op.add_column("trip", sa.Column("started_at", MOMENT, nullable=True))
    op.add_column("trip", sa.Column("ended_at", MOMENT, nullable=True))
    op.create_index("ix_trip_owner", "trip", ["owner", "day"])
    op.create_table(
        "condition",
        sa.Column("id", sa.UUID(), primary_key=True),
        _key("trip_id", "trip", "CASCADE", nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("sky", sa.String(10), nullable=True),
        sa.Column("wind_m_s", sa.Double(), nullable=True),
        sa.Column("wind_from_rad", sa.Double(), nullable=True),
        sa.Column("air_degc", sa.Double(), nullable=True),
        sa.Column("water_degc", sa.Double(), nullable=True),
        sa.Column("clarity", sa.String(10), nullable=True),
        sa.Column("pressure_pa", sa.Double(), nullable=True),
        sa.Column("origin", sa.String(10), nullable=False),
    )
    op.create_index("ix_condition_trip", "condition", ["trip_id", "at"])
    op.create_table(
        "move",
        sa.Column("id", sa.UUID(), primary_key=True),
        _key("trip_id", "trip", "CASCADE", nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("place", sa.String(80), nullable=False),
        _key("spot_id", "spot", "SET NULL"),
        sa.Column("depth_m", sa.Double(), nullable=True),
        sa.Column("saw_fish", sa.Boolean(), nullable=True),
        sa.Column("note", sa.Text(), nullable=False),
    )
    op.create_index("ix_move_trip", "move", ["trip_id", "at"])


def _catches() -> None:
    op.create_table(
        "catch",
        sa.Column("id", sa.UUID(), primary_key=True),
        sa.Column("owner", sa.UUID(), nullable=True),
        _key("trip_id", "trip", "SET NULL"),
        _key("session_id", "session", "SET NULL"),
        sa.Column("source", sa.String(10), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("species", sa.String(20), nullable=False),
        sa.Column("length_m", sa.Double(), nullable=True),
        sa.Column("weight_kg", sa.Double(), nullable=True),
        sa.Column("guess_m", sa.Double(), nullable=True),
        sa.Column("kept", sa.Boolean(), nullable=False),
        sa.Column("lure", sa.String(80), nullable=False),
        sa.Column("rod", sa.String(60), nullable=False),
        sa.Column("presentation", sa.String(20), nullable=False),
        sa.Column("depth_m", sa.Double(), nullable=True),
        sa.Column("track", sa.String(20), nullable=False),
        sa.Column("session_s", sa.Double(), nullable=True),
        sa.Column("note", sa.Text(), nullable=False),
        sa.CheckConstraint(SOURCES, name="source"),
    )
    op.create_index("ix_catch_owner", "catch", ["owner", "at"])
    op.create_table(
        "photo",
        sa.Column("id", sa.UUID(), primary_key=True),
        sa.Column("owner", sa.UUID(), nullable=True),
        _key("catch_id", "catch", "CASCADE"),
        sa.Column("digest", sa.String(64), nullable=False),
        sa.Column("size_bytes", sa.BigInteger(), nullable=False),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        sa.Column("taken_at", MOMENT, nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.UniqueConstraint("owner", "digest", name="one_photo_an_owner"),
    )
    op.create_table(
        "bag_rule",
        sa.Column("id", sa.UUID(), primary_key=True),
        sa.Column("owner", sa.UUID(), nullable=True),
        sa.Column("species", sa.String(20), nullable=False),
        sa.Column("most", sa.Integer(), nullable=False),
        sa.Column("wanted", sa.Integer(), nullable=True),
        sa.Column("least_m", sa.Double(), nullable=True),
        sa.UniqueConstraint("owner", "species", name="one_bag_rule_a_species"),
    )
