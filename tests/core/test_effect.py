"""The document, compiling, packages, judging aids, and the stand-in camera."""

from __future__ import annotations

import io
import json
import re
import warnings
import zipfile

import numpy as np
import pytest
from PIL import Image, ImageOps

from demo.lookups import lookups
from sunglaze.core.camera.cameras import Own, colours
from sunglaze.core.colour.difference import ciede2000
from sunglaze.core.colour.open_lut import open_lut
from sunglaze.core.colour.spaces import srgb_to_lab
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, parse_effect, set_control
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.references import LookupRef
from sunglaze.core.engine.grade import apply_lut
from sunglaze.core.engine.playback import Playback
from sunglaze.core.errors import BadEffect, BadFile
from sunglaze.core.material.files import eight_bits, encode_png, read_picture
from sunglaze.core.material.footage import Footage
from sunglaze.core.moment.moment import Reads
from sunglaze.core.package.archive import pieces, read_package, write_package
from sunglaze.core.passes.program import State
from sunglaze.core.targets.memory import parts_of
from tests import engines
from tests.grades import sample_picture, smooth_grade
from tests.layers import fill, grade

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour

REF = LookupRef(asset="0" * 64)
GRADE = smooth_grade(np.random.default_rng(9), 25)
MATERIAL = Material({REF: GRADE})


def effect(**changes: object) -> Effect:
    warm = grade("grade", REF, "Warm evening", strength=0.6)
    return Effect(name="Low tide", layers=[warm, fill("glow", blend="screen", opacity=0.3)], **changes)  # type: ignore[arg-type]


def shown(document: Effect, picture: np.ndarray) -> np.ndarray:
    height, width = picture.shape[:2]
    still = Own(Footage(encode_png(picture)), width, height)
    return engines.shown(compile_effect(document, MATERIAL), still)


def test_a_grade_on_bytes_is_the_lookup() -> None:
    picture = sample_picture(64, 53)
    document = Effect(name="t", layers=[grade("a", REF, strength=0.6)])
    want = np.rint(np.clip(apply_lut(GRADE, picture / np.float32(255), 0.6), 0, 1) * 255)
    assert np.abs(shown(document, picture) - want).max() <= 1
    assert (shown(document, picture) != want).mean() < 0.001


def test_order_matters_and_off_means_off() -> None:
    picture = sample_picture(32, 40)
    both = effect()
    turned = both.model_copy(update={"layers": both.layers[::-1]})
    assert np.abs(shown(both, picture).astype(int) - shown(turned, picture)).max() > 3
    off = parse_effect({**both.model_dump(), "layers": [{**layer.model_dump(), "on": False} for layer in both.layers]})
    assert np.array_equal(shown(off, picture), picture)


def test_stages_are_the_effects_of_shorter_paths() -> None:
    picture = sample_picture(48, 40)
    document = effect()
    moment = Own(Footage(encode_png(picture)), 40, 48).moment(0, Reads())
    compiled = compile_effect(document, MATERIAL)
    words = Playback().stages_at(compiled.program, compiled.inputs, moment, State())
    seen = [parts_of(stage, 40)[:, :, 2::-1] for stage in words]
    assert len(seen) == 3
    for n, stage in enumerate(seen):
        assert np.array_equal(stage, shown(document.model_copy(update={"layers": document.layers[:n]}), picture))


def test_moving_a_control_keeps_the_program() -> None:
    one, other = effect(), set_control(effect(), "glow.opacity=0.9")
    assert compile_effect(one, MATERIAL).program.key == compile_effect(other, MATERIAL).program.key
    assert other.layers[1].opacity == 0.9


def test_controls_are_set_by_id_name_or_place() -> None:
    assert set_control(effect(), "Warm evening.strength=0.25").layers[0].values["strength"] == 0.25
    assert set_control(effect(), "2.colour=#102030").layers[1].values["colour"] == "#102030"
    assert set_control(effect(), "1.on=off").layers[0].on is False
    for wrong in (
        "strength",
        "x.strength=1",
        "1.nothing=1",
        "1.strength=2",
        "1.strength=abc",
        "1.kind=fill",
        "1.interpolation=best",
    ):
        with pytest.raises(BadEffect):
            set_control(effect(), wrong)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"layers": [{"kind": "fill", "id": "a", "name": "a", "opacity": 2}]}, "layers.0.opacity"),
        ({"layers": [{"kind": "fill", "id": "a", "name": "a", "values": {"colour": "red"}}]}, "hexadecimal"),
        ({"layers": [{"kind": "fill", "id": "a", "name": "a", "blend": "sparkle"}]}, "blend mode"),
        ({"layers": [{"kind": "fill", "id": "a", "name": "a", "values": {"size": 1}}]}, "no control 'size'"),
        ({"layers": [{"kind": "own", "id": "a", "name": "a"}]}, "needs a recipe"),
        ({"layers": [{"kind": "fill", "id": "a", "name": "a"}] * 2}, "two layers"),
        ({"layers": [{"kind": "fill", "id": "a", "name": "a", "opacity": float("nan")}]}, "opacity"),
        ({"version": 99}, "version 99"),
        ({"format": "other"}, "no effect"),
        ({"surprise": 1}, "surprise"),
        ({"name": ""}, "name"),
    ],
)
def test_a_bad_document_is_refused_in_words(change: dict[str, object], words: str) -> None:
    with pytest.raises(BadEffect, match=words):
        parse_effect({**effect().model_dump(), **change})
    with pytest.raises(BadEffect, match="not JSON"):
        parse_effect(b"{")


