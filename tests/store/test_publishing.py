"""Published effects in the database: an address that stays, versions, the review step by step, and counts."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from sqlalchemy.orm import Session

from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.literals import Material
from sunglaze.core.package.archive import write_package
from sunglaze.store import effects, publishing
from sunglaze.store.database import open_database
from sunglaze.store.effects import NotThere
from tests.layers import fill


@pytest.fixture
def session(tmp_path: Path) -> Iterator[Session]:
    with open_database(tmp_path)() as opened:
        yield opened


def published(session: Session, effect_id: str) -> str:
    kept = effects.get(session, effect_id)
    return publishing.publish(session, kept, write_package(kept.effect, Material()), publishing.listing(session, effect_id)).code


def test_versions_follow_each_other_under_one_address(session: Session) -> None:
    kept = effects.create(session, Effect(name="Tide", layers=[fill("a", name="Water")]))
    code = published(session, kept.id)
    first = publishing.version(session, code).data
    more = kept.effect.model_copy(update={"layers": [*kept.effect.layers, fill("b", name="Foam")]})
    effects.save(session, kept.id, kept.revision, more, "Foam")
    assert published(session, kept.id) == code
    row = publishing.publication(session, code)
    assert [one.number for one in row.versions] == [1, 2]
    assert row.versions[1].changes == ["Foam: new"]
    assert publishing.version(session, code).data != first
    publishing.put_back(session, code, 1)
    assert publishing.version(session, code).data == first
    # What comes next counts on from the newest, and says what is different from what was played.
    published(session, kept.id)
    assert [one.number for one in publishing.publication(session, code).versions] == [1, 2, 3]
    assert publishing.publication(session, code).versions[2].changes == ["Foam: new"]
    with pytest.raises(NotThere, match="no version 9"):
        publishing.put_back(session, code, 9)


def test_a_version_that_was_never_taken_does_not_get_in_by_being_put_back(session: Session) -> None:
    kept = effects.create(session, Effect(name="Tide", layers=[fill("a")]))
    code = published(session, kept.id)
    for state in ("in review", "returned"):
        publishing.move(session, code, state, "Too bright.")
    published(session, kept.id)
    for state in ("in review", "taken"):
        publishing.move(session, code, state)
    row = publishing.put_back(session, code, 1)
    # What was taken stays in the showcase meanwhile.
    assert (row.state, row.plays) == ("submitted", 2)
    assert publishing.version(session, code).number == 2
    row = publishing.put_back(session, code, 2)
    assert (row.state, row.plays) == ("taken", 2)


def test_what_was_taken_stays_in_the_showcase_until_the_next_is_taken(session: Session) -> None:
    kept = effects.create(session, Effect(name="Tide", layers=[fill("a")]))
    code = published(session, kept.id)
    assert publishing.publication(session, code).shown is None
    for state in ("in review", "taken"):
        publishing.move(session, code, state)
    published(session, kept.id)
    row = publishing.publication(session, code)
    assert (row.state, row.number, row.shown, row.plays) == ("submitted", 2, 1, 1)
    publishing.move(session, code, "in review")
    assert publishing.move(session, code, "returned", "Too bright.").plays == 1
    published(session, kept.id)
    publishing.move(session, code, "in review")
    assert publishing.move(session, code, "taken").plays == 3
    publishing.move(session, code, "withdrawn")
    # Submitted again after it was out of sight: not in the showcase by itself.
    assert publishing.move(session, code, "submitted").shown is None


def test_the_review_goes_step_by_step(session: Session) -> None:
    kept = effects.create(session, Effect(name="Tide", layers=[fill("a")]))
    code = published(session, kept.id)
    with pytest.raises(publishing.NotNow, match="it is submitted: from there it can be in review or withdrawn, not taken"):
        publishing.move(session, code, "taken")
    publishing.move(session, code, "in review")
    with pytest.raises(publishing.NotNow, match="say why"):
        publishing.move(session, code, "returned", "  ")
    assert publishing.move(session, code, "returned", "The eyes are hidden.").reason == "The eyes are hidden."
    # Publishing anew submits it, and what was said of the one before is gone.
    published(session, kept.id)
    assert (publishing.publication(session, code).state, publishing.publication(session, code).reason) == ("submitted", "")
    publishing.move(session, code, "in review")
    assert publishing.move(session, code, "taken").state == "taken"
    publishing.count(session, code, "opens")
    publishing.count(session, code, "tries")
    publishing.count(session, code, "tries")
    session.refresh(row := publishing.publication(session, code))
    assert (row.opens, row.tries) == (1, 2)
    publishing.move(session, code, "withdrawn")
    with pytest.raises(NotThere, match="it was withdrawn"):
        publishing.version(session, code)
    assert published(session, kept.id) == code


def test_an_address_that_is_taken_is_not_given_again(session: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    """The dice fall the same for a while: of 28 million addresses two are alike once in some thousand packages."""
    one, two = (effects.create(session, Effect(name=name)) for name in ("Tide", "Ebb"))
    first = published(session, one.id)
    thrown = iter([*first, *first, *"tidew"])
    monkeypatch.setattr(publishing.secrets, "choice", lambda letters: next(thrown))
    assert published(session, two.id) == "tidew"
    assert publishing.publication(session, first).effect_id == one.id
