"""One device listens for a watch at a time; watches are numbered as they began, whatever clocks say; what was sent is
told from another recording under the same name; readings keep in brief what lists show of them, and
elsewhere what only opening one needs.
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
    op.add_column("readings", sa.Column("brief", sa.JSON))
    op.add_column("readings", sa.Column("brief_version", sa.Integer, nullable=False, server_default="0"))
    op.create_index("ix_readings_in_order", "readings", ["room_id", "sequence"])
    op.create_index("ix_readings_lacking", "readings", ["room_id", "brief_version"])
    op.create_table(
        "reading_results",
        sa.Column("reading_id", sa.String(36), nullable=False),
        sa.Column("result", sa.JSON, nullable=False),
        sa.PrimaryKeyConstraint("reading_id", name="pk_reading_results"),
        sa.ForeignKeyConstraint(
            ["reading_id"], ["readings.id"], name="fk_reading_results_reading_id_readings", ondelete="CASCADE"
        ),
    )
    op.execute("INSERT INTO reading_results (reading_id, result) SELECT id, result FROM readings")
    op.drop_column("readings", "result")
    connection = op.get_bind()
    began = connection.execute(sa.text("SELECT id FROM watches ORDER BY started_at, rowid")).scalars().all()
    for number, watch_id in enumerate(began, start=1):
        connection.execute(
            sa.text("UPDATE watches SET sequence = :number WHERE id = :id"), {"number": number, "id": watch_id}
        )
