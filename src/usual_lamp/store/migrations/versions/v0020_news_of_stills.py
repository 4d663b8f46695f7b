"""News of stills apart from other news of a review."""

import sqlalchemy as sa
from alembic import op

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("review", sa.Column("still_pulse", sa.Integer(), nullable=False, server_default="0"))


def downgrade() -> None:
    op.drop_column("review", "still_pulse")
