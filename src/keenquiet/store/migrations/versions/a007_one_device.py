"""One device listens for a watch at a time; watches are numbered as they began, whatever clocks say; what was sent is
told from another recording under the same name.
"""

import sqlalchemy as sa
from alembic import op

revision = "a007"
down_revision = "a006"


def upgrade() -> None:
    op.add_column("watches", sa.Column("device", sa.String(64), nullable=False, server_default=""))
    op.add_column("watches", sa.Column("device_from_ms", sa.BigInteger, nullable=False, server_default="0"))
    op.add_column("watches", sa.Column("sequence", sa.Integer, nullable=False, server_default="0"))
    op.add_column("readings", sa.Column("sent_sha256", sa.String(64)))
    connection = op.get_bind()
    began = connection.execute(sa.text("SELECT id FROM watches ORDER BY started_at, rowid")).scalars().all()
    for number, watch_id in enumerate(began, start=1):
        connection.execute(
            sa.text("UPDATE watches SET sequence = :number WHERE id = :id"), {"number": number, "id": watch_id}
        )
