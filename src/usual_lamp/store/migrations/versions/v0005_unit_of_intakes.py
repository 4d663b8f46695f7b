"""Unit and upward axis that a file is taken in with."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for name in ("unit", "up"):
        op.add_column("intake_run", sa.Column(name, sa.String(12), nullable=False, server_default="as written"))


def downgrade() -> None:
    op.drop_column("intake_run", "up")
    op.drop_column("intake_run", "unit")
