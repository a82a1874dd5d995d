"""Databases as earlier states of the program left them, in databases/ by the number of their tables: they open, and all that was
in them is still there."""

import gzip
from collections.abc import Iterator
from pathlib import Path

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import event
from sqlalchemy.orm import Session

from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.package.archive import listing_of, read_package
from sunglaze.store import effects, files, publishing, tracking
from sunglaze.store.database import FILE, MIGRATIONS, engine_for, open_database

WHEN = "'2026-11-28 12:00:00'"
DATABASES = sorted((Path(__file__).parent / "databases").glob("*.sqlite.gz"))


@pytest.fixture(params=DATABASES, ids=lambda path: path.name)
def session(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[Session]:
    (tmp_path / FILE).write_bytes(gzip.decompress(request.param.read_bytes()))
    with open_database(tmp_path)() as opened:
        yield opened


def test_effects_with_their_history_takes_and_files_are_there(session: Session) -> None:
    assert sorted(kept.effect.name for kept in effects.every(session)) == ["On the quay", "Slack water"]
    kept = effects.get(session, "slack-water")
    assert kept.redo == "rename"
    renamed = effects.redo(session, "slack-water")
    assert renamed.effect.name == "Spring tide"
    assert [step.take for step in effects.history(session, "slack-water") if step.take] == ["opening night"]
    assert effects.restore(session, "ebb").effect.name == "Ebb"
    assert [layer.name for layer in kept.effect.layers] == ["Dusk", "Tint", "Chart"]
    assert set(kept.effect.layers[1].drives) == {"layer:opacity"}
    # What is read of it compiles: a lookup, a picture, a mask, a drive.
    compiled = compile_effect(kept.effect, files.material_of(session, kept.effect))
    assert not compiled.faults


def test_own_footage_with_its_tracks_and_a_package_are_there(session: Session) -> None:
    quay = effects.get(session, "on-the-quay").effect
    own = tracking.own_camera(session, quay, 36, 48)
    assert own is not None
    assert own.points(0)[0].shape == (478, 3)
    assert own.faces(0) == []  # all its points lie in one place
    (package,) = publishing.publications(session)
    assert (package.state, package.number, package.shown) == ("taken", 1, 1)
    version = publishing.version(session, package.code)
    assert version.taken
    assert version.name == "Spring tide"
    assert len(version.data) == version.weight
    # Of a package of version 1 there is no listing; it opens all the same.
    assert listing_of(version.data) is None
    assert read_package(version.data)[0].layers


def test_sizes_stand_beside_files_which_are_not_read_for_them(session: Session) -> None:
    said: list[str] = []
    event.listen(session.get_bind(), "before_cursor_execute", lambda *given: said.append(given[2]))
    hashes = [*effects.get(session, "slack-water").effect.pictures(), effects.get(session, "on-the-quay").effect.still or ""]
    sizes = {key: files.asset(session, key).size for key in hashes}
    assert not any("asset.data" in statement for statement in said)
    assert sizes == {key: len(files.asset(session, key).data) for key in hashes}
    assert any("asset.data" in statement for statement in said)


def test_of_publications_that_were_taken_a_version_is_in_the_showcase(tmp_path: Path) -> None:
    """Tables of number 7 knew the state of a publication, and not which of its versions had been taken."""
    engine = engine_for(tmp_path)
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "0007")
        connection.exec_driver_sql("PRAGMA defer_foreign_keys = ON")
        connection.exec_driver_sql(f"INSERT INTO effect (id, head_id, created, changed) VALUES ('tide', NULL, {WHEN}, {WHEN})")
        connection.exec_driver_sql(
            f"INSERT INTO revision (id, effect_id, gesture, document, created) VALUES (1, 'tide', 'New effect', '{{}}', {WHEN})"
        )
        for code, number, state in (("aaaaa", 2, "taken"), ("bbbbb", 1, "returned")):
            connection.exec_driver_sql(
                f"INSERT INTO publication VALUES ('{code}', 'tide', {number}, '{state}', '', 0, 0, {WHEN}, {WHEN})"
            )
            for one in (1, 2):
                connection.exec_driver_sql(
                    "INSERT INTO version (code, number, revision_id, name, changes, pieces, weight, data, created)"
                    f" VALUES ('{code}', {one}, 1, 'Tide', '[]', '[]', 0, '', {WHEN})"
                )
    engine.dispose()
    with open_database(tmp_path)() as session:
        found = {row.code: row for row in publishing.publications(session)}
        assert (found["aaaaa"].shown, [one.taken for one in found["aaaaa"].versions]) == (2, [False, True])
        assert (found["bbbbb"].shown, [one.taken for one in found["bbbbb"].versions]) == (None, [False, False])
