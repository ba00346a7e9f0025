"""First tables."""

import sqlalchemy as sa
from alembic import op

revision = "a001"
down_revision = None


def _room_id() -> sa.Column[str]:
    return sa.Column("room_id", sa.String(36), sa.ForeignKey("rooms.id", ondelete="CASCADE"), nullable=False)


def upgrade() -> None:
    op.create_table(
        "rooms",
        sa.Column("id", sa.String(36), primary_key=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("created_at", sa.DateTime, nullable=False),
        sa.Column("updated_at", sa.DateTime, nullable=False),
        sa.Column("deleted_at", sa.DateTime),
    )
    op.create_table(
        "revisions",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        _room_id(),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("saved_at", sa.DateTime, nullable=False),
        sa.UniqueConstraint("room_id", "number", name="uq_revisions_room_id"),
    )
    op.create_table(
        "readings",
        sa.Column("id", sa.String(36), primary_key=True),
        _room_id(),
        sa.Column("kind", sa.String(16), nullable=False),
        sa.Column("way", sa.String(16), nullable=False),
        sa.Column("simulated", sa.Boolean, nullable=False),
        sa.Column("taken_at", sa.DateTime, nullable=False),
        sa.Column("arrangement", sa.JSON, nullable=False),
        sa.Column("audio_sha256", sa.String(64), nullable=False),
        sa.Column("audio_suffix", sa.String(8), nullable=False),
        sa.Column("file_name", sa.String(200), nullable=False),
        sa.Column("sample_rate_hz", sa.Float, nullable=False),
        sa.Column("seconds", sa.Float, nullable=False),
        sa.Column("settings", sa.JSON, nullable=False),
        sa.Column("result", sa.JSON, nullable=False),
        sa.Column("measured", sa.JSON, nullable=False),
        sa.Column("predicted", sa.JSON, nullable=False),
        sa.Column("note", sa.String(2000), nullable=False),
        sa.Column("deleted_at", sa.DateTime),
    )
    op.create_table(
        "moves",
        sa.Column("id", sa.String(36), primary_key=True),
        _room_id(),
        sa.Column("kind", sa.String(24), nullable=False),
        sa.Column("title", sa.String(300), nullable=False),
        sa.Column("done_at", sa.DateTime, nullable=False),
        sa.Column("before", sa.JSON, nullable=False),
        sa.Column("after", sa.JSON, nullable=False),
        sa.Column("arrangement", sa.JSON, nullable=False),
        sa.Column("measured_before", sa.JSON, nullable=False),
    )
    op.create_table(
        "ledger",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        _room_id(),
        sa.Column("at", sa.DateTime, nullable=False),
        sa.Column("kind", sa.String(24), nullable=False),
        sa.Column("title", sa.String(300), nullable=False),
        sa.Column("detail", sa.JSON, nullable=False),
        sa.Column("reading_id", sa.String(36), sa.ForeignKey("readings.id", ondelete="SET NULL")),
        sa.Column("move_id", sa.String(36), sa.ForeignKey("moves.id", ondelete="SET NULL")),
    )
    for table in ("revisions", "readings", "moves", "ledger"):
        op.create_index(f"ix_{table}_room_id", table, ["room_id"])


def downgrade() -> None:
    for table in ("ledger", "moves", "readings", "revisions", "rooms"):
        op.drop_table(table)
