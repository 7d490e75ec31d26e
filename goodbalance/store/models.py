"""Tables. Times are UTC; the entries of a record are never changed or removed."""

from datetime import UTC, datetime

from sqlalchemy import BigInteger, DateTime, ForeignKey, Index, String, Text, UniqueConstraint
from sqlalchemy.dialects.mysql import DATETIME, DOUBLE, LONGTEXT
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


def utc_now() -> datetime:
    """Now in UTC to the millisecond, without zone, as the database keeps it."""
    now = datetime.now(UTC)
    return now.replace(microsecond=now.microsecond // 1000 * 1000, tzinfo=None)


class Base(DeclarativeBase):
    type_annotation_map = {float: DOUBLE, datetime: DateTime().with_variant(DATETIME(fsp=3), "mysql", "mariadb")}


class PersonRow(Base):
    """Someone who can sign in."""

    __tablename__ = "person"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    role: Mapped[str] = mapped_column(String(20))  # lead, technician or reader
    password_hash: Mapped[str] = mapped_column(String(200))
    units: Mapped[str] = mapped_column(String(10), default="metric")
    theme: Mapped[str] = mapped_column(String(10), default="paper")
    dismissed: Mapped[str] = mapped_column(String(200), default="", server_default="")  # views whose line is put away, by a space apart
    created_at: Mapped[datetime] = mapped_column(default=utc_now)
    retired_at: Mapped[datetime | None] = mapped_column(default=None)  # works here no longer; what they wrote stays
    writes_devices: Mapped[bool] = mapped_column(default=False)  # may write to devices that are listed as to be written
    code_secret: Mapped[str | None] = mapped_column(String(300), default=None)  # of the second factor, encrypted
    code_step: Mapped[int | None] = mapped_column(BigInteger, default=None)  # the last of its time steps that was used


class SessionRow(Base):
    """One browser in which somebody is signed in. id: the hash of the token that the browser holds."""

    __tablename__ = "session"
    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), index=True)
    begun_at: Mapped[datetime] = mapped_column(default=utc_now)
    seen_at: Mapped[datetime] = mapped_column(default=utc_now)
    browser: Mapped[str] = mapped_column(String(120), default="")  # as it calls itself
    shown_at: Mapped[datetime | None] = mapped_column(default=None)  # when the password was last typed in it


class AttachmentRow(Base):
    """A long text that an entry of a station brings, by its SHA-256; the entry's hash covers the text itself."""

    __tablename__ = "attachment"
    station_id: Mapped[int] = mapped_column(ForeignKey("station.id", ondelete="CASCADE"), primary_key=True)
    digest: Mapped[str] = mapped_column(String(64), primary_key=True)
    text: Mapped[str] = mapped_column(Text().with_variant(LONGTEXT(), "mysql", "mariadb"))


class FamilyRow(Base):
    """One revision of a controller family that somebody wrote. toml: its file, where nothing is wrong with it."""

    __tablename__ = "family"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    revision: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    name: Mapped[str] = mapped_column(String(80))
    tables: Mapped[str] = mapped_column(Text().with_variant(LONGTEXT(), "mysql", "mariadb"))  # JSON: as it is edited
    toml: Mapped[str | None] = mapped_column(Text().with_variant(LONGTEXT(), "mysql", "mariadb"), default=None)
    author: Mapped[str] = mapped_column(String(80))
    at: Mapped[datetime] = mapped_column(default=utc_now)


class ColumnsRow(Base):
    """What the columns of a file from elsewhere are. signature: of its headings and what it is wanted for; told: JSON, our heading by column."""

    __tablename__ = "columns_told"
    signature: Mapped[str] = mapped_column(String(64), primary_key=True)
    told: Mapped[str] = mapped_column(String(2000))
    author: Mapped[str] = mapped_column(String(80))
    at: Mapped[datetime] = mapped_column(default=utc_now)


class LinkRow(Base):
    """A link by which somebody sets a password, once. id: the hash of its token."""

    __tablename__ = "link"
    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), index=True)
    until: Mapped[datetime]


