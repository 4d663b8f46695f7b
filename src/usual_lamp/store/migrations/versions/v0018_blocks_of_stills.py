"""Blocks of a still that is being finished."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import LONGBLOB

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "still_block",
        sa.Column("still_id", sa.String(16), sa.ForeignKey("still.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("kind", sa.String(8), primary_key=True),
        sa.Column("number", sa.Integer(), primary_key=True, autoincrement=False),
        sa.Column("samples", sa.Integer(), nullable=False),
        sa.Column("data", LONGBLOB(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("still_block")
