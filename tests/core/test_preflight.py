"""Pre-flight: each check passes what is right and finds what is wrong, in the effect and beside the others."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import colour
import numpy as np
import pytest

from sunglaze.core.camera.people import MONK_TONES
from sunglaze.core.colour.lut import neutral
from sunglaze.core.disk_cache import PICTURES
from sunglaze.core.effect.document import Effect, Layer, LayerMask
from sunglaze.core.effect.listing import ClipAt, IconAt, Listing, Texts
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.motions import Dial, Drive
from sunglaze.core.effect.references import LookupRef
from sunglaze.core.errors import BadFile
from sunglaze.core.material.files import read_picture
from sunglaze.core.material.still import Still
from sunglaze.core.package.archive import read_package, write_package
from sunglaze.core.package.checked import checked
from sunglaze.core.review.preflight import Check
from sunglaze.core.review.profiles import profiles, read_profile
from tests.shell import sunglaze

KEY = "a" * 64
SAID = Listing(
    texts=(Texts(name="Ferry crossing", line="The tide between two shores", how="Look into the camera."),),
    categories=("colour",), keywords=("tide",), clip=ClipAt(), made_by="Lamp tender", licence="CC0 1.0",
)  # fmt: skip
GOOD = Layer(id="tone", name="Tone", kind="tone-and-colour", values={"contrast": 1.1})


class Checks:
    """Checks by id; none is made beyond the one that is asked for."""

    def __init__(self, made: Iterator[Check]) -> None:
        self._made = made

    def __getitem__(self, key: str) -> Check:
        return next(one for one in self._made if one.id == key)


def found(
    *layers: Layer, name: str = "Ferry crossing", material: Material | None = None, profile: str = "camera-app", **more: Any
) -> Checks:
    effect = Effect(name=name, layers=list(layers), **more)
    return Checks(checked(effect, material or Material(), profiles()[profile], said=SAID))


def test_a_plain_grade_passes_everything() -> None:
    effect = Effect(name="Ferry crossing", layers=[GOOD])
    all_of = {one.id: one for one in checked(effect, Material(), profiles()["camera-app"], said=SAID)}
    assert {one.state for one in all_of.values()} == {"passed"}
    assert {"name", "weight", "memory", "passes", "material", "masks", "flash", "red", "skin", "features", "border"} <= set(
        all_of
    )


def blinking(seconds: float) -> Layer:
    drives = {"layer:opacity": Drive(kind="pulse", values={"low": 0.0, "high": 1.0, "seconds": seconds, "how": "back and forth"})}
    return Layer(id="white", name="White", kind="fill", values={"colour": "#ffffff"}).model_copy(update={"drives": drives})


def test_flashing_stops_it_and_slow_pulses_do_not() -> None:
    fast = found(blinking(0.12))["flash"]
    assert fast.state == "stops"
    assert "WCAG 2.3.1" in fast.words
    # The worst second is shown: fifteen pictures of it, in which white comes and goes more than three times.
    assert fast.strip is not None
    strip = read_picture(fast.strip).pixels
    assert strip.shape[:2] == (80, 15 * 45)
    bright = np.asarray(strip[..., :3]).reshape(80, 15, 45, 3).mean(axis=(0, 2, 3)) > 160
    assert np.abs(np.diff(bright.astype(int))).sum() > 6
    assert found(GOOD)["flash"].strip is None
    assert found(blinking(1.5))["flash"].state == "passed"
    # In a small place it may.
    small = blinking(0.12).model_copy(update={"mask": LayerMask(kind="circle", values={"width": 0.24, "height": 0.24})})
    assert found(small)["flash"].state == "passed"


def test_weight_is_held_against_the_profile() -> None:
    noise = np.random.default_rng(1).integers(0, 256, (1300, 1300, 4), np.uint8)
    layer = Layer(id="p", name="Noise", kind="picture", values={"picture": KEY})
    heavy = found(layer, material=Material(pictures={KEY: Still.of(noise)}))["weight"]
    assert heavy.state == "stops"
    assert heavy.weighs
    assert "picture" in heavy.words
    assert found(layer, material=Material(pictures={KEY: Still.of(noise)}), profile="web")["weight"].state == "passed"


def test_eyes_that_are_covered_are_named() -> None:
    over = LayerMask(kind="region", values={"region": "eyes", "soft": 0.0, "grow": 10.0})
    covered = Layer(id="f", name="Bar", kind="fill", values={"colour": "#202020"}, mask=over)
    check = found(covered)["features"]
    assert (check.state, check.words) == ("look", "the eyes cannot be seen")
    both = Layer(id="f", name="Wall", kind="fill", values={"colour": "#808080"})
    assert found(both)["features"].words == "the eyes and the mouth cannot be seen"


def test_somebody_whose_skin_shifts_much_farther_is_named() -> None:
    """A light fill over dark colours only shifts deep skin."""
    mask = LayerMask(kind="brightness", values={"edge": 0.25, "range": 0.2, "over": True})
    lifted = Layer(id="f", name="Lifted", kind="fill", values={"colour": "#e0d0c0"}, mask=mask)
    check = found(lifted)["skin"]
    assert check.state == "look"
    assert "tide reader" in check.words or "oyster cook" in check.words
    assert found(Layer(id="b", name="Grey", kind="black-and-white"))["skin"].state == "passed"


def test_skin_is_looked_at_after_the_start_too_and_on_ten_flat_tones() -> None:
    """A fill that is there from the second second on, over what is dark; and a fill whose shifts colour-science has."""
    later = Drive(kind="time-ramp", values={"start": 0.0, "end": 1.0, "seconds": 0.5, "delay": 1.5})
    mask = LayerMask(kind="brightness", values={"edge": 0.25, "range": 0.2, "over": True})
    lifted = Layer(id="f", name="Lifted", kind="fill", values={"colour": "#e0d0c0"}, mask=mask, drives={"layer:opacity": later})
    assert found(lifted)["skin"].state == "look"
    over = Layer(id="f", name="Sand", kind="fill", values={"colour": "#c8a078"}, opacity=1.0)
    codes = np.array([[int(tone[n : n + 2], 16) / 255 for n in (1, 3, 5)] for tone in MONK_TONES])
    lab = colour.XYZ_to_Lab(colour.sRGB_to_XYZ(np.vstack([codes, [[0xC8 / 255, 0xA0 / 255, 0x78 / 255]]])))
    wanted = colour.delta_E(lab[:10], lab[10], method="CIE 2000")
    words = found(over)["skin"].words
    assert f"ten flat tones by {wanted.min():.1f} to {wanted.max():.1f}" in words


def test_masks_that_no_camera_has_empty_material_and_layers_that_are_off_want_a_look() -> None:
    sky = GOOD.model_copy(update={"mask": LayerMask(kind="region", values={"region": "sky"})})
    assert "sky" in found(sky)["masks"].words
    hands = GOOD.model_copy(update={"mask": LayerMask(kind="region", values={"region": "hands"})})
    assert found(hands)["masks"].state == "passed"
    empty = found(GOOD, Layer(id="m", name="A hat", kind="mesh"))["material"]
    assert (empty.state, empty.layer) == ("look", "m")
    # A sparkle without a sheet of its own draws its own glints.
    assert found(Layer(id="s", name="Glints", kind="sparkle"))["material"].state == "passed"
    off = found(GOOD.model_copy(update={"on": False}))["off"]
    assert (off.state, off.layer) == ("look", "tone")
    assert found(GOOD, name="Untitled effect")["name"].state == "look"
    assert found(GOOD, name="Untitled sea")["name"].state == "passed"
    assert found(GOOD, name="A" * 60)["name"].state == "stops"


def test_a_line_along_an_edge_shows() -> None:
    sheet = np.zeros((64, 36, 4), np.uint8)
    sheet[:, -2:] = (0, 200, 0, 255)
    framed = Layer(id="p", name="Line", kind="picture", values={"picture": KEY, "fit": "stretch"})
    check = found(framed, material=Material(pictures={KEY: Still.of(sheet)}))["border"]
    assert check.state == "look"
    assert "right" in check.words
    assert found(Layer(id="v", name="Dark", kind="vignette", blend="multiply"))["border"].state == "passed"


@pytest.mark.parametrize(
    ("change", "check", "state", "words"),
    [
        ({"categories": ("colour", "film", "faces", "worn")}, "categories", "passed", "4 of 4"),
        ({"categories": ("colour", "film", "faces", "worn", "words")}, "categories", "stops", "5 of 4"),
        ({"keywords": tuple(f"tide {n}" for n in range(20))}, "keywords", "passed", "20 of 20"),
        ({"keywords": tuple(f"tide {n}" for n in range(21))}, "keywords", "stops", "21 of 20"),
        ({"clip": None}, "clip", "look", "there is none"),
        ({"clip": ClipAt(seconds=15.5)}, "clip", "stops", "15.5 s; 15 s are the most"),
        ({"licence": ""}, "licence", "look", "under which licence"),
        ({"icon": IconAt(side=0.3)}, "icon", "look", "cut from 162 pixels of a frame and enlarged to 256"),
        ({"icon": IconAt(side=0.3, picture=KEY)}, "icon", "passed", "256 pixels a side, of 192 wanted"),
        ({"texts": (Texts(name="Tide", line="", how="x"),)}, "texts", "look", "one line missing"),
        (
            {"texts": (Texts(name="Tide", line="l" * 61, how="x"),)},
            "texts",
            "stops",
            "the line in en has 61 letters, 60 are the most",
        ),
    ],
)
def test_the_listing_is_held_against_the_profile(change: dict[str, Any], check: str, state: str, words: str) -> None:
    """Four categories and twenty keywords: common practice, no source."""
    effect = Effect(name="Ferry crossing", layers=[GOOD])
    made = Checks(checked(effect, Material(), profiles()["camera-app"], said=SAID.model_copy(update=change)))[check]
    assert made.state == state
    assert words in made.words


@pytest.mark.parametrize(
    ("colour", "at", "size", "state", "words"),
    [
        ("#000000", [0.5, 0.3], 0.6, "passed", "can be read on every screen"),
        ("#f0f0f0", [0.5, 0.3], 0.6, "look", "contrast is 1."),
        # 3:1 against white is #949494, by WCAG's own formula; one a little darker and one a little lighter.
        ("#8c8c8c", [0.5, 0.3], 0.6, "passed", "can be read"),
        ("#9c9c9c", [0.5, 0.3], 0.6, "look", "contrast is 2."),
        ("#000000", [0.5, 0.02], 0.6, "look", "too near to the edge on 9:16"),
        ("#000000", [0.15, 0.3], 0.6, "look", "too near to the edge on 9:16, 3:4, 1:1, 16:9"),
    ],
)
def test_words_are_read_against_what_is_behind_them(colour: str, at: list[float], size: float, state: str, words: str) -> None:
    wall = Layer(id="w", name="Wall", kind="fill", values={"colour": "#ffffff"})
    values = {"text": {"text": "TIDE AT NINE", "weight": 900}, "colour": colour, "at": at, "size": size, "shade": 0.0}
    text = Layer(id="t", name="Hours", kind="text", values=values)
    check = found(wall, text)["words t"]
    assert check.state == state, check.words
    assert words in check.words
    assert (check.layer == "t") == (state == "look")


def test_without_a_listing_and_with_nobody_it_says_so() -> None:
    only_where_people_are = LayerMask(kind="region", values={"region": "person", "over": True})
    hidden = Layer(id="h", name="Curtain", kind="fill", values={"colour": "#101010"}, mask=only_where_people_are)
    plain = {one.id: one for one in checked(Effect(name="Curtain", layers=[hidden]), Material(), profiles()["camera-app"])}
    assert plain["texts"].mend == "fill the listing"
    assert (plain["people"].state, plain["people"].words) == ("look", "with nobody the picture is one colour")


def test_limits_are_files_of_ones_own() -> None:
    plain = json.loads(profiles()["web"].model_dump_json())
    own = read_profile(json.dumps({**plain, "name": "pier", "title": "The pier's screen", "bytes": 1000, "icon": 512}))
    checks = Checks(checked(Effect(name="Tide", layers=[GOOD]), Material(), own, said=SAID))
    icon = checks["icon"]
    assert (icon.state, checks["weight"].state) == ("stops", "stops")
    assert "256 pixels a side, and 512 are wanted" in icon.words
    for change, words in (({"bytes": 0}, "bytes: input should be"), ({"bites": 9}, "bites: extra"), ({"title": ""}, "title: ")):
        with pytest.raises(BadFile, match=words):
            read_profile({**plain, **change})
    with pytest.raises(BadFile, match="no JSON"):
        read_profile(b"{")


def test_dials_are_turned_to_both_ends() -> None:
    dial = Dial(id="fill", title="Fog", start=0.2)
    drive = Drive(kind="dial", values={"dial": "fill", "low": 0.0, "high": 1.0})
    fog = Layer(id="f", name="Fog", kind="fill", values={"colour": "#c0c8d0"}).model_copy(
        update={"drives": {"layer:opacity": drive}}
    )
    check = found(fog, dials=[dial])["dials"]
    assert check.state == "look"
    assert "'Fog' at its upper end" in check.words
    gentle = fog.model_copy(
        update={"drives": {"layer:opacity": drive.model_copy(update={"values": {**drive.values, "high": 0.5}})}}
    )
    assert found(gentle, dials=[dial])["dials"].state == "passed"


def test_a_damaged_lookup_is_named() -> None:
    lut = neutral(17)
    rough = np.clip(lut.table + np.random.default_rng(3).normal(0, 0.02, lut.table.shape), 0, 1).astype(np.float32)
    ref = LookupRef(KEY)
    layer = Layer(id="g", name="Grade", kind="lookup-grade", values={"lookup": {"asset": KEY, "layout": None}})
    damaged = found(layer, material=Material({ref: type(lut)(rough)}))["lookup"]
    assert (damaged.state, damaged.layer) == ("look", "g")
    assert found(layer, material=Material({ref: lut}))["lookup"].state == "passed"


def test_hue_curves_are_packed_with_all_their_tables() -> None:
    """What is drawn over lightness is a table beside that of the hues."""
    layer = Layer(
        id="h", name="Hues", kind="hue-curves", values={"hues": {"turn": [[40, 20]], "over": [[0.2, 0.5], [0.7, -0.5]]}}
    )
    effect, _ = read_package(write_package(Effect(name="Hues", layers=[layer]), Material()))
    assert effect.layers[0].values["hues"] == layer.values["hues"]


@pytest.mark.parametrize(("seconds", "code"), [(0.12, 1), (1.5, 0)])
def test_the_shell_says_it_and_ends_so(seconds: float, code: int, tmp_path: Path) -> None:
    path = tmp_path / "blink.json"
    path.write_text(Effect(name="Blink", layers=[blinking(seconds)]).model_dump_json(by_alias=True))
    plain = sunglaze("check", path, cwd=tmp_path)
    assert plain.returncode == code
    assert ("STOPS" in plain.stdout) is bool(code)
    if not code:
        told = json.loads(sunglaze("check", path, "--json", "--profile", "web", cwd=tmp_path).stdout)
        assert {one["state"] for one in told} <= {"passed", "look"}
    wrong = sunglaze("check", path, "--profile", "nowhere", cwd=tmp_path)
    assert wrong.returncode == 2
    assert "there is no profile 'nowhere'; there are camera-app, web" in wrong.stderr


def test_what_flashes_in_another_script_alone_is_found() -> None:
    """White that comes and goes with the second of two faces, whom the usual script has not."""
    values = {"picture": KEY, "who": "second", "place": "the head", "wide": 120.0, "hides": False}
    strobe = blinking(0.12).drives
    flash = Layer(id="w", name="White", kind="pin", values=values, drives=strobe)
    check = found(flash, material=Material(pictures={KEY: Still.of(np.full((9, 9, 4), 255, np.uint8))}))["flash"]
    assert check.words.endswith("(two, one passes behind)")
    assert int(check.words.split()[0]) > 3
    assert check.strip is not None


def test_what_was_found_is_kept_and_an_unchanged_effect_is_answered_from_there(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv(PICTURES, str(tmp_path))
    worked = [0]

    def work() -> None:
        worked[0] += 1

    def look(effect: Effect, profile: str = "web", said: Listing | None = SAID) -> list[Check]:
        worked[0] = 0
        return list(checked(effect, Material(), profiles()[profile], work, said))

    slow = Effect(name="Ferry crossing", layers=[blinking(0.12)])
    first = look(slow)
    assert worked[0] > 100
    assert any(one.strip for one in first)
    assert look(slow) == first
    assert worked[0] == 0
    # Another state of the effect, other limits, other words: each is looked at anew.
    changed = slow.model_copy(update={"name": "Ferry crossing at dusk"})
    for asked in ((changed,), (slow, "camera-app"), (slow, "web", None)):
        look(*asked)
        assert worked[0] > 100
    # Where whoever asked went away in the middle, nothing is kept.
    assert next(checked(changed, Material(), profiles()["camera-app"], work, SAID)).id == "name"
    look(changed, "camera-app")
    assert worked[0] > 100
