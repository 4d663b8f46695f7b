"""What an intake is for, what it found before it is accepted, where revisions come from, who can be seen."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME, LONGTEXT

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("intake_run", sa.Column("purpose", sa.String(12), nullable=False, server_default="review"))
    op.add_column("intake_run", sa.Column("ask", sa.Boolean(), nullable=False, server_default="0"))
    op.add_column("intake_run", sa.Column("model", sa.String(32), nullable=True))
    op.add_column("intake_run", sa.Column("options", LONGTEXT(), nullable=True))
    op.add_column("intake_run", sa.Column("revision", sa.String(16), nullable=True))
    op.add_column("intake_run", sa.Column("report", LONGTEXT(), nullable=True))
    op.alter_column("intake_run", "source", existing_type=sa.String(64), nullable=True)
    op.alter_column("model_revision", "source", existing_type=sa.String(64), nullable=True)
    op.add_column("model_revision", sa.Column("parent", sa.String(16), nullable=True))
    moment = DATETIME(fsp=3)
    op.create_table(
        "sight",
        sa.Column("key", sa.String(64), primary_key=True),
        sa.Column("review_id", sa.String(16), sa.ForeignKey("review.id", ondelete="CASCADE"), nullable=False),
        sa.Column("question", LONGTEXT(), nullable=False),
        sa.Column("answer", LONGTEXT(), nullable=True),
        sa.Column("state", sa.String(8), nullable=False),
        sa.Column("attempt", sa.Integer(), nullable=False),
        sa.Column("lease", moment, nullable=True),
        sa.Column("created", moment, nullable=False),
        sa.Index("ix_sight_work", "state", "created"),
    )
    op.create_table(
        "followed",
        sa.Column("review_id", sa.String(16), sa.ForeignKey("review.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("model", sa.String(32), primary_key=True),
        sa.Column("path", sa.String(1024), nullable=False),
        sa.Column("taken", sa.String(64), nullable=False),
        sa.Column("seen", sa.String(64), nullable=False),
        sa.Column("problem", sa.String(255), nullable=True),
        sa.Column("newer", sa.Boolean(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("followed")
    op.drop_table("sight")
    op.drop_column("model_revision", "parent")
    for name in ("report", "revision", "options", "model", "ask", "purpose"):
        op.drop_column("intake_run", name)
