"""Lightings kept across reviews."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME, LONGTEXT

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "kept_lighting",
        sa.Column("id", sa.String(64), primary_key=True),
        sa.Column("document", LONGTEXT(), nullable=False),
        sa.Column("is_start", sa.Boolean(), nullable=False),
        sa.Column("created", DATETIME(fsp=3), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("kept_lighting")
