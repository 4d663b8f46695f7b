"""How long a still was to be traced, where that was asked for in place of a quality."""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("still", sa.Column("minutes_asked", sa.Float()))


def downgrade() -> None:
    op.drop_column("still", "minutes_asked")
