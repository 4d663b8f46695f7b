"""White balance of stills."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("still", sa.Column("white", sa.Float(), nullable=False, server_default="6504"))


def downgrade() -> None:
    op.drop_column("still", "white")
