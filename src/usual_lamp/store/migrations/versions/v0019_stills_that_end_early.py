"""Stills that end with the samples they have."""

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("still", sa.Column("ends_now", sa.Boolean(), nullable=False, server_default="0"))


def downgrade() -> None:
    op.drop_column("still", "ends_now")
