"""Proof sheets: what stands on them, the figures of their cells against scikit-image and colour-science, and what they say."""

from __future__ import annotations

import io
import json
from dataclasses import replace
from pathlib import Path
from typing import Any

import colour
import cv2
import numpy as np
import pytest
import typer
from PIL import Image
from pydantic import ValidationError
from skimage.color import rgb2lab

from sunglaze.cli.proof import proof
from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.camera.people import PEOPLE
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.motions import Dial
from sunglaze.core.errors import BadFile, GlazeError
from sunglaze.core.moment.moment import Moment, Reads
from sunglaze.core.moment.rehearsal import Rehearsal, Step
from sunglaze.core.package.archive import write_package
from sunglaze.core.proof.cells import Cell, Figures, Footing, made
from sunglaze.core.proof.pages import PAGE, SCALE, Proof, overview, pages_of, write_pdf, write_png
from sunglaze.core.proof.sheet import MOMENTS, PRESETS, Place, Sheet, instant
from sunglaze.core.proof.standing import outliers, said
from sunglaze.core.review.measures import bordered, clipped, contrast, moved_skin_shift, skin_shift
from sunglaze.core.targets import memory
from sunglaze.core.targets.memory import parts_of
from tests.layers import fill
from tests.shell import sunglaze


def packed(*layers: Layer) -> bytes:
    return write_package(Effect(name="Tide line", layers=list(layers)), Material())


def figures(**given: Any) -> Figures:
    plain = {
        "shift": 2.0, "lightness": 0.5, "clipped": 0.0, "contrast": 20.0, "bare_contrast": 20.0, "eyes": 0.0, "border": (),
        "flashes": 0, "flash_share": 0.0, "flashes_harm": False,
    }  # fmt: skip
    return Figures(**{**plain, **given})


def test_shift_of_skin_and_contrast_are_those_of_colour_science_and_scikit_image() -> None:
    rng = np.random.default_rng(5)
    before = rng.integers(40, 200, (30, 20, 3), dtype=np.uint8)
    after = np.clip(before.astype(int) + np.array((18, -9, 4)), 0, 255).astype(np.uint8)
    skin = np.zeros((30, 20), np.uint8)
    skin[5:20, 3:15] = 255
    means = [rgb2lab(picture[skin == 255].mean(axis=0).reshape(1, 1, 3) / 255)[0, 0] for picture in (before, after)]
    shift = skin_shift(before, after, skin)
    assert shift is not None
    assert shift[0] == pytest.approx(float(colour.delta_E(*means, method="CIE 2000")), abs=0.02)
    assert shift[1] == pytest.approx(means[1][0] - means[0][0], abs=0.02)
    assert contrast(after) == pytest.approx(float(rgb2lab(after)[..., 0].std()), abs=0.02)
    assert skin_shift(before, after, np.zeros_like(skin)) is None


def test_only_what_is_driven_to_an_end_counts_as_clipped() -> None:
    before = np.full((10, 10, 3), 100, np.uint8)
    before[:2] = 255  # the sky, white in the camera already
    after = before.copy()
    after[5, :5] = (255, 90, 90)
    after[6, :3] = 0
    after[7, :3] = (0, 0, 1)  # dark, but not black
    assert clipped(before, after) == 0.08


def test_borders_are_lines_that_are_not_in_the_picture() -> None:
    picture = np.tile(np.linspace(30, 220, 40).astype(np.uint8)[None, :, None], (60, 1, 3))
    bare = picture.copy()
    assert bordered(bare, picture) == ()
    picture[0] = 0
    picture[:, -1] = 0
    assert bordered(bare, picture) == ("right", "upper")
    # Half of the pixels of a row, as of dotted clothes, are no line; nor is what the camera's picture has there.
    dotted, shown = bare.copy(), bare.copy()
    dotted[-5, ::2] += 12
    shown[-9:] = 0
    shown[-5, ::2] = 255
    assert bordered(dotted, shown) == ()
    striped = bare.copy()
    striped[-4:] //= 3
    shown = np.where(striped > 70, 255, 0).astype(np.uint8)
    shown[-4:] = 0
    assert bordered(striped, shown) == ()


