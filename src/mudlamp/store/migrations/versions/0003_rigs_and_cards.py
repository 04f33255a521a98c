"""rigs, lure boxes, rods, set-up cards."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "rig",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("owner", sa.UUID(), nullable=False),
        sa.Column("name", sa.String(length=60), nullable=False),
        sa.Column("active", sa.Boolean(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("values", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("changed_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("owner", "name", name="one_rig_name_an_owner"),
    )
    op.create_index("ix_rig_one_active", "rig", ["owner"], unique=True, postgresql_where=sa.text("active"))
    op.create_table(
        "lure",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("rig_id", sa.UUID(), nullable=False),
        sa.Column("kind", sa.String(length=20), nullable=False),
        sa.Column("head_kg", sa.Double(), nullable=False),
        sa.Column("material", sa.String(length=20), nullable=False),
        sa.Column("color", sa.String(length=40), nullable=False),
        sa.Column("finish", sa.String(length=40), nullable=False),
        sa.Column("trailer", sa.String(length=60), nullable=False),
        sa.Column("weight_kg", sa.Double(), nullable=False),
        sa.Column("recipe", sa.String(length=400), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["rig_id"], ["rig.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_lure_rig", "lure", ["rig_id", "created_at"], unique=False)
    op.create_table(
        "rod",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("rig_id", sa.UUID(), nullable=False),
        sa.Column("name", sa.String(length=60), nullable=False),
        sa.Column("length_m", sa.Double(), nullable=False),
        sa.Column("line", sa.String(length=20), nullable=False),
        sa.Column("line_n", sa.Double(), nullable=True),
        sa.Column("lure_id", sa.UUID(), nullable=True),
        sa.Column("tied_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("in_hand", sa.Boolean(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["lure_id"], ["lure.id"], ondelete="SET NULL"),
        sa.ForeignKeyConstraint(["rig_id"], ["rig.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_rod_rig", "rod", ["rig_id", "created_at"], unique=False)
    op.create_table(
        "card",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("owner", sa.UUID(), nullable=False),
        sa.Column("rig_id", sa.UUID(), nullable=True),
        sa.Column("parent_id", sa.UUID(), nullable=True),
        sa.Column("name", sa.String(length=60), nullable=True),
        sa.Column("style", sa.String(length=10), nullable=False),
        sa.Column("answers", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("values", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("costs", postgresql.JSONB(astext_type=sa.Text()), nullable=True),
        sa.Column("tuned", postgresql.JSONB(astext_type=sa.Text()), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("noticed_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["parent_id"], ["card.id"], ondelete="SET NULL"),
        sa.ForeignKeyConstraint(["rig_id"], ["rig.id"], ondelete="SET NULL"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_card_owner", "card", ["owner", "created_at"], unique=False)


def downgrade() -> None:
    for table in ("card", "rod", "lure", "rig"):
        op.drop_table(table)
