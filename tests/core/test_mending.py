"""Stored effects that today's rules refuse: listed, said, held to range, and never lost."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import text

from sunglaze.core.effect.document import Effect, Layer, parse_effect
from sunglaze.core.effect.mending import NAMELESS, read_stored
from sunglaze.core.effect.migrating import VERSION
from sunglaze.store import effects
from sunglaze.store.database import open_database, writing

FILL = {"id": "f", "name": "Fill", "kind": "fill", "values": {"colour": "#123456"}}


def stored(*layers: Any, **more: Any) -> str:
    return json.dumps({"format": "sun-glaze/effect", "version": VERSION, "name": "Old", "layers": list(layers), **more})


def test_what_is_right_is_read_as_it_is() -> None:
    document = stored(FILL, seed=7)
    read = read_stored(document)
    assert (read.effect, read.problems) == (parse_effect(document), ())


@pytest.mark.parametrize(
    ("layer", "words", "kept"),
    [
        ({"kind": "vignette", "values": {"amount": 40}}, "lies outside", {"values": {"amount": 1.0}}),
        ({"kind": "vignette", "values": {"amount": "much"}}, "numbers", {"values": {}}),
        ({"kind": "vignette", "values": {"gone": 3}}, "no control 'gone'", {"values": {}}),
        ({"kind": "fill", "opacity": -2}, "held to 0", {"opacity": 0.0}),
        ({"kind": "fill", "blend": "dissolve"}, "no blend mode", {"blend": "normal"}),
        ({"kind": "fill", "sparkle": 1}, "'sparkle' is not known here", {}),
        ({"kind": "fill", "drives": {"gone": {"kind": "pulse"}}}, "what drove 'gone' is left out", {"drives": {}}),
        ({"kind": "fill", "mask": {"kind": "circle", "values": {"width": 99}}}, "lies outside", {}),
        ({"kind": "fill", "mask": 5}, "its mask is left out", {"mask": None}),
    ],
)
def test_a_layer_is_held_to_todays_rules_and_the_rest_stays(layer: dict[str, Any], words: str, kept: dict[str, Any]) -> None:
    read = read_stored(stored({"id": "l", "name": "L", **layer}, FILL))
    assert any(words in problem for problem in read.problems), read.problems
    assert all("'L'" in problem for problem in read.problems)
    first, second = read.effect.layers
    assert {name: value for name, value in first.model_dump().items() if name in kept} == kept
    assert second == Layer.model_validate(FILL)


def test_what_cannot_be_read_is_left_out_and_said() -> None:
    read = read_stored(
        stored(5, {"id": "l", "name": "L", "kind": "own", "recipe": {"nodes": 3}}, FILL, groups=[{"id": 7}], seed="x")
    )
    assert [layer.id for layer in read.effect.layers] == ["f"]
    assert read.effect.name == "Old"
    assert len(read.problems) == 4


@pytest.mark.parametrize("document", ["", "{", "[]", "5", '{"format": "other"}', "[" * 5000])
def test_what_is_no_effect_at_all_still_opens_as_an_empty_one(document: str) -> None:
    read = read_stored(document)
    assert read.effect == Effect(name=NAMELESS)
    assert read.problems


def test_a_newer_version_is_read_as_far_as_it_goes_and_said() -> None:
    read = read_stored(stored(FILL, version=VERSION + 1))
    assert "update Sun Glaze" in read.problems[0]


def test_one_bad_document_hides_no_other_and_is_never_overwritten(tmp_path: Path) -> None:
    """It had hidden the whole list."""
    sessions = writing(open_database(tmp_path))
    bad = stored({**FILL, "opacity": 9})
    with sessions.begin() as session:
        good, other = (effects.create(session, Effect(name=name)) for name in ("Good", "Other"))
        session.execute(text("UPDATE revision SET document = :bad WHERE id = :id"), {"bad": bad, "id": other.revision})
    with sessions.begin() as session:
        listed = {kept.id: kept for kept in effects.every(session)}
        assert listed.keys() == {good.id, other.id}
        assert listed[other.id].problems == ("layer 1 'Fill': its opacity was 9; it is held to 1",)
        assert effects.document(session, other.id) == bad
        mended = listed[other.id].effect
        saved = effects.save(session, other.id, other.revision, mended, "Mended")
        assert saved.kept.problems == ()
        # Undo leads back to what was stored.
        assert effects.undo(session, other.id).problems
        assert effects.document(session, other.id) == bad


def test_cues_and_dials_are_mended_one_by_one_and_newer_kinds_are_kept() -> None:
    plain = {
        "format": "sun-glaze/effect", "version": 8, "name": "Answers", "layers": [],
        "cues": [
            {"id": "tap", "name": "Tap", "kind": "tap"},
            {"id": "loud", "name": "Loud", "kind": "a-shout", "values": {"past": 3}},
            {"id": "wide", "name": "Wide", "kind": "mouth-opens", "values": {"threshold": 7.0}},
            {"id": "tap", "name": "Tap again", "kind": "press"},
        ],
        "dials": [
            {"id": "d", "title": "Strength", "start": 3.0},
            {"id": "e", "title": "Colour", "kind": "colour", "start": "#204060"},
        ],
        "rehearsal": {"format": "sun-glaze/rehearsal", "version": 2, "steps": [{"frame": 4}, {"frame": 2}]},
    }  # fmt: skip
    mended = read_stored(json.dumps(plain))
    assert [(one.id, one.kind) for one in mended.effect.cues] == [("tap", "tap"), ("loud", "a-shout")]
    assert [one.id for one in mended.effect.dials] == ["e"]
    assert mended.effect.rehearsal is None
    said = " ".join(mended.problems)
    assert "7.0 lies outside 0 to 1" in said
    assert "starts at a number from 0 to 1" in said
    assert "comes after" in said


def test_version_7_is_read_as_8() -> None:
    before = {"format": "sun-glaze/effect", "version": 7, "name": "Before", "layers": [{"id": "f", "name": "F", "kind": "fill"}]}
    mended = read_stored(json.dumps(before))
    assert mended.problems == ()
    assert (mended.effect.version, mended.effect.cues, mended.effect.dials, mended.effect.rehearsal) == (8, [], [], None)
