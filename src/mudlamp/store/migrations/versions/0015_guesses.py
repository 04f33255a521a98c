"""what the angler guessed of a fish that was followed."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("track", sa.Column("guess_m", sa.Double(), nullable=True))


def downgrade() -> None:
    op.drop_column("track", "guess_m")
