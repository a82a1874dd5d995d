"""Publishing: what is filled ahead, icons and clips against what is rendered, packages equal to the byte, and
changes in words."""

from __future__ import annotations

import io
import json
import zipfile
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from PIL import Image

from demo.saying import SAID as SAID_OF_DEMO
from demo.saying import listing
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer, LayerMask
from sunglaze.core.effect.listing import ClipAt, IconAt, Listing, Seen, Texts, read_listing, suggested
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.motions import Cue, Dial
from sunglaze.core.engine.playback import play_to
from sunglaze.core.errors import BadFile
from sunglaze.core.package.archive import SHOWN, carried, listing_of, pieces, read_package, write_package
from sunglaze.core.package.changes import changes, changes_of_listing
from sunglaze.core.package.icons import icon_png
from sunglaze.core.package.manifest import Manifest
from sunglaze.core.package.published import CLIP, publish_package
from sunglaze.core.review.profiles import profiles
from sunglaze.core.targets.memory import parts_of
from tests.layers import fill

EFFECT = Effect(name="Tide line", layers=[fill("a", "#204060", "Deep water", opacity=0.5)])
SAID = Listing(texts=(Texts(name="Tide line", line="Half under water"),), clip=ClipAt(seconds=0.5, begin=0.2))


def files_of(package: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(package)) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


def test_what_can_be_known_is_filled_ahead() -> None:
    cue = Cue(id="t", name="Tap", kind="tap", values={})
    effect = EFFECT.model_copy(update={"cues": [cue], "dials": [Dial(id="fog", title="Fog")]})
    found = suggested(effect)
    assert found.texts[0].name == "Tide line"
    assert found.texts[0].how == "Tap the picture. Turn fog as you like."
    assert found.keywords == ("deep water",)
    grain = Layer(id="g", name="Grain", kind="film-grain")
    assert suggested(Effect(name="Reel", layers=[grain])).categories == ("film",)
    assert suggested(Effect(name="Untitled effect")).texts[0].name != "Untitled effect"


def test_two_publishings_of_one_effect_are_equal_to_the_byte() -> None:
    one, other = (publish_package(EFFECT, Material(), SAID) for _ in range(2))
    assert one == other
    files = files_of(one)
    manifest = json.loads(files["manifest.json"])
    assert manifest["version"] == 2
    assert manifest["listing"]["texts"][0]["line"] == "Half under water"
    assert manifest["weights"] == {name: len(data) for name, data in files.items() if name != "manifest.json"}
    assert read_package(one)[0] == EFFECT
    assert listing_of(one) == SAID
    shown = sum(piece.bytes for piece in pieces(one) if piece.file in SHOWN)
    assert carried(one) == len(one) - shown < 30_000 < len(one)


@pytest.mark.parametrize("ending", ["mp4", "webm"])
def test_the_clip_shows_the_effect_over_its_span(ending: str) -> None:
    """As FFmpeg decodes it."""
    data = files_of(publish_package(EFFECT, Material(), SAID))[f"clip.{ending}"]
    with av.open(io.BytesIO(data)) as clip:
        pictures = [frame.to_ndarray(format="rgb24") for frame in clip.decode(video=0)]
    assert len(pictures) == 15
    compiled = compile_effect(EFFECT, Material())
    camera = StandIn(*CLIP, Sitting())
    for number in (0, 14):
        wanted = parts_of(play_to(compiled.program.final, compiled.inputs, camera, 6 + number), CLIP[0])[:, :, 2::-1]
        assert np.abs(pictures[number].astype(int) - wanted).mean() < 6


def test_icons_are_squares_of_a_frame_or_of_a_picture() -> None:
    compiled = compile_effect(EFFECT, Material())
    at = IconAt(seen=Seen(who="beekeeper", light="dusk"), seconds=1.0, u=0.95, v=0.5, side=0.5)
    icon = np.asarray(Image.open(io.BytesIO(icon_png(EFFECT, compiled, at))).convert("RGB"), float)
    assert icon.shape == (256, 256, 3)
    frame = parts_of(
        play_to(compiled.program.final, compiled.inputs, StandIn(540, 960, Sitting("beekeeper", "talk", "dusk")), 30), 540
    )
    # It is held inside: its right edge is the picture's.
    part = np.asarray(Image.fromarray(frame[345:615, 270:, 2::-1].copy()).resize((256, 256), Image.Resampling.BOX), float)
    assert np.abs(icon - part).mean() < 4
    red = np.full((20, 30, 4), (200, 10, 20, 255), np.uint8)
    red[:, 15:, 3] = 0
    drawn = np.asarray(Image.open(io.BytesIO(icon_png(EFFECT, compiled, IconAt(u=0.0), picture=red))).convert("RGB"))
    assert np.abs(drawn[:, 10].astype(int) - (200, 10, 20)).max() <= 1
    # What is clear in it is white.
    assert np.abs(drawn[:, -10].astype(int) - 255).max() <= 1


