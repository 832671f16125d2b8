"""The tables. Times are UTC; an entry of a ledger is never changed or deleted."""

from datetime import UTC, datetime
from typing import Literal

from sqlalchemy import (
    JSON,
    BigInteger,
    Computed,
    DateTime,
    ForeignKey,
    Index,
    Integer,
    MetaData,
    String,
    Text,
    UniqueConstraint,
)
from sqlalchemy.dialects.mysql import MEDIUMBLOB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

from sequor.core.print_size import PrintSize
from sequor.store.acting import author_id

ExportFormat = Literal["jpeg", "png", "tiff", "webp", "avif", "jxl", "exr"]
ExportStage = Literal["queued", "done", "failed", "cancelled"]
ENDED: tuple[ExportStage, ...] = ("done", "failed", "cancelled")


def now() -> datetime:
    """The present moment in UTC, as the tables keep it."""
    return datetime.now(UTC).replace(tzinfo=None)


class Base(DeclarativeBase):
    """Common ancestor, with predictable names for constraints."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(table_name)s_%(column_0_N_name)s",
            "uq": "uq_%(table_name)s_%(column_0_N_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s",
            "pk": "pk_%(table_name)s",
        }
    )


class PictureSet(Base):
    """An assignment: the pictures that belong together.

    ``place`` orders sets, ``binned_at`` says since when one is in the bin; ``live``, 1 outside it
    and NULL within, lets its name be given anew. ``owner_id`` is the account that it belongs to,
    ``owner_slot`` the same and 0 where there is none: everybody names their sets themselves.
    """

    __tablename__ = "picture_sets"
    __table_args__ = (
        Index("uq_picture_sets_name_live_owner_slot", "name", "live", "owner_slot", unique=True),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    created_at: Mapped[datetime] = mapped_column(DateTime, default=now)
    description: Mapped[str] = mapped_column(String(1000), default="", server_default="")
    place: Mapped[int] = mapped_column(Integer, default=0, server_default="0")
    binned_at: Mapped[datetime | None] = mapped_column(DateTime)
    live: Mapped[int | None] = mapped_column(
        Integer, Computed("IF(binned_at IS NULL, 1, NULL)", persisted=True)
    )
    owner_id: Mapped[int | None] = mapped_column(ForeignKey("people.id"), default=author_id)
    owner_slot: Mapped[int] = mapped_column(
        Integer, Computed("COALESCE(owner_id, 0)", persisted=True)
    )
    pictures: Mapped[list["Picture"]] = relationship(back_populates="set", order_by="Picture.id")


class Original(Base):
    """A file as it came in, known by the SHA-256 of its content.

    ``damage`` says what was wrong with it when it was read last, None when nothing was;
    ``taken_damaged`` what was wrong with it when it came in and was wanted all the same. ``bow``
    and ``pose`` are what the file states of lens and camera (`core.photo`), ``remarks`` what should
    be known of how it was read.
    """

    __tablename__ = "originals"

    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    byte_size: Mapped[int] = mapped_column(BigInteger)
    format: Mapped[str] = mapped_column(String(8))
    width: Mapped[int] = mapped_column(Integer)
    height: Mapped[int] = mapped_column(Integer)
    channels: Mapped[int] = mapped_column(Integer)
    bits: Mapped[int] = mapped_column(Integer)
    orientation: Mapped[int] = mapped_column(Integer)
    profile: Mapped[str | None] = mapped_column(String(200))
    focal35_mm: Mapped[float | None]
    focal_source: Mapped[str | None] = mapped_column(String(8))
    taken_at: Mapped[datetime | None] = mapped_column(DateTime)
    created_at: Mapped[datetime] = mapped_column(DateTime, default=now)
    damage: Mapped[str | None] = mapped_column(String(200))
    verified_at: Mapped[datetime | None] = mapped_column(DateTime)
    taken_damaged: Mapped[str | None] = mapped_column(String(300))
    bow: Mapped[dict[str, object] | None] = mapped_column(JSON(none_as_null=True))
    pose: Mapped[dict[str, object] | None] = mapped_column(JSON(none_as_null=True))
    remarks: Mapped[list[str] | None] = mapped_column(JSON(none_as_null=True))


class Picture(Base):
    """A version of an original in a set; the first one is 1 and may have no name of its own.

    ``head_id`` is the ledger entry that holds now; undo and redo move it. ``binned_at`` says since
    when it is in the bin, ``file_options`` how it was exported last, ``opened_from`` the path of a
    file that stays where it lies.
    """

    __tablename__ = "pictures"
    __table_args__ = (
        Index(
            "uq_pictures_set_id_original_sha256_version",
            *("set_id", "original_sha256", "version"),
            unique=True,
        ),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    set_id: Mapped[int] = mapped_column(ForeignKey("picture_sets.id"))
    original_sha256: Mapped[str] = mapped_column(ForeignKey("originals.sha256"), index=True)
    name: Mapped[str] = mapped_column(String(255))
    head_id: Mapped[int | None] = mapped_column(ForeignKey("ledger_entries.id", use_alter=True))
    added_at: Mapped[datetime] = mapped_column(DateTime, default=now)
    version: Mapped[int] = mapped_column(Integer, default=1, server_default="1")
    version_name: Mapped[str] = mapped_column(String(60), default="", server_default="")
    binned_at: Mapped[datetime | None] = mapped_column(DateTime)
    file_options: Mapped[dict[str, object] | None] = mapped_column(JSON)
    opened_from: Mapped[str | None] = mapped_column(String(1000))
    set: Mapped[PictureSet] = relationship(back_populates="pictures", lazy="joined")
    original: Mapped[Original] = relationship(lazy="joined")
    head: Mapped["LedgerEntry"] = relationship(
        foreign_keys=[head_id], post_update=True, lazy="joined"
    )


class Act(Base):
    """Something that was done to many pictures at once, and is undone at once.

    ``files_before`` are the choices of files that it replaced, by the pictures' numbers;
    ``files_after`` those that it made.
    """

    __tablename__ = "acts"

    id: Mapped[int] = mapped_column(primary_key=True)
    what: Mapped[str] = mapped_column(String(200))
    files_before: Mapped[dict[str, object] | None] = mapped_column(JSON)
    files_after: Mapped[dict[str, object] | None] = mapped_column(JSON)
    author_id: Mapped[int | None] = mapped_column(ForeignKey("people.id"), default=author_id)
    created_at: Mapped[datetime] = mapped_column(DateTime, default=now)


class LedgerEntry(Base):
    """One recipe in the history of a picture. ``parent_id`` is the entry it was based on.

    ``act_id`` is the act on many pictures that it is part of, ``framed`` whether anything was
    decided about the frame, ``author_id`` the account of who made it.
    """

    __tablename__ = "ledger_entries"

    id: Mapped[int] = mapped_column(primary_key=True)
    picture_id: Mapped[int] = mapped_column(ForeignKey("pictures.id"), index=True)
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("ledger_entries.id"), index=True)
    what: Mapped[str] = mapped_column(String(200))
    recipe: Mapped[dict[str, object]] = mapped_column(JSON)
    recipe_hash: Mapped[str] = mapped_column(String(32), index=True)
    roll_deg: Mapped[float]
    lean_deg: Mapped[float]
    swing_deg: Mapped[float]
    kept_fraction: Mapped[float]
    framed: Mapped[bool] = mapped_column(default=False, server_default="0")
    act_id: Mapped[int | None] = mapped_column(ForeignKey("acts.id"), index=True)
    author_id: Mapped[int | None] = mapped_column(ForeignKey("people.id"), default=author_id)
    created_at: Mapped[datetime] = mapped_column(DateTime, default=now)


class Export(Base):
    """A corrected file that was asked for: queued, done, failed or cancelled.

    ``options`` say how it is written; ``filled_share`` is the share of its pixels that were filled,
    ``doubt`` and ``flaws`` how good the fill is and how many places of it stand out;
    ``begun`` counts how often it was begun, also by runs of the program that did not end it;
    ``placed`` is the path of the copy beside the original, empty while it is still to be put there,
    None where none was asked for.
    """

    __tablename__ = "exports"

    id: Mapped[int] = mapped_column(primary_key=True)
    picture_id: Mapped[int] = mapped_column(ForeignKey("pictures.id"), index=True)
    entry_id: Mapped[int] = mapped_column(ForeignKey("ledger_entries.id"))
    format: Mapped[ExportFormat] = mapped_column(String(8))
    quality: Mapped[int] = mapped_column(Integer)
    options: Mapped[dict[str, object] | None] = mapped_column(JSON)
    file_name: Mapped[str | None] = mapped_column(String(255))
    filled_share: Mapped[float | None]
    doubt: Mapped[float | None]
    flaws: Mapped[int | None] = mapped_column(Integer)
    state: Mapped[ExportStage] = mapped_column(String(12), default="queued", index=True)
    problem: Mapped[str | None] = mapped_column(Text)
    width: Mapped[int | None] = mapped_column(Integer)
    height: Mapped[int | None] = mapped_column(Integer)
    byte_size: Mapped[int | None] = mapped_column(BigInteger)
    empty_pixels: Mapped[int | None] = mapped_column(BigInteger)
    created_at: Mapped[datetime] = mapped_column(DateTime, default=now)
    finished_at: Mapped[datetime | None] = mapped_column(DateTime)
    begun: Mapped[int] = mapped_column(Integer, default=0, server_default="0")
    placed: Mapped[str | None] = mapped_column(String(1300))
    author_id: Mapped[int | None] = mapped_column(ForeignKey("people.id"), default=author_id)
    picture: Mapped[Picture] = relationship()
    entry: Mapped[LedgerEntry] = relationship()


class StoredProposal(Base):
    """What an original proposes itself for a recipe and a want: the same whenever it is asked, by
    one ``version`` of how pictures are read.
    """

    __tablename__ = "proposals"
    __table_args__ = (
        UniqueConstraint(
            *("original_sha256", "recipe_hash", "want", "version"), name="uq_proposals_key"
        ),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    original_sha256: Mapped[str] = mapped_column(ForeignKey("originals.sha256"))
    recipe_hash: Mapped[str] = mapped_column(String(32))
    want: Mapped[str] = mapped_column(String(8))
    version: Mapped[int] = mapped_column(Integer)
    proposal: Mapped[dict[str, object]] = mapped_column(JSON)
    made_at: Mapped[datetime] = mapped_column(DateTime, default=now)


class Unsettled(Base):
    """A picture that was tried to be read, by a ``version`` of how pictures are read, and could not
    be: why, how often, and when it is tried again.
    """

    __tablename__ = "unsettled"

    picture_id: Mapped[int] = mapped_column(
        ForeignKey("pictures.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    version: Mapped[int] = mapped_column(Integer)
    reason: Mapped[str] = mapped_column(String(300))
    tries: Mapped[int] = mapped_column(Integer)
    again_at: Mapped[datetime] = mapped_column(DateTime)


class PrintFormat(Base):
    """A size that a lab prints; ``unit`` is ``in`` or ``cm``.

    ``ppi`` the resolution it asks for.
    """

    __tablename__ = "print_sizes"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    width: Mapped[float]
    height: Mapped[float]
    unit: Mapped[Literal["in", "cm"]] = mapped_column(String(2))
    ppi: Mapped[float]

    @property
    def measures(self) -> PrintSize:
        """The size as a recipe takes it."""
        return PrintSize(width=self.width, height=self.height, unit=self.unit, ppi=self.ppi)


class Preset(Base):
    """Choices of a file that were given a name."""

    __tablename__ = "presets"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60), unique=True)
    options: Mapped[dict[str, object]] = mapped_column(JSON)


class Weighting(Base):
    """What counts how much in weighing harm, under a name."""

    __tablename__ = "weightings"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60), unique=True)
    options: Mapped[dict[str, object]] = mapped_column(JSON)


class Receipt(Base):
    """Left by a transaction, so that it can be told whether it was committed."""

    __tablename__ = "receipts"

    token: Mapped[str] = mapped_column(String(32), primary_key=True)
    made_at: Mapped[datetime] = mapped_column(DateTime, default=now, index=True)


class StoredAnswer(Base):
    """What was answered to a request that names itself by a key, kept in its own transaction, so
    that the same request gets the same answer when it comes again; ``asked`` is a hash of it, and
    ``body`` is deflated.
    """

    __tablename__ = "kept_answers"

    request_key: Mapped[str] = mapped_column(String(64), primary_key=True)
    asked: Mapped[str] = mapped_column(String(64))
    status: Mapped[int] = mapped_column(Integer)
    body: Mapped[bytes] = mapped_column(MEDIUMBLOB)
    made_at: Mapped[datetime] = mapped_column(DateTime, default=now, index=True)