class ShareRow(Base):
    """A link by which an owner reads one signed revision. token_hash: of what stands in its address; seq: the entry of the signature."""

    __tablename__ = "share"
    id: Mapped[int] = mapped_column(primary_key=True)
    token_hash: Mapped[str] = mapped_column(String(64), unique=True)
    station_id: Mapped[int] = mapped_column(ForeignKey("station.id", ondelete="CASCADE"), index=True)
    seq: Mapped[int]
    reader: Mapped[str] = mapped_column(String(80))
    made_by: Mapped[str] = mapped_column(String(80))
    made_at: Mapped[datetime] = mapped_column(default=utc_now)
    until: Mapped[datetime]
    revoked_at: Mapped[datetime | None] = mapped_column(default=None)


class AttemptRow(Base):
    """Wrong tries at the door. id: the hash of a name and an address."""

    __tablename__ = "attempt"
    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    count: Mapped[int]
    until: Mapped[datetime]


class DeedRow(Base):
    """Who did what that is not in a record: came in, was refused, changed a person, took a file in or out."""

    __tablename__ = "deed"
    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime] = mapped_column(default=utc_now, index=True)
    what: Mapped[str] = mapped_column(String(40))
    who: Mapped[str] = mapped_column(String(80))
    about: Mapped[str] = mapped_column(String(200))
    address: Mapped[str] = mapped_column(String(64))
    request: Mapped[str] = mapped_column(String(16))  # the number it bears in the log


class StationRow(Base):
    """A station, with the head of its record for a quick list."""

    __tablename__ = "station"
    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(32), unique=True)
    kind: Mapped[str] = mapped_column(String(40))
    name: Mapped[str] = mapped_column(String(80))
    place: Mapped[str] = mapped_column(String(120))
    head_seq: Mapped[int] = mapped_column(default=0)
    head_hash: Mapped[str] = mapped_column(String(64))
    head_seal: Mapped[str | None] = mapped_column(String(80), default=None)
    changed_at: Mapped[datetime] = mapped_column(default=utc_now, index=True)
    archived_at: Mapped[datetime | None] = mapped_column(default=None)  # put away: not in the list, all else as before
    archived_by: Mapped[str | None] = mapped_column(String(80), default=None)
    removed_at: Mapped[datetime | None] = mapped_column(default=None)  # its entries are gone; this row says that it was
    removed_by: Mapped[str | None] = mapped_column(String(80), default=None)


class SummaryRow(Base):
    """How far a station is, for the list: worked out from the entry whose hash it names, and again when that is old."""

    __tablename__ = "summary"
    station_id: Mapped[int] = mapped_column(ForeignKey("station.id", ondelete="CASCADE"), primary_key=True)
    head_hash: Mapped[str] = mapped_column(String(64))
    author: Mapped[str] = mapped_column(String(80))  # of the last entry
    progress: Mapped[str] = mapped_column(String(2000))  # JSON: view to shape and word
    needs: Mapped[str] = mapped_column(String(2000), default="[]", server_default="[]")  # JSON: weight, words and view of what it needs
    weight: Mapped[int] = mapped_column(default=0, server_default="0")  # of the gravest of them


class EntryRow(Base):
    """One entry of a record. save_key makes a repeated save of the same thing count once."""

    __tablename__ = "entry"
    __table_args__ = (UniqueConstraint("station_id", "seq"), Index("ix_entry_save_key", "save_key", unique=True))
    id: Mapped[int] = mapped_column(primary_key=True)
    station_id: Mapped[int] = mapped_column(ForeignKey("station.id", ondelete="CASCADE"))
    seq: Mapped[int]
    kind: Mapped[str] = mapped_column(String(20))
    body: Mapped[str] = mapped_column(Text().with_variant(LONGTEXT(), "mysql", "mariadb"))
    author: Mapped[str] = mapped_column(String(80))
    at: Mapped[str] = mapped_column(String(24))
    previous: Mapped[str] = mapped_column(String(64))
    hash: Mapped[str] = mapped_column(String(64))
    brought_by: Mapped[str | None] = mapped_column(String(80), default=None)  # who took it in, where a file brought it
    save_key: Mapped[str | None] = mapped_column(String(64), default=None)
