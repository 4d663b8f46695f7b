"""What lies behind each pixel of a still, and which part of the shot's frame it shows."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("still", sa.Column("survey", sa.String(64), sa.ForeignKey("blob.sha256", name="fk_still_survey")))
    op.add_column("still", sa.Column("crop", sa.Text()))


def downgrade() -> None:
    op.drop_constraint("fk_still_survey", "still", type_="foreignkey")
    op.drop_column("still", "survey")
    op.drop_column("still", "crop")
