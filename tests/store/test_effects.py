"""Revisions, undo, redo, stale saves, and that nothing acknowledged is lost."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import text
from sqlalchemy.orm import Session

from sunglaze.core.effect.document import Effect
from sunglaze.core.errors import BadFile
from sunglaze.store import effects, files
from sunglaze.store.database import engine_for, migrate, open_database
from sunglaze.store.tables import Base, RevisionRow
from tests.layers import fill


@pytest.fixture
def session(tmp_path: Path) -> Iterator[Session]:
    with open_database(tmp_path)() as opened:
        yield opened


def named(name: str) -> Effect:
    return Effect(name=name, layers=[fill("a", name=name)])


def test_migrations_lead_to_the_tables_of_the_models(tmp_path: Path) -> None:
    engine = engine_for(tmp_path)
    migrate(engine)
    migrate(engine)
    with engine.connect() as connection:
        differences = compare_metadata(MigrationContext.configure(connection), Base.metadata)
        assert [d for d in differences if d[0] not in ("add_fk", "remove_fk")] == []
        assert connection.execute(text("PRAGMA foreign_keys")).scalar() == 1
        assert connection.execute(text("PRAGMA journal_mode")).scalar() == "wal"


def test_every_save_is_a_revision_and_undo_moves_the_head(session: Session) -> None:
    made = effects.create(session, named("0"))
    base = made.revision
    for n in range(1, 6):
        base = effects.save(session, made.id, base, named(str(n)), f"step {n}").kept.revision
    for n in (4, 3, 2, 1, 0):
        assert effects.undo(session, made.id).effect == named(str(n))
    assert effects.undo(session, made.id).undo is None
    for n in (1, 2, 3, 4, 5):
        kept = effects.redo(session, made.id)
        assert (kept.effect, kept.undo) == (named(str(n)), f"step {n}")
    assert effects.redo(session, made.id).redo is None
    assert session.query(RevisionRow).count() == 6


def test_a_change_after_undo_ends_redo_but_loses_nothing(session: Session) -> None:
    made = effects.create(session, named("0"))
    effects.save(session, made.id, made.revision, named("1"), "one")
    back = effects.undo(session, made.id)
    other = effects.save(session, made.id, back.revision, named("2"), "two").kept
    assert (other.effect, other.redo) == (named("2"), None)
    assert session.query(RevisionRow).count() == 3
    assert effects.redo(session, made.id).effect == named("2")


def test_a_stale_save_is_kept_beside_the_head(session: Session) -> None:
    made = effects.create(session, named("0"))
    effects.save(session, made.id, made.revision, named("first window"), "a")
    late = effects.save(session, made.id, made.revision, named("second window"), "b")
    assert late.stale
    assert late.kept.effect == named("first window")
    beside = session.get(RevisionRow, late.kept_as)
    assert beside is not None
    assert "second window" in beside.document


def test_deleted_effects_come_back(session: Session) -> None:
    made = effects.create(session, named("0"))
    effects.delete(session, made.id)
    assert effects.every(session) == []
    with pytest.raises(effects.NotThere):
        effects.get(session, made.id)
    assert effects.restore(session, made.id).effect == named("0")


def test_assets_are_kept_once_by_their_contents(session: Session) -> None:
    cube = b"LUT_1D_SIZE 2\n0 0 0\n1 1 1\n"
    facts = files.lookup_facts(cube)
    first, again = (files.add(session, "lookup", name, cube, facts) for name in ("a.cube", "../../b.cube"))
    assert first.hash == again.hash
    assert first.name == "a.cube"
    with pytest.raises(BadFile):
        files.lookup_facts(b"\0\1")
    with pytest.raises(effects.NotThere):
        files.asset(session, "f" * 64)