def test_documents_of_the_first_version_are_read() -> None:
    """As the first version wrote them: a layer's controls beside what every layer has."""
    old = {
        "format": "sun-glaze/effect", "version": 1, "name": "Old", "still": None,
        "layers": [
            {"kind": "lookup-grade", "id": "g", "name": "G", "on": True, "blend": "normal", "opacity": 1.0,
             "lookup": {"asset": "0" * 64, "layout": None}, "strength": 0.6, "interpolation": "tetrahedral"},
            {"kind": "fill", "id": "f", "name": "F", "on": False, "blend": "screen", "opacity": 0.3, "colour": "#102030"},
        ],
    }  # fmt: skip
    read = parse_effect(old)
    assert read.lookups() == {REF}
    assert read.layers[0].values["strength"] == 0.6
    assert (read.layers[1].on, read.layers[1].values) == (False, {"colour": "#102030"})


def test_a_layer_of_a_newer_version_is_kept_and_leaves_the_picture() -> None:
    new = {"kind": "sunbeams", "id": "n", "name": "New", "values": {"rays": [1, 2]}}
    document = parse_effect({**effect().model_dump(), "layers": [new]})
    assert document.model_dump()["layers"][0]["values"] == {"rays": [1, 2]}
    picture = sample_picture(16, 16)
    assert np.array_equal(shown(document, picture), picture)
    assert "newer version" in compile_effect(document, MATERIAL).faults["n"][0].message


def test_a_missing_lookup_names_its_layer() -> None:
    with pytest.raises(BadEffect, match="Warm evening") as caught:
        compile_effect(effect(), Material())
    assert caught.value.layer == "grade"


def test_a_package_opens_again_and_gives_the_same_picture() -> None:
    data = write_package(effect(), MATERIAL)
    again, material = read_package(data)
    assert again == effect()
    assert np.array_equal(material.luts[REF].table, GRADE.table)
    assert sum(piece.bytes for piece in pieces(data)) == len(data)
    assert write_package(effect(), MATERIAL) == data


def test_a_program_needs_nothing_but_its_package() -> None:
    archive = zipfile.ZipFile(io.BytesIO(write_package(effect(), MATERIAL)))
    program = json.loads(archive.read("program.json"))
    table = program["tables"][0]
    assert np.frombuffer(archive.read(table["file"]), "<f4").size == 3 * table["size"] ** 3
    assert program["uniforms"]["grade.strength"] == 0.6
    assert program["passes"][0]["fragment"].startswith("#version 300 es")


