"""Grain of stills: measured, asked for, and the meter's readings."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("still", sa.Column("grain", sa.Float(), nullable=True))
    op.add_column("still", sa.Column("grain_asked", sa.Float(), nullable=True))
    op.add_column("still", sa.Column("readings", sa.Text(), nullable=True))


def downgrade() -> None:
    for name in ("readings", "grain_asked", "grain"):
        op.drop_column("still", name)
