"""a track's length where it was sure, and what the angler called it."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.alter_column("track", "length_m", existing_type=sa.Double(), nullable=True)
    op.add_column("track", sa.Column("said", sa.String(20), nullable=True))
