"""The scene that a still was taken of, its finish and light without grain, and what people note on it."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import LONGTEXT

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None

ADDED = ("scene", "finish", "look", "lighting", "negative", "starred", "note", "first")


def upgrade() -> None:
    op.add_column("still", sa.Column("scene", LONGTEXT()))
    op.add_column("still", sa.Column("finish", sa.Text()))
    op.add_column("still", sa.Column("look", sa.String(64)))
    op.add_column("still", sa.Column("lighting", sa.String(32)))
    op.add_column("still", sa.Column("negative", sa.String(64), sa.ForeignKey("blob.sha256", name="fk_still_negative")))
    op.add_column("still", sa.Column("starred", sa.Boolean(), nullable=False, server_default="0"))
    op.add_column("still", sa.Column("note", sa.String(500), nullable=False, server_default=""))
    op.add_column("still_light", sa.Column("samples", sa.Integer()))
    op.add_column("still", sa.Column("first", sa.Integer(), nullable=False, server_default="0"))


def downgrade() -> None:
    op.drop_constraint("fk_still_negative", "still", type_="foreignkey")
    op.drop_column("still_light", "samples")
    for name in ADDED:
        op.drop_column("still", name)