def skin_moment() -> tuple[Moment, np.ndarray, np.ndarray]:
    """A face of even skin with a ramp over it, before a green wall; its colours, and the skin's mask."""
    down, across = np.mgrid[:160, :90]
    skin = (((down - 70) / 40) ** 2 + ((across - 34) / 25) ** 2 < 1).astype(np.uint8) * 255
    picture = np.full((160, 90, 3), (40, 110, 60), np.uint8)
    picture[skin > 0] = np.stack([170 + across, 120 + down // 2, 100 + across // 2], axis=-1)[skin > 0]
    return Moment.of(np.concatenate([picture, skin[..., None]], axis=2)), picture, skin


@pytest.mark.parametrize("move", ["crop", "beside", "mirrored", "half of it"])
def test_skin_that_was_moved_is_compared_with_itself(move: str) -> None:
    """A pure crop had shifted it by 8."""
    moment, bare, skin = skin_moment()
    moment = replace(moment, picture=memory.words(bare, skin))

    def moved(picture: np.ndarray) -> np.ndarray:
        if move == "crop":
            return cv2.resize(picture[40:120, 11:56], (90, 160), interpolation=cv2.INTER_LINEAR)
        if move == "beside":
            return np.roll(picture, (30, 35), axis=(0, 1))
        return picture[:, ::-1].copy() if move == "mirrored" else np.roll(picture, 60, axis=1)

    def shown(other: Moment, red: int = 0) -> np.ndarray:
        assert other.picture is not None
        picture = moved(parts_of(other.picture, 90)[..., :3].copy())
        return np.clip(picture.astype(int) - (red, 0, 0), 0, 255).astype(np.uint8)

    still = moved_skin_shift(bare, shown(moment), moment, skin, shown)
    assert still is not None
    # By a pixel at its outline.
    assert still[0] < 1.5
    reddened = moved_skin_shift(bare, shown(moment, 30), moment, skin, lambda other: shown(other, 30))
    there = skin_shift(bare, np.clip(bare.astype(int) - (30, 0, 0), 0, 255).astype(np.uint8), skin)
    assert reddened is not None
    assert there is not None
    assert reddened[0] == pytest.approx(there[0], abs=1.5)
    assert reddened[1] == pytest.approx(there[1], abs=1.5)


def test_skin_that_stays_or_is_covered_is_compared_where_it_was() -> None:
    moment, bare, skin = skin_moment()
    moment = replace(moment, picture=memory.words(bare, skin))
    covered = np.full_like(bare, (200, 160, 120))
    for after, again in ((covered, lambda _: covered), (bare, lambda other: parts_of(other.picture, 90)[..., :3].copy())):
        assert moved_skin_shift(bare, after, moment, skin, again) == skin_shift(bare, after, skin)
    assert moved_skin_shift(bare, bare, moment, np.zeros_like(skin), lambda _: bare) is None


def test_a_cell_shows_the_picture_and_measures_it() -> None:
    """A fill of one colour at half its opacity: what is mixed is known, and so is where every figure comes from."""
    package = packed(fill("a", "#204060", opacity=0.5))
    cell = made(package, Place(who="beekeeper", light="lamp", moment="talk@0.1"))
    camera = StandIn(270, 480, Sitting("beekeeper", "talk", "lamp"))
    moment = camera.moment(3, Reads(True, ("face skin",), True))
    bare = colours(camera.frame(3), 270).astype(float)
    mixed = np.rint(bare * 0.5 + np.array((0x20, 0x40, 0x60)) * 0.5).astype(np.uint8)
    skin = moment.regions["face skin"][..., 0] >= 250
    means = [rgb2lab(one[skin].mean(axis=0).reshape(1, 1, 3) / 255)[0, 0] for one in (bare, mixed)]
    assert cell.figures.shift == pytest.approx(float(colour.delta_E(*means, method="CIE 2000")), abs=0.1)
    assert cell.figures.contrast == pytest.approx(float(rgb2lab(mixed)[..., 0].std()), abs=0.1)
    assert cell.figures.bare_contrast == pytest.approx(float(rgb2lab(bare / 255)[..., 0].std()), abs=0.1)
    assert cell.figures.eyes == 0
    assert cell.figures.border == ()
    assert not cell.figures.flashes_harm
    with Image.open(io.BytesIO(cell.print)) as shown:
        assert shown.size == (270, 480)
        assert np.abs(np.asarray(shown, float) - mixed).mean() < 3


def test_covered_eyes_and_nobody_are_told() -> None:
    covered = made(packed(fill("a")), Place()).figures
    assert covered.eyes == 1
    assert covered.contrast < 1
    gone = made(packed(fill("a", opacity=0.2)), Place(moment="gone")).figures
    assert gone.shift is None
    assert gone.eyes is None


def test_eyes_that_are_moved_elsewhere_are_seen_all_the_same() -> None:
    turned = Layer(id="a", name="A", kind="mirror", values={})
    assert made(packed(turned), Place(moment="turns")).figures.eyes == pytest.approx(0, abs=0.1)


def test_rehearsals_are_played_and_the_second_before_is_looked_at_for_flashing() -> None:
    blinking = Layer(
        id="b", name="B", kind="fill", values={"colour": "#ffffff"},
        drives={"layer:opacity": {"kind": "pulse", "values": {"seconds": 0.2, "low": 0.0, "high": 1.0}}},
    )  # fmt: skip
    found = made(packed(blinking), Place(moment="talk@2")).figures
    assert found.flashes > 3
    assert found.flashes_harm
    dialled = Layer(
        id="d", name="D", kind="fill", values={"colour": "#204060"},
        drives={"layer:opacity": {"kind": "dial", "values": {"dial": "fog", "low": 0.0, "high": 1.0}}},
    )  # fmt: skip
    rehearsal = Rehearsal(steps=(Step(frame=20, dials={"fog": 1.0}),))
    effect = Effect(name="Fog", layers=[dialled], dials=[Dial(id="fog", title="Fog", start=0.0)], rehearsal=rehearsal)
    package = write_package(effect, Material())
    assert made(package, Place(moment="talk@0.5")).figures.eyes == 0
    assert made(package, Place(moment="talk@2")).figures.eyes == 1


def test_own_photos_stand_in_a_row_of_their_own() -> None:
    room = io.BytesIO()
    Image.new("RGB", (300, 300), (10, 200, 60)).save(room, "PNG")
    cell = made(packed(fill("a", "#000000", opacity=0.5)), Place(who="own:leaf"), Footing(room.getvalue()))
    with Image.open(io.BytesIO(cell.print)) as shown:
        assert np.abs(np.asarray(shown, float).mean(axis=(0, 1)) - (5, 100, 30)).max() < 4
    assert cell.figures.shift is None
    with pytest.raises(BadFile, match="no photo or clip for 'own:other'"):
        made(packed(fill("a")), Place(who="own:other"))


def test_sheets_are_two_axes_and_say_what_they_do_not_know() -> None:
    sheet = Sheet(down="screen", across="moment", screen=("1:1", "16:9"), moment=("near", "far", "two"), light=("dusk", "noon"))
    assert [place.key for place in sheet.places][:4] == [
        "lamp-tender/dusk/1:1/near", "lamp-tender/dusk/1:1/far", "lamp-tender/dusk/1:1/two", "lamp-tender/dusk/16:9/near",
    ]  # fmt: skip
    assert len(PRESETS["everybody"].sheet.places) == len(PEOPLE) * 2
    assert instant("edges@3.5").script == "edges"
    for wrong, words in (
        ({"light": ("midnight",)}, "there is no light 'midnight'; there are noon"),
        ({"down": "who"}, "stands down and across"),
        ({"moment": ("yawns",), "across": "moment"}, "there is no moment 'yawns'"),
        ({"light": ("noon", "noon")}, "names something twice"),
        (
            {"moment": tuple(f"talk@{n}" for n in range(40)), "down": "moment", "who": tuple(f"own:{n}" for n in range(20))},
            "400",
        ),
    ):
        with pytest.raises(ValidationError, match=words):
            Sheet(**wrong)


def test_moments_of_the_presets_are_what_they_are_called() -> None:
    """By the stand-in's own truth."""

    def faces(name: str) -> Any:
        one = MOMENTS[name]
        return StandIn(270, 480, Sitting("lamp-tender", one.script)).faces(int(one.seconds * 30))

    assert faces("gone") == []
    assert len(faces("two")) == 2
    assert faces("open")[0].mouth > 0.6 > 0.4 > faces("talks")[0].mouth
    assert faces("near")[0].size > 1.5 * faces("talks")[0].size > 5 * faces("far")[0].size
    assert not 0.2 < faces("edge")[0].place[0] < 0.8
    assert abs(faces("turns")[0].degrees[0]) > 15


def test_what_stands_out_is_said_in_words() -> None:
    sheet = Sheet(who=("lamp-tender", "kite-flyer", "oyster-cook"))
    cells = {place: figures(lightness=-1.5) for place in sheet.places}
    for place in cells:
        if place.who == "oyster-cook":
            cells[place] = figures(shift=7.1, lightness=-6.0)
    dusk = Place(who="kite-flyer", light="dusk")
    cells[dusk] = figures(eyes=0.9, border=("left",), clipped=0.2)
    marks = outliers(cells)
    assert {place.who for place, some in marks.items() if "shift" in some} == {"oyster-cook"}
    assert marks[dusk] == ("clipped", "eyes", "border")
    words = [one.words for one in said(sheet, cells)]
    assert "It darkens the oyster cook's skin 4 times as much as the kite flyer's: by 7.1 against 2.0 (CIEDE2000)." in words
    assert "It hides the eyes of one of three (dusk)." in words
    assert "A line shows along the left edge in one of six cells." in words
    assert "No flashing that harms (WCAG 2.3.1)." in words
    assert [one.look for one in said(sheet, cells)] == sorted((one.look for one in said(sheet, cells)), reverse=True)
    alike = said(sheet, {place: figures() for place in sheet.places})
    assert alike[0].words == "It shifts everybody's skin about alike, by 2.0 to 2.0 (CIEDE2000)."
    assert not any(o.look for o in alike)


def tiny(sheet: Sheet) -> dict[Place, Cell]:
    room = io.BytesIO()
    Image.new("RGB", (270, 480), (200, 40, 40)).save(room, "JPEG")
    return {place: Cell(place, room.getvalue(), figures()) for place in sheet.places}


def test_pages_hold_every_cell_and_are_the_same_twice() -> None:
    sheet = PRESETS["lights"].sheet
    proof = Proof("Tide line", sheet, tiny(sheet))
    pages = pages_of(proof)
    assert sum(len(page.pictures) for page in pages) == len(sheet.places) == 40
    for page in pages:
        for left, top, width, height, *_ in page.pictures:
            assert 0 < left < left + width < PAGE[0]
            assert 0 < top < top + height < page.height
    assert write_pdf(pages, "Tide line") == write_pdf(pages, "Tide line")
    assert write_pdf(pages, "x").startswith(b"%PDF-")
    with Image.open(io.BytesIO(write_png(pages))) as drawn:
        assert drawn.size == (PAGE[0] * SCALE, round(PAGE[1] * SCALE) * len(pages))
        left, top, width, height, *_ = pages[0].pictures[0]
        middle = drawn.getpixel((round((left + width / 2) * SCALE), round((top + height / 2) * SCALE)))
        assert np.abs(np.array(middle) - (200, 40, 40)).max() < 8
    assert len(overview([proof] * 7).pictures) == 7 * 40


def test_the_shell_writes_all_forms(tmp_path: Path) -> None:
    (tmp_path / "effect.glaze").write_bytes(packed(fill("a", opacity=0.3)))
    Image.new("RGB", (64, 64), (10, 200, 60)).save(tmp_path / "leaf.png")

    rows = ("--who", "lamp-tender,leaf.png", "--light", "noon", "--workers", 1)
    done = sunglaze("proof", "effect.glaze", "effect.glaze", *rows, "--out", "sheet.pdf", "--json", "sheet.json", cwd=tmp_path)
    assert done.returncode == 0, done.stderr
    assert "Tide line\n" in done.stdout
    assert "No border shows." in done.stdout
    assert (tmp_path / "sheet.pdf").read_bytes().startswith(b"%PDF-")
    plain = json.loads((tmp_path / "sheet.json").read_text())
    assert [len(one["cells"]) for one in plain] == [2, 2]
    assert plain[0]["cells"][0]["who"] == "lamp-tender"
    assert plain[0]["cells"][0]["shift"] > 1
    assert plain[0]["cells"][1]["shift"] is None


def test_what_the_shell_cannot_make_is_said(tmp_path: Path) -> None:
    package = tmp_path / "effect.glaze"
    package.write_bytes(packed(fill("a", opacity=0.3)))
    out = tmp_path / "a.pdf"
    for wrong, words in (
        ({"light": "midnight", "out": out}, "there is no light 'midnight'"),
        ({"preset": "all", "out": out}, "there is no preset 'all'"),
        ({"out": tmp_path / "a.doc"}, "is written as .pdf or .png"),
        ({}, "say --out FILE.pdf or .png"),
        ({"out": out, "workers": 2, "scheduler": "tcp://127.0.0.1:1"}, "--workers are of this machine"),
        ({"out": out, "scheduler": "tcp://127.0.0.1:1"}, "no scheduler answers at tcp://127.0.0.1:1"),
    ):
        with pytest.raises(GlazeError, match=words):
            proof([str(package)], **wrong)
    assert not out.exists()


def test_one_of_a_catalogue_that_cannot_be_made_does_not_keep_the_others(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    (tmp_path / "good.glaze").write_bytes(packed(fill("a", opacity=0.3)))
    (tmp_path / "bad.glaze").write_bytes(b"PK not a package")
    out = tmp_path / "sheet.json"
    with pytest.raises(typer.Exit) as ended:
        proof([str(tmp_path / name) for name in ("bad.glaze", "good.glaze")], as_json=out, who="lamp-tender", workers=1)
    assert ended.value.exit_code == 2
    assert "bad.glaze: this is no package" in capsys.readouterr().err
    assert [one["name"] for one in json.loads(out.read_text())] == ["Tide line"]


def test_where_none_of_a_catalogue_can_be_made_each_is_told_and_nothing_is_written(tmp_path: Path) -> None:
    (tmp_path / "bad.glaze").write_bytes(b"PK not a package")
    out, names = tmp_path / "sheet.png", [str(tmp_path / name) for name in ("bad.glaze", "gone.glaze")]
    with pytest.raises(BadFile, match=r"bad\.glaze: this is no package(.|\n)*gone\.glaze"):
        proof(names, out=out, who="lamp-tender", workers=1, data=tmp_path)
    assert not out.exists()
