"""What happened is numbered, so that a clock set back changes no order; a reading is filed once, however often sent."""

import sqlalchemy as sa
from alembic import op

revision = "a004"
down_revision = "a003"


def upgrade() -> None:
    for table in ("readings", "moves", "calibrations"):
        op.add_column(table, sa.Column("sequence", sa.Integer, nullable=False, server_default="0"))
    op.add_column("readings", sa.Column("sent_as", sa.String(80)))
    op.create_index("ix_readings_sent_as", "readings", ["sent_as"], unique=True)
    _number(op.get_bind())


def _number(connection: sa.Connection) -> None:
    """Former rows are numbered in the order that their clock gave them, readings and moves in one row."""
    times = {"readings": "taken_at", "moves": "done_at", "calibrations": "taken_at"}
    for tables in (("readings", "moves"), ("calibrations",)):
        rows = [
            (at, table, row_id)
            for table in tables
            for row_id, at in connection.execute(sa.text(f"SELECT id, {times[table]} FROM {table}"))
        ]
        for number, (_, table, row_id) in enumerate(sorted(rows, key=lambda row: (str(row[0]), row[1])), start=1):
            connection.execute(
                sa.text(f"UPDATE {table} SET sequence = :number WHERE id = :id"), {"number": number, "id": row_id}
            )
