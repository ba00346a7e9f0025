"""Tables. Rooms are documents with revisions; readings, moves and ledger entries are rows."""

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import (
    JSON,
    BigInteger,
    DateTime,
    Dialect,
    Float,
    ForeignKey,
    Index,
    Integer,
    LargeBinary,
    MetaData,
    String,
    TextClause,
    TypeDecorator,
    UniqueConstraint,
    text,
)
from sqlalchemy.ext.associationproxy import AssociationProxy, association_proxy
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


class UtcTime(TypeDecorator[datetime]):
    """A time with a zone, stored as UTC; a time without one is refused."""

    impl = DateTime
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        if value is None:
            return None
        if value.tzinfo is None:
            raise ValueError("a time without a zone cannot be stored")
        return value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        return value.replace(tzinfo=UTC) if value is not None else None


class Base(DeclarativeBase):
    metadata = MetaData(
        naming_convention={
            "pk": "pk_%(table_name)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "ix": "ix_%(column_0_label)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
            "ck": "ck_%(table_name)s_%(constraint_name)s",
        }
    )


class Room(Base):
    """The room as it stands: its newest document and revision number."""

    __tablename__ = "rooms"
    id: Mapped[str] = mapped_column(String(36), primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    revision: Mapped[int] = mapped_column(Integer)
    document: Mapped[dict[str, Any]] = mapped_column(JSON)
    created_at: Mapped[datetime] = mapped_column(UtcTime)
    updated_at: Mapped[datetime] = mapped_column(UtcTime)
    deleted_at: Mapped[datetime | None] = mapped_column(UtcTime, default=None)


class Revision(Base):
    """A document of a room as it stood. label : what was changed by it."""

    __tablename__ = "revisions"
    __table_args__ = (UniqueConstraint("room_id", "number"),)
    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    room_id: Mapped[str] = mapped_column(ForeignKey("rooms.id", ondelete="CASCADE"), index=True)
    number: Mapped[int] = mapped_column(Integer)
    document: Mapped[dict[str, Any]] = mapped_column(JSON)
    saved_at: Mapped[datetime] = mapped_column(UtcTime)
    label: Mapped[str] = mapped_column(String(200), default="", server_default="")


def _following(*tables: str) -> TextClause:
    """The next number of what happens, found by the database in the same statement."""
    newest = ", ".join(f"coalesce((SELECT max(sequence) FROM {table}), 0)" for table in tables)
    return text(f"(SELECT max({newest}, 0) + 1)")


class Reading(Base):
    """One reading: where its sound is kept, how it was taken, what it says."""

    __tablename__ = "readings"
    __table_args__ = (
        Index("ix_readings_in_order", "room_id", "sequence"),
        Index("ix_readings_lacking", "room_id", "brief_version"),
    )
    id: Mapped[str] = mapped_column(String(36), primary_key=True)
    room_id: Mapped[str] = mapped_column(ForeignKey("rooms.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str] = mapped_column(String(16))
    way: Mapped[str] = mapped_column(String(16))  # import, browser or rig
    simulated: Mapped[bool] = mapped_column()
    taken_at: Mapped[datetime] = mapped_column(UtcTime)
    arrangement: Mapped[dict[str, Any]] = mapped_column(JSON)
    audio_sha256: Mapped[str] = mapped_column(String(64))
    audio_suffix: Mapped[str] = mapped_column(String(8))
    file_name: Mapped[str] = mapped_column(String(200))
    sample_rate_hz: Mapped[float] = mapped_column(Float)
    seconds: Mapped[float] = mapped_column(Float)
    settings: Mapped[dict[str, Any]] = mapped_column(JSON)
    told: Mapped["ReadingResult"] = relationship(lazy="joined", cascade="all, delete-orphan")
    result: AssociationProxy[dict[str, Any]] = association_proxy(
        "told", "result", creator=lambda found: ReadingResult(result=found)
    )
    brief: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True), default=None)  # of the result
    brief_version: Mapped[int] = mapped_column(Integer, default=0, server_default="0")
    measured: Mapped[dict[str, Any]] = mapped_column(JSON)  # mark -> figure
    predicted: Mapped[dict[str, Any]] = mapped_column(
        JSON
    )  # mark -> figure, forecast for this reading before it was read
    note: Mapped[str] = mapped_column(String(2000), default="")
    tags: Mapped[list[str]] = mapped_column(JSON, default=list)
    counts: Mapped[bool] = mapped_column(default=True)  # False: kept, but set aside; it settles no mark and no fit
    empty: Mapped[list[dict[str, Any]]] = mapped_column(JSON, default=list)  # why marks stay unsettled
    room_revision: Mapped[int | None] = mapped_column(Integer, default=None)  # the room's, when it was taken
    scene: Mapped[dict[str, Any] | None] = mapped_column(JSON, default=None)  # what acoustically mattered then
    sequence: Mapped[int] = mapped_column(
        Integer, default=_following("readings", "moves")
    )  # order, whatever clocks say
    sent_as: Mapped[str | None] = mapped_column(String(80), default=None, unique=True, index=True)  # filed once only
    sent_sha256: Mapped[str | None] = mapped_column(String(64), default=None)  # of what was sent, before unpacking
    deleted_at: Mapped[datetime | None] = mapped_column(UtcTime, default=None)


class ReadingResult(Base):
    """All that a reading says. Apart from the rest: a hundred times as large, and opened one at a time."""

    __tablename__ = "reading_results"
    reading_id: Mapped[str] = mapped_column(ForeignKey("readings.id", ondelete="CASCADE"), primary_key=True)
    result: Mapped[dict[str, Any]] = mapped_column(JSON)


class Calibration(Base):
    """What sound pressure level full scale means for one chain: device, channel and gain as they were set."""

    __tablename__ = "calibrations"
    id: Mapped[str] = mapped_column(String(36), primary_key=True)
    device: Mapped[str] = mapped_column(String(200), index=True)
    channel: Mapped[str] = mapped_column(String(40))
    gain: Mapped[str] = mapped_column(String(80))
    method: Mapped[str] = mapped_column(String(16))  # calibrator, meter or voice
    full_scale_db: Mapped[float] = mapped_column(Float)  # dB re 20 uPa of a signal whose RMS is 1
    plus_minus_db: Mapped[float] = mapped_column(Float)
    taken_at: Mapped[datetime] = mapped_column(UtcTime)
    note: Mapped[str] = mapped_column(String(500), default="")
    sequence: Mapped[int] = mapped_column(Integer, default=_following("calibrations"))
    deleted_at: Mapped[datetime | None] = mapped_column(UtcTime, default=None)


class DoneMove(Base):
    """A move that was carried out, with what was predicted for it."""

    __tablename__ = "moves"
    id: Mapped[str] = mapped_column(String(36), primary_key=True)
    room_id: Mapped[str] = mapped_column(ForeignKey("rooms.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str] = mapped_column(String(24))
    title: Mapped[str] = mapped_column(String(300))
    done_at: Mapped[datetime] = mapped_column(UtcTime)
    before: Mapped[dict[str, Any]] = mapped_column(JSON)  # predicted marks before
    after: Mapped[dict[str, Any]] = mapped_column(JSON)  # predicted marks after
    arrangement: Mapped[dict[str, Any]] = mapped_column(JSON)
    measured_before: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    edits: Mapped[list[dict[str, Any]]] = mapped_column(JSON, default=list)  # its single steps
    sequence: Mapped[int] = mapped_column(Integer, default=_following("readings", "moves"))


class LedgerEntry(Base):
    """What happened, dated."""

    __tablename__ = "ledger"
    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    room_id: Mapped[str] = mapped_column(ForeignKey("rooms.id", ondelete="CASCADE"), index=True)
    at: Mapped[datetime] = mapped_column(UtcTime)
    kind: Mapped[str] = mapped_column(String(24))
    title: Mapped[str] = mapped_column(String(300))
    detail: Mapped[dict[str, Any]] = mapped_column(JSON)
    reading_id: Mapped[str | None] = mapped_column(ForeignKey("readings.id", ondelete="SET NULL"), default=None)
    move_id: Mapped[str | None] = mapped_column(ForeignKey("moves.id", ondelete="SET NULL"), default=None)


class Watch(Base):
    """Hours of listening: levels by the second in parts, sounds of what passed in clips."""

    __tablename__ = "watches"
    id: Mapped[str] = mapped_column(String(36), primary_key=True)
    room_id: Mapped[str] = mapped_column(ForeignKey("rooms.id", ondelete="CASCADE"), index=True)
    way: Mapped[str] = mapped_column(String(16))  # browser, rig or import
    name: Mapped[str] = mapped_column(String(200), default="")
    unit: Mapped[str] = mapped_column(String(8))  # dBFS or dBA
    started_at: Mapped[datetime] = mapped_column(UtcTime)
    ended_at: Mapped[datetime | None] = mapped_column(UtcTime, default=None)
    stopped_why: Mapped[str] = mapped_column(String(24), default="")
    step_ms: Mapped[int] = mapped_column(Integer, default=1000)
    clip_bytes: Mapped[int] = mapped_column(Integer, default=0)
    counts: Mapped[bool] = mapped_column(default=True)
    device: Mapped[str] = mapped_column(String(64), default="", server_default="")  # that listens; none said: any
    device_from_ms: Mapped[int] = mapped_column(BigInteger, default=0, server_default="0")  # since it took over
    sequence: Mapped[int] = mapped_column(Integer, default=_following("watches"), server_default="0")
    deleted_at: Mapped[datetime | None] = mapped_column(UtcTime, default=None)


class WatchPart(Base):
    """Levels from one moment on, one after the other without a gap. No second is in two parts of a watch."""

    __tablename__ = "watch_parts"
    __table_args__ = (UniqueConstraint("watch_id", "from_ms"),)
    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    watch_id: Mapped[str] = mapped_column(ForeignKey("watches.id", ondelete="CASCADE"), index=True)
    from_ms: Mapped[int] = mapped_column(BigInteger)  # since 1970, UTC
    count: Mapped[int] = mapped_column(Integer)
    offset_min: Mapped[int] = mapped_column(Integer)  # of local time against UTC, then
    levels: Mapped[bytes] = mapped_column(LargeBinary)  # (count, 9) bytes: A-weighted and octaves, `core.read.watch`


class WatchClip(Base):
    """Some seconds of sound round something that passed."""

    __tablename__ = "watch_clips"
    __table_args__ = (UniqueConstraint("watch_id", "at_ms"),)
    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    watch_id: Mapped[str] = mapped_column(ForeignKey("watches.id", ondelete="CASCADE"), index=True)
    at_ms: Mapped[int] = mapped_column(BigInteger)
    seconds: Mapped[float] = mapped_column(Float)
    rise_db: Mapped[float] = mapped_column(Float)
    audio_sha256: Mapped[str] = mapped_column(String(64))
    audio_suffix: Mapped[str] = mapped_column(String(8))
