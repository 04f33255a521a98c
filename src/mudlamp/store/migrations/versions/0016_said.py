"""what fish did is found by what was said of it, among everybody's."""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_index("ix_reaction_said", "reaction", ["session_id", sa.text("coalesce(corrected, token)")], postgresql_include=["shot_id"])


def downgrade() -> None:
    op.drop_index("ix_reaction_said", "reaction")
