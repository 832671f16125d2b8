"""People: accounts, sets that belong to them and are shared, and who did what."""

import logging

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"

log = logging.getLogger(__name__)
_THERE = "IF(removed_at IS NULL, 1, NULL)"
_OF_SET = "picture_sets.id"
_OF_PICTURE = "pictures.id"
_AUTHORED = ("ledger_entries", "exports", "acts")
_REFUSED = (1142, 1227, 1419)
"""MariaDB's numbers for triggers that this account may not make."""


_INDEXES = (
    ("sign_ins", ("person_id",)),
    ("shares", ("person_id",)),
    ("client_links", ("set_id",)),
    ("favourites", ("picture_id",)),
    ("comments", ("picture_id",)),
    ("deeds", ("at", "person_id", "set_id", "picture_id")),
)


def upgrade() -> None:
    """Apply."""
    _people()
    _shared()
    _deeds()
    for table, columns in _INDEXES:
        for column in columns:
            op.create_index(f"ix_{table}_{column}", table, [column], if_not_exists=True)
    _authors()


def _people() -> None:
    op.create_table(
        "people",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("role", sa.String(8), nullable=False),
        sa.Column("password", sa.String(200)),
        sa.Column("vouched", sa.String(400)),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("removed_at", sa.DateTime()),
        sa.Column("there", sa.Integer(), sa.Computed(_THERE, persisted=True)),
        sa.UniqueConstraint("name", "there", name="uq_people_name_there"),
        sa.UniqueConstraint("vouched", name="uq_people_vouched"),
        if_not_exists=True,
    )
    op.create_table(
        "sign_ins",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("token_hash", sa.String(64), nullable=False),
        _refer_to("sign_ins", "person_id", "people.id", nullable=False),
        sa.Column("browser", sa.String(200), nullable=False),
        sa.Column("address", sa.String(64), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("seen_at", sa.DateTime(), nullable=False),
        sa.Column("ended_at", sa.DateTime()),
        sa.UniqueConstraint("token_hash", name="uq_sign_ins_token_hash"),
        if_not_exists=True,
    )
    op.create_table(
        "invitations",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("token_hash", sa.String(64), nullable=False),
        sa.Column("role", sa.String(8), nullable=False),
        _refer_to("invitations", "person_id", "people.id"),
        sa.Column("made_by", sa.String(60), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("until", sa.DateTime(), nullable=False),
        sa.Column("used_at", sa.DateTime()),
        sa.UniqueConstraint("token_hash", name="uq_invitations_token_hash"),
        if_not_exists=True,
    )


def _shared() -> None:
    op.create_table(
        "shares",
        _refer_to("shares", "set_id", _OF_SET, "CASCADE", primary_key=True),
        _refer_to("shares", "person_id", "people.id", primary_key=True),
        sa.Column("may", sa.Integer(), nullable=False),
        if_not_exists=True,
    )
    op.create_table(
        "client_links",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("token_hash", sa.String(64), nullable=False),
        _refer_to("client_links", "set_id", _OF_SET, "CASCADE", nullable=False),
        sa.Column("label", sa.String(60), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("until", sa.DateTime(), nullable=False),
        sa.Column("ended_at", sa.DateTime()),
        sa.UniqueConstraint("token_hash", name="uq_client_links_token_hash"),
        if_not_exists=True,
    )
    op.create_table(
        "favourites",
        _refer_to("favourites", "link_id", "client_links.id", "CASCADE", primary_key=True),
        _refer_to("favourites", "picture_id", _OF_PICTURE, "CASCADE", primary_key=True),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        if_not_exists=True,
    )
    op.create_table(
        "comments",
        sa.Column("id", sa.Integer(), primary_key=True),
        _refer_to("comments", "picture_id", _OF_PICTURE, "CASCADE", nullable=False),
        _refer_to("comments", "person_id", "people.id"),
        _refer_to("comments", "link_id", "client_links.id", "SET NULL"),
        sa.Column("author", sa.String(60), nullable=False),
        sa.Column("x", sa.Float(), nullable=False),
        sa.Column("y", sa.Float(), nullable=False),
        sa.Column("words", sa.String(1000), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        if_not_exists=True,
    )


def _deeds() -> None:
    op.create_table(
        "deeds",
        sa.Column("id", sa.BigInteger(), primary_key=True),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("who", sa.String(60), nullable=False),
        sa.Column("person_id", sa.Integer()),
        sa.Column("what", sa.String(40), nullable=False),
        sa.Column("set_id", sa.Integer()),
        sa.Column("picture_id", sa.Integer()),
        sa.Column("facts", sa.JSON()),
        if_not_exists=True,
    )
    for act in ("UPDATE", "DELETE"):
        try:
            op.execute(
                f"CREATE TRIGGER IF NOT EXISTS deeds_stay_{act.lower()} BEFORE {act} ON deeds "
                "FOR EACH ROW SIGNAL SQLSTATE '45000' "
                "SET MESSAGE_TEXT = 'no line of the audit log is changed or deleted'"
            )
        except sa.exc.DBAPIError as problem:
            if getattr(problem.orig, "args", (0,))[0] not in _REFUSED:
                raise
            log.warning("the database does not guard the audit log itself: %s", problem.orig)


def _authors() -> None:
    for table in _AUTHORED:
        op.add_column(table, sa.Column("author_id", sa.Integer()), if_not_exists=True)
        _refer(table, "author_id")
    op.add_column("picture_sets", sa.Column("owner_id", sa.Integer()), if_not_exists=True)
    slot = sa.Column(
        "owner_slot", sa.Integer(), sa.Computed("COALESCE(owner_id, 0)", persisted=True)
    )
    op.add_column("picture_sets", slot, if_not_exists=True)
    _refer("picture_sets", "owner_id")
    op.create_index(
        "uq_picture_sets_name_live_owner_slot",
        "picture_sets",
        ["name", "live", "owner_slot"],
        unique=True,
        if_not_exists=True,
    )
    op.drop_index("uq_picture_sets_name_live", "picture_sets", if_exists=True)


def _refer_to(
    table: str, name: str, target: str, ondelete: str | None = None, **how: bool
) -> sa.Column[int]:
    """A column that names a row of another table."""
    key = sa.ForeignKey(target, name=f"fk_{table}_{name}", ondelete=ondelete)
    return sa.Column(name, sa.Integer(), key, **how)  # type: ignore[arg-type]


def _refer(table: str, column: str) -> None:
    """Let a column name a person, unless an upgrade that was interrupted did so already."""
    key = f"fk_{table}_{column}"
    if key not in (one["name"] for one in sa.inspect(op.get_bind()).get_foreign_keys(table)):
        op.create_foreign_key(key, table, "people", [column], ["id"])
