"""The view that a still was taken from, where it is not that of its shot."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("still", sa.Column("camera", sa.Text()))


def downgrade() -> None:
    op.drop_column("still", "camera")
