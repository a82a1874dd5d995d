"""The tables: effects with immutable revisions, assets by content hash, published versions."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, LargeBinary, MetaData, String, Text
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


def now() -> datetime:
    """The present moment, in UTC, without a zone as SQLite keeps it."""
    return datetime.now(UTC).replace(tzinfo=None)


class Base(DeclarativeBase):
    metadata = MetaData(naming_convention={"fk": "fk_%(table_name)s_%(column_0_name)s", "ix": "ix_%(column_0_label)s"})


class EffectRow(Base):
    """An effect: a head that moves over revisions. `redo` is the revision that undo came from last, if any."""

    __tablename__ = "effect"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    head_id: Mapped[int | None] = mapped_column(ForeignKey("revision.id", use_alter=True))
    created: Mapped[datetime] = mapped_column(default=now)
    changed: Mapped[datetime] = mapped_column(default=now, onupdate=now)
    deleted: Mapped[datetime | None]


class RevisionRow(Base):
    """One kept state of an effect. Never changed but for its name as a take, and `redo_id`: where redo leads from here."""

    __tablename__ = "revision"

    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    effect_id: Mapped[str] = mapped_column(ForeignKey("effect.id"), index=True)
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("revision.id"))
    redo_id: Mapped[int | None] = mapped_column(ForeignKey("revision.id"))
    gesture: Mapped[str] = mapped_column(String(200))
    take: Mapped[str | None] = mapped_column(String(80))
    document: Mapped[str] = mapped_column(Text)
    created: Mapped[datetime] = mapped_column(default=now)


class AssetRow(Base):
    """A file as it was given, by the SHA-256 of its bytes. `facts`: what was found in it as a lookup, a picture and so on;
    `draft` among them where it is not on the shelf. `deleted`: taken off the shelf; effects that use it keep it.

    Its bytes are read when they are asked for; `size` says how many there are."""

    __tablename__ = "asset"

    hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    name: Mapped[str] = mapped_column(String(200))
    facts: Mapped[dict[str, Any]] = mapped_column(JSON)
    data: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
    size: Mapped[int] = mapped_column(server_default="0")
    created: Mapped[datetime] = mapped_column(default=now)
    deleted: Mapped[datetime | None]


class TrackRow(Base):
    """What trackers saw in one picture of footage: the person's mask as PNG, the points of faces, and of hands where these were
    looked for (core/camera/tracks.py)."""

    __tablename__ = "track"

    asset_hash: Mapped[str] = mapped_column(ForeignKey("asset.hash"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    mask: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
    faces: Mapped[list[list[list[float]]]] = mapped_column(JSON)
    hands: Mapped[list[list[list[float]]] | None] = mapped_column(JSON(none_as_null=True), nullable=True)


class ListingRow(Base):
    """What is said of an effect where it is published (core/effect/listing.py)."""

    __tablename__ = "listing"

    effect_id: Mapped[str] = mapped_column(ForeignKey("effect.id"), primary_key=True)
    document: Mapped[dict[str, Any]] = mapped_column(JSON)


class PublicationRow(Base):
    """A published effect. `code` is its short address; `number`: the version that is put forward, with the `state` of its review
    since `moved` and the `reason` where it was returned; `shown`: the version in the showcase, one that was taken, be it an older
    one while another is looked at; how often it was opened and tried on."""

    __tablename__ = "publication"

    code: Mapped[str] = mapped_column(String(8), primary_key=True)
    effect_id: Mapped[str] = mapped_column(ForeignKey("effect.id"), index=True)
    number: Mapped[int]
    shown: Mapped[int | None]
    state: Mapped[str] = mapped_column(String(16))
    reason: Mapped[str] = mapped_column(Text)
    opens: Mapped[int]
    tries: Mapped[int]
    created: Mapped[datetime] = mapped_column(default=now)
    moved: Mapped[datetime] = mapped_column(default=now)
    versions: Mapped[list[VersionRow]] = relationship(order_by="VersionRow.number")

    @property
    def plays(self) -> int:
        """The version that its address plays: that of the showcase, or what is put forward where none was taken yet."""
        return self.shown or self.number


class VersionRow(Base):
    """One version of a published effect. `taken`: by a reviewer, once; `changes`: what is different from the one
    before, in words; `pieces` what each file of its package weighs, `weight` all of it, in bytes."""

    __tablename__ = "version"

    code: Mapped[str] = mapped_column(ForeignKey("publication.code"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    revision_id: Mapped[int] = mapped_column(ForeignKey("revision.id"))
    name: Mapped[str] = mapped_column(String(80))
    listing: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True), nullable=True)
    taken: Mapped[bool]
    changes: Mapped[list[str]] = mapped_column(JSON)
    pieces: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    weight: Mapped[int]
    data: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
    created: Mapped[datetime] = mapped_column(default=now)
