"""Grades that leave as lookups: against the layers they came from, and against OpenColorIO's reading of the same file."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import PyOpenColorIO as ocio
import pytest

from sunglaze.core.colour.lut import neutral
from sunglaze.core.colour.open_lut import open_lut
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer, LayerMask
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.motions import Drive
from sunglaze.core.engine.grade import apply_lut
from sunglaze.core.errors import BadEffect, BadFile
from sunglaze.core.review.baking import Baked, bake, written
from tests.engines import drawn

RNG = np.random.default_rng(8)
PICTURE = RNG.random((48, 64, 4), dtype=np.float32)
CURVES = {"all": [[0, 0.04], [0.3, 0.26], [0.75, 0.82], [1, 0.97]], "blue": [[0, 0.03], [1, 0.94]]}


CUT_OFF = b"""<ProcessList id="x" compCLFversion="3">
<LUT3D inBitDepth="32f" outBitDepth="32f"><Array dim="2 2 2 3">0 0 0</Array></LUT3D></ProcessList>"""


def layer(kind: str, identity: str = "l", **given: Any) -> Layer:
    return Layer(id=identity, name=kind.capitalize(), kind=kind, **given)


def smooth_grade() -> Effect:
    tone = layer("tone-and-colour", "a", values={"exposure": 0, "contrast": 1, "warmth": 0, "saturation": 0.9, "curves": CURVES})
    wash = layer("fill", "b", blend="soft-light", opacity=0.3, values={"colour": "#c98f5a"})
    return Effect(name="Amber shore", layers=[tone, wash])


def by_layers(effect: Effect, picture: np.ndarray = PICTURE) -> np.ndarray:
    compiled = compile_effect(effect, Material())
    return np.clip(drawn(compiled.program.final, picture, compiled.inputs)[0], 0, 1)


def baked(effect: Effect, size: int = 33, to: str | None = None) -> Baked:
    return bake(effect, Material(), size, to)


def test_the_lookup_alone_gives_the_picture_of_the_layers() -> None:
    made = baked(smooth_grade())
    assert made.layers == ["Tone-and-colour", "Fill"]
    assert made.left == []
    assert np.abs(apply_lut(made.lut, PICTURE[..., :3]) - by_layers(smooth_grade())).max() <= 1 / 255
    assert 0 < made.loss.mean < 0.2
    assert made.loss.largest < 1.0


def by_ocio(path: Path, colours: np.ndarray) -> np.ndarray:
    file = ocio.FileTransform(str(path), "0" if path.suffix == ".cdl" else "", ocio.INTERP_BEST)
    file.setCDLStyle(ocio.CDL_ASC)  # which clamps, as CDL 1.2 says
    processor = ocio.Config.CreateRaw().getProcessor(file)
    points = np.ascontiguousarray(colours.reshape(-1, 3), np.float32)
    processor.getDefaultCPUProcessor().applyRGB(points)
    return points.reshape(colours.shape)


@pytest.mark.parametrize("form", ["cube", "clf"])
def test_opencolorio_reads_the_same_grade_from_the_file(form: str, tmp_path: Path) -> None:
    made = baked(smooth_grade())
    path = tmp_path / f"grade.{form}"
    path.write_bytes(written(made, form, "Amber shore"))
    seen = by_ocio(path, PICTURE[..., :3])
    assert np.abs(seen - apply_lut(made.lut, PICTURE[..., :3])).max() < 1e-4
    assert np.abs(seen - by_layers(smooth_grade())).max() <= 1 / 255
    again = open_lut(path.read_bytes())
    assert again.lut.size == 33
    assert np.abs(again.lut.table - made.lut.table).max() < 1e-6


@pytest.mark.parametrize("form", ["strip", "grid", "hald"])
def test_pictures_hold_it_to_sixteen_bits(form: str) -> None:
    made = baked(smooth_grade(), 25)
    again = open_lut(written(made, form, "x"), form)  # type: ignore[arg-type]
    assert np.abs(again.lut.table - made.lut.table).max() <= 0.51 / 65535


def test_a_decision_list_leaves_as_one(tmp_path: Path) -> None:
    values = {"slope": [1.1, 1.0, 0.9], "offset": [0.02, 0.0, -0.01], "power": [0.9, 1.0, 1.2], "saturation": 1.3}
    effect = Effect(name="Lamp & tide", layers=[layer("decision-list", values=values)])
    made = baked(effect)
    path = tmp_path / "grade.cdl"
    path.write_bytes(written(made, "cdl", effect.name))
    assert np.abs(by_ocio(path, PICTURE[..., :3]) - by_layers(effect)).max() < 2e-5
    # Read back it is a lookup, of which OpenColorIO says the same.
    again = open_lut(path.read_bytes())
    assert again.found == "cdl file"
    assert np.abs(apply_lut(again.lut, PICTURE[..., :3]) - by_layers(effect)).max() <= 1.5 / 255
    with pytest.raises(BadFile, match="no colour decision list"):
        written(baked(smooth_grade()), "cdl", "x")


def test_process_lists_of_many_nodes_are_read(tmp_path: Path) -> None:
    """A matrix, a range and curves, written by OpenColorIO itself."""
    matrix = ocio.MatrixTransform(matrix=[0.8, 0.2, 0, 0, 0.1, 0.9, 0, 0, 0, 0.1, 0.9, 0, 0, 0, 0, 1])
    curves = ocio.Lut1DTransform(length=1024, inputHalfDomain=False)
    for n in range(1024):
        x = n / 1023
        curves.setValue(n, x**1.2, x**1.1, x)
    group = ocio.GroupTransform([matrix, curves, ocio.RangeTransform(0.0, 1.0, 0.05, 0.95)])
    path = tmp_path / "grade.clf"
    path.write_text(group.write("Academy/ASC Common LUT Format", ocio.Config.CreateRaw()))
    found = open_lut(path.read_bytes())
    assert (found.found, found.lut.size) == ("clf file", 65)
    assert np.abs(apply_lut(found.lut, PICTURE[..., :3]) - by_ocio(path, PICTURE[..., :3])).max() < 1 / 255


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"<svg/>", "neither a process list"),
        (b'<?xml version="1.0"?><ProcessList id="x" compCLFversion="3">', "CLF file cannot be read"),
        (CUT_OFF, "CLF file cannot be read"),
        (b"<ColorDecisionList><ColorDecision/></ColorDecisionList>", "CDL file cannot be read"),
    ],
)  # fmt: skip
def test_bad_lists_are_refused_in_words_that_name_no_folder(data: bytes, words: str) -> None:
    with pytest.raises(BadFile, match=words) as caught:
        open_lut(data)
    assert "/tmp" not in str(caught.value)


def test_what_is_not_about_colours_alone_is_named_and_left_out() -> None:
    pulse = {"layer:opacity": Drive(kind="pulse", values={"low": 0.2, "high": 0.8})}
    circle = LayerMask(kind="circle")
    moving = {
        "nodes": [{"id": "t", "kind": "time"}, {"id": "s", "kind": "saturate"}],
        "wires": [{"from": "t.out", "to": "s.amount"}],
        "result": "s.out",
    }
    effect = Effect(
        name="t",
        layers=[
            layer("black-and-white", "one", opacity=0.5),
            layer("blur", "two"),
            layer("fill", "three", mask=circle),
            layer("fill", "four", drives=pulse),
            layer("own", "five", recipe=moving),
            layer("fill", "six", on=False),
            layer("fill", "seven", opacity=0.4, values={"colour": "#336699"}),
        ],
    )
    made = baked(effect)
    assert made.layers == ["Black-and-white", "Fill"]
    assert [(one.layer, one.why) for one in made.left] == [
        ("two", "looks at places or neighbours"),
        ("three", "has a mask that hangs on places"),
        ("four", "moves by itself"),
        ("five", "changes from moment to moment"),
    ]
    first = baked(effect, to="two")
    assert first.layers == ["Black-and-white"]
    kept = Effect(name="t", layers=[effect.layers[0], effect.layers[6]])
    assert np.abs(apply_lut(made.lut, PICTURE[..., :3]) - by_layers(kept)).max() <= 1 / 255
    with pytest.raises(BadEffect, match="nothing here is about colours alone: 'Blur' looks at places"):
        baked(Effect(name="t", layers=[layer("blur")]))
    with pytest.raises(BadEffect, match="no layer 'nine'"):
        baked(effect, to="nine")


def test_loss_is_what_a_coarse_cube_loses() -> None:
    coarse, fine = baked(smooth_grade(), 5), baked(smooth_grade(), 65)
    assert coarse.loss.mean > 4 * fine.loss.mean
    assert coarse.loss.largest > fine.loss.largest
    nothing = Effect(name="t", layers=[layer("black-and-white", values={"strength": 0.0})])
    assert baked(nothing, 17).loss.largest < 0.05
    assert np.abs(baked(nothing, 17).lut.table - neutral(17).table).max() < 1e-5
