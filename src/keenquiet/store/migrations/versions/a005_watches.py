"""Watches: levels by the second over hours, and the sounds of what passed."""

import sqlalchemy as sa
from alembic import op

revision = "a005"
down_revision = "a004"


def upgrade() -> None:
    op.create_table(
        "watches",
        sa.Column("id", sa.String(36), nullable=False),
        sa.Column("room_id", sa.String(36), nullable=False),
        sa.Column("way", sa.String(16), nullable=False),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("unit", sa.String(8), nullable=False),
        sa.Column("started_at", sa.DateTime, nullable=False),
        sa.Column("ended_at", sa.DateTime),
        sa.Column("stopped_why", sa.String(24), nullable=False),
        sa.Column("step_ms", sa.Integer, nullable=False),
        sa.Column("clip_bytes", sa.Integer, nullable=False),
        sa.Column("counts", sa.Boolean, nullable=False),
        sa.Column("deleted_at", sa.DateTime),
        sa.PrimaryKeyConstraint("id", name="pk_watches"),
        sa.ForeignKeyConstraint(["room_id"], ["rooms.id"], name="fk_watches_room_id_rooms", ondelete="CASCADE"),
    )
    op.create_index("ix_watches_room_id", "watches", ["room_id"])
    op.create_table(
        "watch_parts",
        sa.Column("id", sa.Integer, autoincrement=True, nullable=False),
        sa.Column("watch_id", sa.String(36), nullable=False),
        sa.Column("from_ms", sa.BigInteger, nullable=False),
        sa.Column("count", sa.Integer, nullable=False),
        sa.Column("offset_min", sa.Integer, nullable=False),
        sa.Column("levels", sa.LargeBinary, nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_watch_parts"),
        sa.UniqueConstraint("watch_id", "from_ms", name="uq_watch_parts_watch_id"),
        sa.ForeignKeyConstraint(
            ["watch_id"], ["watches.id"], name="fk_watch_parts_watch_id_watches", ondelete="CASCADE"
        ),
    )
    op.create_index("ix_watch_parts_watch_id", "watch_parts", ["watch_id"])
    op.create_table(
        "watch_clips",
        sa.Column("id", sa.Integer, autoincrement=True, nullable=False),
        sa.Column("watch_id", sa.String(36), nullable=False),
        sa.Column("at_ms", sa.BigInteger, nullable=False),
        sa.Column("seconds", sa.Float, nullable=False),
        sa.Column("rise_db", sa.Float, nullable=False),
        sa.Column("audio_sha256", sa.String(64), nullable=False),
        sa.Column("audio_suffix", sa.String(8), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_watch_clips"),
        sa.UniqueConstraint("watch_id", "at_ms", name="uq_watch_clips_watch_id"),
        sa.ForeignKeyConstraint(
            ["watch_id"], ["watches.id"], name="fk_watch_clips_watch_id_watches", ondelete="CASCADE"
        ),
    )
    op.create_index("ix_watch_clips_watch_id", "watch_clips", ["watch_id"])
