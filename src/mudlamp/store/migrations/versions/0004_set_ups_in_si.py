"""set-ups in SI, cards with their plans, rods without the time of tying."""

import math

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

# The name in feet or degrees, the name in SI, SI units in one of the former. Frozen here: later tables may differ.
TURNED = (
    ("down_to_ft", "down_to_m", 0.3048),
    ("reach_ft", "reach_m", 0.3048),
    ("look_back_ft", "look_back_m", 0.3048),
    ("tilt_deg", "tilt_rad", math.radians(1.0)),
    ("aim_deg", "aim_rad", math.radians(1.0)),
    ("sound_speed_ft_s", "sound_speed_m_s", 0.3048),
)


def upgrade() -> None:
    for before, after, factor in TURNED:
        op.execute(
            sa.text(
                'update setup_change set "values" = ("values" - cast(:before as text)) || jsonb_build_object(cast(:after as text),'
                ' cast("values" ->> :before as double precision) * :factor) where jsonb_exists("values", :before)'
            ).bindparams(before=before, after=after, factor=factor)
        )
    op.add_column("card", sa.Column("plan", postgresql.JSONB(astext_type=sa.Text()), nullable=True))
    op.drop_column("rod", "tied_at")