@pytest.mark.parametrize(
    ("wrong", "words"),
    [
        ({"texts": []}, "texts"),
        ({"texts": [{"name": "A"}, {"name": "B"}]}, "a language has its texts twice"),
        ({"texts": [{"name": "A"}], "categories": ["sea"]}, "there is no category 'sea'; there are colour"),
        ({"texts": [{"name": "A"}], "clip": {"seconds": 90}}, "clip.seconds"),
        ({"texts": [{"name": "A"}], "icon": {"seen": {"who": "mermaid"}}}, "there is no performer 'mermaid'"),
        ({"texts": [{"name": "A"}], "price": 3}, "price"),
    ],
)
def test_what_does_not_fit_is_said(wrong: dict[str, Any], words: str) -> None:
    with pytest.raises(BadFile, match=words):
        read_listing(wrong)


def test_packages_of_version_1_open_and_newer_ones_are_refused() -> None:
    files = files_of(write_package(EFFECT, Material()))
    manifest = json.loads(files["manifest.json"])

    def packed(**changed: Any) -> bytes:
        room = io.BytesIO()
        with zipfile.ZipFile(room, "w") as archive:
            for name, data in files.items():
                archive.writestr(name, json.dumps({**manifest, **changed}) if name == "manifest.json" else data)
        return room.getvalue()

    for name in ("listing", "dials", "cues", "cost", "weights"):
        del manifest[name]
    assert read_package(packed(version=1))[0] == EFFECT
    assert listing_of(packed(version=1)) is None
    with pytest.raises(BadFile, match="the package has version 3, this program reads up to 2"):
        read_package(packed(version=3))


def test_the_schema_of_packages_is_published_and_packages_keep_it() -> None:
    plain = Manifest.model_json_schema()
    assert json.loads(Path("docs/package.schema.json").read_text()) == plain
    found = files_of(write_package(EFFECT, Material(), listing=SAID))
    assert Manifest.model_validate_json(found["manifest.json"]).listing == SAID


def test_what_changed_is_said_layer_by_layer() -> None:
    before = Effect(name="Tide", layers=[fill("a", "#102030", "Water"), fill("b", name="Salt"), fill("c", name="Foam")])
    mask = LayerMask(kind="region", values={"region": "eyes"})
    after = Effect(
        name="Tide line",
        layers=[
            fill("b", name="Salt", opacity=0.5),
            fill("a", "#405060", "Water").model_copy(update={"mask": mask, "on": False}),
            fill("d", name="Spray"),
        ],
        dials=[Dial(id="fog", title="Fog")],
    )
    assert changes(before, after) == [
        "Named 'Tide line', was 'Tide'", "Spray: new", "Foam: gone", "Layers in another order", "Salt: opacity 0.5, was 1",
        "Water: switched off", "Water: colour #405060, was #102030", "Water: mask new", "Fog: new among the dials",
    ]  # fmt: skip
    assert changes(before, before) == []


@pytest.mark.parametrize("key", SAID_OF_DEMO)
def test_the_demo_is_said_within_what_a_camera_app_takes(key: str) -> None:
    said, limits = listing(SAID_OF_DEMO[key]), profiles()["camera-app"]
    text = said.texts[0]
    assert 0 < len(text.name) <= limits.longest_name
    assert 0 < len(text.line) <= limits.longest_line
    assert 0 < len(text.how) <= limits.longest_how
    assert 0 < len(said.categories) <= limits.categories
    assert 0 < len(said.keywords) <= limits.keywords
    assert said.clip is not None
    assert said.clip.seconds <= limits.clip_seconds
    assert said.made_by
    assert said.licence


def test_what_is_said_otherwise_is_listed_with_a_version() -> None:
    first = Listing(texts=(Texts(name="Tide", line="Water comes."), Texts(language="fr", name="Marée")), categories=("weather",))
    german = Texts(language="de", name="Flut")
    after = first.model_copy(
        update={
            "texts": (Texts(name="Tide", line="Water goes.", how="Tap."), german),
            "keywords": ("sea",),
            "made_by": "Net mender",
        }
    )
    assert changes_of_listing(first, after) == [
        "Texts in 'de': new", "Texts in 'fr': gone", "Texts in 'en': the one line, how to use it changed",
        "Keywords changed", "Who made it changed",
    ]  # fmt: skip
    assert changes_of_listing(first, first) == []
    assert changes_of_listing(None, first) == ["What is said of it: new"]
    assert changes_of_listing(first, None) == []