def test_damaged_packages_are_refused() -> None:
    data = write_package(effect(), MATERIAL)
    for broken in (b"", b"PK", data[: len(data) // 2]):
        with pytest.raises(BadFile):
            read_package(broken)
    room = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(room, "w") as new:
        for name in old.namelist():
            new.writestr(name, old.read(name)[:-4] if name.endswith("f32") else old.read(name))
    with pytest.raises(BadFile, match="table"):
        read_package(room.getvalue())


def test_ciede2000_against_colour_science() -> None:
    """colour-science is itself checked on the 34 pairs of Sharma, Wu and Dalal (2005); the first and hardest are here."""
    pairs = [
        ((50.0, 2.6772, -79.7751), (50.0, 0.0, -82.7485), 2.0425),
        ((50.0, -1.0, 2.0), (50.0, 0.0, 0.0), 2.3669),
        ((50.0, 2.49, -0.001), (50.0, -2.49, 0.0011), 7.2195),
        ((2.0776, 0.0795, -1.135), (0.9033, -0.0636, -0.5514), 0.9082),
    ]
    for one, other, published in pairs:
        assert float(ciede2000(np.array(one), np.array(other))) == pytest.approx(published, abs=1e-4)
    rng = np.random.default_rng(0)
    a, b = rng.uniform([0, -90, -90], [100, 90, 90], (2, 500, 3))
    assert np.abs(ciede2000(a, b) - colour.difference.delta_E_CIE2000(a, b)).max() < 1e-9


def test_lab_against_colour_science() -> None:
    rgb = np.random.default_rng(1).random((200, 3))
    illuminant = colour.CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"]["D65"]
    theirs = colour.XYZ_to_Lab(colour.sRGB_to_XYZ(rgb), illuminant)
    assert np.abs(srgb_to_lab(rgb) - theirs).max() < 0.02  # their white has more digits than the standard's table


def test_demo_lookups_have_three_layouts_and_no_damage() -> None:
    opened = [open_lut(data) for data in lookups().values()]
    assert {one.found for one in opened} == {"strip", "grid", "hald"}
    assert all(one.sure and not one.inspection.damaged and one.inspection.monotonic for one in opened)


def test_stills_are_turned_by_their_exif_and_cover_the_frame() -> None:
    room = io.BytesIO()
    exif = Image.Exif()
    exif[0x0112] = 6  # turned by 90 degrees, EXIF 2.3
    picture = np.zeros((40, 80, 3), np.uint8)
    picture[:, :40] = [255, 0, 0]
    Image.fromarray(picture).save(room, "JPEG", exif=exif, quality=95)
    turned = read_picture(room.getvalue()).pixels
    assert turned.shape == (80, 40, 3)
    assert turned[10, 20, 0] > 200
    assert turned[70, 20, 0] < 50
    covered = colours(Own(Footage(room.getvalue()), 54, 96).frame(5), 54)
    assert covered[5, 27, 0] > 200


@pytest.mark.parametrize("form", ["JPEG", "PNG", "WEBP", "TIFF", "AVIF"])
@pytest.mark.parametrize("mode", ["RGB", "RGBA", "I;16"])
def test_every_orientation_of_every_format_is_what_pillow_makes_of_it(form: str, mode: str) -> None:
    """Pillow's exif_transpose, for all eight orientations, with alpha and without."""
    if mode == "I;16" and form not in ("PNG", "TIFF"):
        pytest.skip("none of 16 bits")
    if (form, mode) == ("JPEG", "RGBA"):
        mode = "L"
    quarters = np.array([[250, 20], [120, 60]], np.uint8).repeat(12, 0).repeat(20, 1)
    pixels = np.stack([quarters, 255 - quarters, quarters // 2, np.maximum(quarters, 100)], axis=2)
    picture = Image.fromarray(quarters.astype(np.uint16) * 257) if mode == "I;16" else Image.fromarray(pixels).convert(mode)
    for orientation in range(1, 9):
        exif, room = Image.Exif(), io.BytesIO()
        exif[0x0112] = orientation
        picture.save(room, form, exif=exif, **({} if form in ("PNG", "TIFF") else {"quality": 100}))
        with Image.open(room) as again:
            turned = ImageOps.exif_transpose(again)
        wanted = np.asarray(turned if mode == "I;16" else turned.convert("RGB"))
        seen = read_picture(room.getvalue()).pixels
        seen = seen[..., 0] if mode == "I;16" else seen[..., :3]
        assert seen.shape == wanted.shape, orientation
        assert np.abs(seen.astype(int) - wanted).max() <= 3, orientation


@pytest.mark.parametrize("form", ["JPEG", "PNG", "WEBP"])
def test_a_picture_whose_exif_is_damaged_is_read_as_it_is(form: str) -> None:
    picture, room = np.full((12, 20, 3), 90, np.uint8), io.BytesIO()
    exif = Image.Exif()
    exif[0x0112] = 6
    damaged = exif.tobytes()[:-8] + b"tide" * 2
    Image.fromarray(picture).save(room, form, exif=damaged.replace(b"II*\0", b"..*\0").replace(b"MM\0*", b"..\0*"))
    assert read_picture(room.getvalue()).pixels.shape == (12, 20, 3)


def test_sixteen_bits_become_the_nearest_of_eight() -> None:
    """Of all codes: within half a step, which truncation is not."""
    codes = np.arange(65536, dtype=np.uint16).reshape(256, 256, 1)
    exact = codes / 65535 * 255
    assert np.abs(eight_bits(codes) - exact).max() <= 0.5
    assert abs((eight_bits(codes) - exact).mean()) < 1e-9


@pytest.mark.parametrize("version", ["-1", '"2"', "NaN", "true", "0", "null", "2.5", "1e9"])
def test_a_package_s_version_is_one_that_there_is(version: str) -> None:
    whole = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(write_package(effect(), MATERIAL))) as before, zipfile.ZipFile(whole, "w") as after:
        for name in before.namelist():
            data = before.read(name)
            if name == "manifest.json":
                data = re.sub(rb'"version": *\d+', b'"version": ' + version.encode(), data, count=1)
            after.writestr(name, data)
    with pytest.raises(BadFile, match="version"):
        read_package(whole.getvalue())


def test_a_name_holds_no_nul() -> None:
    """Which ends a text for files and for some databases."""
    with pytest.raises(BadEffect, match="name"):
        parse_effect({"format": "sun-glaze/effect", "version": 8, "name": "Low\0tide", "layers": []})
