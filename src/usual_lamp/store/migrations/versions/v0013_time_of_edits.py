"""When an edit was made; not known of those made before."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("scene_version", sa.Column("made", DATETIME(fsp=3)))


def downgrade() -> None:
    op.drop_column("scene_version", "made")
