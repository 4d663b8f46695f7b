"""Samples of one's own, kept across reviews."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME, LONGTEXT

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "kept_sample",
        sa.Column("id", sa.String(64), primary_key=True),
        sa.Column("appearance", LONGTEXT(), nullable=False),
        sa.Column("created", DATETIME(fsp=3), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("kept_sample")
