"""The light of finished stills, kept by group."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import LONGBLOB

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("still", sa.Column("light_key", sa.String(64)))
    op.add_column("still", sa.Column("relit_of", sa.String(16)))
    op.add_column("still", sa.Column("light_kept", sa.Boolean(), nullable=False, server_default="0"))
    op.create_index("ix_still_light", "still", ["review_id", "light_key"])
    op.create_table(
        "still_light",
        sa.Column("still_id", sa.String(16), sa.ForeignKey("still.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("tile", sa.Integer(), primary_key=True, autoincrement=False),
        sa.Column("means", LONGBLOB(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("still_light")
    op.drop_index("ix_still_light", "still")
    for name in ("light_key", "relit_of", "light_kept"):
        op.drop_column("still", name)
