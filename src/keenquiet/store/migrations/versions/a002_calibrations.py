"""Readings get tags and can be set aside; calibrations are kept by chain."""

import sqlalchemy as sa
from alembic import op

revision = "a002"
down_revision = "a001"


def upgrade() -> None:
    op.add_column("readings", sa.Column("tags", sa.JSON, nullable=False, server_default="[]"))
    op.add_column("readings", sa.Column("counts", sa.Boolean, nullable=False, server_default=sa.true()))
    op.create_table(
        "calibrations",
        sa.Column("id", sa.String(36), primary_key=True),
        sa.Column("device", sa.String(200), nullable=False),
        sa.Column("channel", sa.String(40), nullable=False),
        sa.Column("gain", sa.String(80), nullable=False),
        sa.Column("method", sa.String(16), nullable=False),
        sa.Column("full_scale_db", sa.Float, nullable=False),
        sa.Column("plus_minus_db", sa.Float, nullable=False),
        sa.Column("taken_at", sa.DateTime, nullable=False),
        sa.Column("note", sa.String(500), nullable=False),
        sa.Column("deleted_at", sa.DateTime),
    )
    op.create_index("ix_calibrations_device", "calibrations", ["device"])
