"""Readings know the room that they were taken in; moves keep their single steps."""

import sqlalchemy as sa
from alembic import op

revision = "a003"
down_revision = "a002"

# the room's part of a scene; what it holds is `documents.scene`'s business, older rows are filled from the revisions
_PARTS = ("shape", "surfaces", "openings", "covers", "furnishings", "noises", "air")


def upgrade() -> None:
    op.add_column("readings", sa.Column("empty", sa.JSON, nullable=False, server_default="[]"))
    op.add_column("readings", sa.Column("room_revision", sa.Integer))
    op.add_column("readings", sa.Column("scene", sa.JSON))
    op.add_column("moves", sa.Column("edits", sa.JSON, nullable=False, server_default="[]"))
    _fill(op.get_bind())


def _fill(connection: sa.Connection) -> None:
    """Each former reading gets the newest revision of its room that was saved before it."""
    meta = sa.MetaData()
    readings, revisions = (sa.Table(name, meta, autoload_with=connection) for name in ("readings", "revisions"))
    rows = connection.execute(sa.select(readings.c.id, readings.c.room_id, readings.c.taken_at, readings.c.arrangement))
    for reading_id, room_id, taken_at, arrangement in rows.all():
        found = connection.execute(
            sa.select(revisions.c.number, revisions.c.document)
            .where(revisions.c.room_id == room_id, revisions.c.saved_at <= taken_at)
            .order_by(revisions.c.number.desc())
            .limit(1)
        ).first()
        if found is None:
            continue
        number, document = found
        scene = {part: document[part] for part in _PARTS if part in document} | {"arrangement": arrangement}
        connection.execute(
            readings.update().where(readings.c.id == reading_id).values(room_revision=number, scene=scene)
        )
