"""Open the database of a data folder: SQLite with write-ahead log, foreign keys, and migrations run to the newest."""

from __future__ import annotations

import errno
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, create_engine, event
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session, sessionmaker

from sunglaze.core.errors import GlazeError

MIGRATIONS = Path(__file__).parent / "migrations"
FILE = "sunglaze.sqlite"
WRITES = "writes"


def engine_for(folder: Path) -> Engine:
    """An engine on the folder's database, which is made where it is missing. Does not migrate."""
    # Drafts and faces are nobody else's business; what SQLite puts beside the file is as open as that.
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    (folder / FILE).touch(mode=0o600)
    (folder / FILE).chmod(0o600)
    engine = create_engine(f"sqlite:///{folder / FILE}", connect_args={"timeout": 10})
    prepare(engine)
    return engine


def prepare(engine: Engine) -> None:
    """What every connection begins with. Those with the execution option WRITES take the write lock before they read anything:
    what they read then still holds when they write."""

    @event.listens_for(engine, "connect")
    def set_up(connection: Any, _record: object) -> None:
        # Transactions begin as `begin` says, not as the driver would have it.
        connection.isolation_level = None
        cursor = connection.cursor()
        cursor.execute("PRAGMA journal_mode=WAL")
        cursor.execute("PRAGMA foreign_keys=ON")
        # FULL: what was acknowledged survives a power cut, not only a killed process.
        cursor.execute("PRAGMA synchronous=FULL")
        cursor.close()

    @event.listens_for(engine, "begin")
    def begin(connection: Connection) -> None:
        connection.exec_driver_sql("BEGIN IMMEDIATE" if connection.get_execution_options().get(WRITES) else "BEGIN")


def migrate(engine: Engine) -> None:
    """Bring the database to the newest revision of its tables."""
    # Of the processes that read the database one migrates it.
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def open_database(folder: Path) -> sessionmaker[Session]:
    """Sessions on a data folder's migrated database. Raises GlazeError where the disk is full or not to be written to."""
    try:
        engine = engine_for(folder)
        migrate(engine)
    except (OSError, DatabaseError) as error:
        trouble = disk_trouble(error)
        words = trouble[0] if trouble else getattr(error, "orig", None) or error
        raise GlazeError(f"the data in {folder} cannot be opened: {words}") from None
    return sessionmaker(engine, expire_on_commit=False)


def writing(sessions: sessionmaker[Session]) -> sessionmaker[Session]:
    """Sessions that hold the write lock from their first word on, for what reads and then writes."""
    return sessionmaker(sessions.kw["bind"].execution_options(**{WRITES: True}), expire_on_commit=False)


_FULL = (errno.ENOSPC, errno.EDQUOT, errno.EFBIG)
"""The disk is, or what its owner may use of it, or a file may be no larger."""


def disk_trouble(error: BaseException) -> tuple[str, bool] | None:
    """In words, where an error says that the disk is full, read-only or busy for too long, and whether that passes by itself;
    none for all else."""
    text = str(getattr(error, "orig", None) or error).lower()
    if getattr(error, "errno", None) in _FULL or "disk is full" in text or "no space left" in text:
        return "the disk is full; make room, then try again. What was saved before is safe", False
    if getattr(error, "errno", None) in (errno.EROFS, errno.EACCES) or "readonly" in text or "unable to open" in text:
        return "its folder cannot be written to; give yourself the right to, or choose another with --data", False
    if "disk i/o error" in text:
        return "the disk cannot be read or written; where it is full, make room, then try again", False
    return ("the database is busy; try again in a moment", True) if "locked" in text else None
