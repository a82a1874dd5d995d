"""Open the database of a data folder: SQLite with write-ahead log, foreign keys, and migrations run to the newest."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session, sessionmaker

MIGRATIONS = Path(__file__).parent / "migrations"
FILE = "sunglaze.sqlite"


def engine_for(folder: Path) -> Engine:
    """An engine on the folder's database, which is made where it is missing. Does not migrate."""
    folder.mkdir(parents=True, exist_ok=True)
    engine = create_engine(f"sqlite:///{folder / FILE}", connect_args={"timeout": 10})

    @event.listens_for(engine, "connect")
    def set_up(connection: Any, _record: object) -> None:
        cursor = connection.cursor()
        cursor.execute("PRAGMA journal_mode=WAL")
        cursor.execute("PRAGMA foreign_keys=ON")
        # FULL: what was acknowledged survives a power cut, not only a killed process.
        cursor.execute("PRAGMA synchronous=FULL")
        cursor.close()

    return engine


def migrate(engine: Engine) -> None:
    """Bring the database to the newest revision of its tables."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def open_database(folder: Path) -> sessionmaker[Session]:
    """Sessions on a data folder's migrated database."""
    engine = engine_for(folder)
    migrate(engine)
    return sessionmaker(engine, expire_on_commit=False)
