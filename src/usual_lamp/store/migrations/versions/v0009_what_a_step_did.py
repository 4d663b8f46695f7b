"""What an edit did, in words, and in which tab it was made: said when it is taken back."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("scene_version", sa.Column("words", sa.String(200), nullable=False, server_default=""))
    op.add_column("scene_version", sa.Column("tab", sa.String(40), nullable=True))


def downgrade() -> None:
    op.drop_column("scene_version", "tab")
    op.drop_column("scene_version", "words")
