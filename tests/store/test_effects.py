"""Revisions, undo, redo, stale saves, and that nothing acknowledged is lost."""

from __future__ import annotations

import errno
import json
import re
import stat
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.recipe import read_recipe
from sunglaze.core.errors import BadFile, GlazeError
from sunglaze.core.material.files import encode_png
from sunglaze.core.material.still import Still
from sunglaze.core.package.archive import write_package
from sunglaze.store import effects, files
from sunglaze.store.arriving import Come, keep, read_effect
from sunglaze.store.database import FILE, disk_trouble, engine_for, migrate, open_database
from sunglaze.store.effects import NotThere
from sunglaze.store.tables import Base, RevisionRow
from tests.layers import fill


@pytest.fixture
def session(tmp_path: Path) -> Iterator[Session]:
    with open_database(tmp_path)() as opened:
        yield opened


def named(name: str) -> Effect:
    return Effect(name=name, layers=[fill("a", name=name)])


def test_a_new_effect_is_kept_in_the_document_s_own_words(session: Session) -> None:
    """As docs/formats.md has wires: "from" and "to"."""
    wired = {"format": "sun-glaze/recipe", "nodes": [{"id": "a", "kind": "picture-size"}, {"id": "b", "kind": "combine"}],
             "wires": [{"from": "a.size", "to": "b.x"}], "result": "b.out"}  # fmt: skip
    effect = Effect(name="Wired", layers=[Layer(id="l", name="L", kind="own", recipe=read_recipe(wired))])
    kept = effects.create(session, effect)
    document = session.scalars(select(RevisionRow.document).where(RevisionRow.effect_id == kept.id)).one()
    assert json.loads(document)["layers"][0]["recipe"]["wires"] == [{"from": "a.size", "to": "b.x"}]


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


def test_an_effect_weighs_its_document_and_its_files(session: Session) -> None:
    """By itself and in the list alike; the still that it is looked at on does not count."""
    used, still = (files.add(session, "picture", f"{n}.png", encode_png(np.full((9, 9, 3), n, np.uint8)), {}) for n in (1, 2))
    layer = Layer(id="p", name="P", kind="picture", values={"picture": used.hash})
    made = effects.create(session, Effect(name="Pier", layers=[layer], still=still.hash))
    plain = effects.create(session, named("plain"))
    row = session.get(RevisionRow, made.revision)
    assert row is not None
    assert made.weight == len(row.document.encode()) + used.size
    assert {one.id: one.weight for one in effects.every(session)} == {made.id: made.weight, plain.id: plain.weight}
    assert effects.uses(session) == {used.hash: [(made.id, "Pier")], still.hash: [(made.id, "Pier")]}


def test_what_is_deleted_and_what_is_not_are_told_apart(session: Session) -> None:
    made = effects.create(session, named("0"))
    with pytest.raises(NotThere, match="is not deleted"):
        effects.restore(session, made.id)
    effects.delete(session, made.id)
    with pytest.raises(NotThere, match="was deleted"):
        effects.get(session, made.id)
    assert effects.every(session) == []
    assert effects.restore(session, made.id).effect == named("0")


def test_the_history_has_the_latest_revisions_and_every_take(session: Session) -> None:
    made = effects.create(session, named("0"))
    base = made.revision
    for n in range(effects.MOST_STEPS + 4):
        base = effects.save(session, made.id, base, named(str(n)), f"step {n}").kept.revision
    effects.name_take(session, made.id, made.revision, "the first")
    steps = effects.history(session, made.id)
    assert len(steps) == effects.MOST_STEPS + 1 == 301
    assert [one.is_head for one in steps] == [True] + [False] * effects.MOST_STEPS
    assert (steps[0].gesture, steps[-1].take) == (f"step {effects.MOST_STEPS + 3}", "the first")
    assert effects.go_back_to(session, made.id, made.revision).undo == "Back to take 'the first'"
    assert effects.go_back_to(session, made.id, base).undo == f"Back to 'step {effects.MOST_STEPS + 3}'"


def test_the_data_is_its_owners_alone(tmp_path: Path) -> None:
    """600 and 700, also where it was made by a version before, and for what SQLite puts beside it."""
    folder = tmp_path / "data"
    with open_database(folder).begin() as session:
        effects.create(session, named("0"))
        assert stat.S_IMODE(folder.stat().st_mode) == 0o700
        for file in folder.iterdir():
            assert stat.S_IMODE(file.stat().st_mode) == 0o600, file
    (folder / "sunglaze.sqlite").chmod(0o644)
    open_database(folder)
    assert stat.S_IMODE((folder / "sunglaze.sqlite").stat().st_mode) == 0o600


FULL = """
import resource, sys
from pathlib import Path
from sunglaze.core.errors import GlazeError
from sunglaze.store.database import open_database
resource.setrlimit(resource.RLIMIT_FSIZE, (int(sys.argv[2]),) * 2)
try:
    open_database(Path(sys.argv[1]))
except GlazeError as error:
    print(error)
"""
"""Files may not grow beyond a size: the same failures of the same writes as on a full disk."""


@pytest.mark.parametrize("size", [0, 5000, 40000])
def test_a_start_on_a_full_disk_says_so(tmp_path: Path, size: int) -> None:
    """It had ended in the words of the database's library, with an address on the web."""
    done = subprocess.run([sys.executable, "-c", FULL, tmp_path / "data", str(size)], capture_output=True, text=True, timeout=300)
    assert done.returncode == 0, done.stderr
    assert re.search(r"cannot be opened: (the disk is full|the disk cannot be (read|written)|.*make room)", done.stdout), (
        done.stdout
    )
    assert "http" not in done.stdout


def test_what_is_wrong_with_a_database_is_said_in_its_own_words(tmp_path: Path) -> None:
    (tmp_path / FILE).write_bytes(b"no database" * 500)
    with pytest.raises(GlazeError, match=r"cannot be opened: file is not a database$"):
        open_database(tmp_path)


def test_what_comes_with_an_effect_is_kept_without_being_decoded(session: Session) -> None:
    """Decoding under the write lock had made another's save fail: 'database is locked'."""
    key = "3" * 64
    picture = Layer(id="p", name="P", kind="picture", values={"picture": key})
    facts = {"width": 2, "height": 2}
    come = Come({key: ("picture", b"nothing that a decoder would read", facts)})
    kept = keep(session, "poster.glaze", Effect(name="Poster", layers=[picture]), come)
    held = files.asset(session, str(kept.effect.layers[0].values["picture"]))
    assert (held.data, held.facts) == (b"nothing that a decoder would read", {"picture": facts})


def test_a_package_brings_what_is_known_of_its_files() -> None:
    key = "3" * 64
    picture = Layer(id="p", name="P", kind="picture", values={"picture": key})
    pixels = np.zeros((3, 5, 4), np.uint8)
    package = write_package(Effect(name="Poster", layers=[picture]), Material(pictures={key: Still.of(pixels)}))
    effect, come = read_effect(package)
    kind, data, facts = come.files[key]
    assert (effect.name, kind) == ("Poster", "picture")
    assert facts == files.picture_facts(data)
    assert (facts["width"], facts["height"]) == (5, 3)


@pytest.mark.parametrize("number", [errno.ENOSPC, errno.EDQUOT, errno.EFBIG])
def test_a_disk_that_takes_no_more_is_called_full(number: int) -> None:
    """Full, at its owner's quota, or at the largest file that is allowed (errno(3))."""
    told = disk_trouble(OSError(number, "x"))
    assert told is not None
    assert "the disk is full" in told[0]
