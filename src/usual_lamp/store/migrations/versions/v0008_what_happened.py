"""What became of stills and imports: samples that were no numbers, what is waited for, which state of a file was read."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("still", sa.Column("dropped", sa.BigInteger, nullable=False, server_default="0"))
    op.add_column("intake_run", sa.Column("file_state", sa.String(64), nullable=True))
    # What is next to undo is found without reading the whole history.
    op.create_index("ix_scene_version_standing", "scene_version", ["review_id", "standing", "seq"])


def downgrade() -> None:
    op.drop_index("ix_scene_version_standing", "scene_version")
    op.drop_column("intake_run", "file_state")
    op.drop_column("still", "dropped")
