"""Revisions say what was changed, so that undo can say what it undoes after a reload."""

import sqlalchemy as sa
from alembic import op

revision = "a006"
down_revision = "a005"


def upgrade() -> None:
    op.add_column("revisions", sa.Column("label", sa.String(200), nullable=False, server_default=""))
