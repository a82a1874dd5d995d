"""What recording and planning keep: equal values are one object, passes of before serve an edit, and nothing changes by it."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import ndimage

from sunglaze.core.effect import compiling
from sunglaze.core.effect.compiling import Compiled, compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.shipped import shipped
from sunglaze.core.language import expression
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Rate, constant, leaf, listing, needed
from sunglaze.core.language.pictures import CAMERA, here, near, sample, stage
from sunglaze.core.language.vector import Vec
from sunglaze.core.passes.program import Inputs, Program, uniform
from tests.engines import drawn, readable
from tests.layers import fill

KINDS = ("glow", "tone-and-colour", "outline", "film-grain", "vignette", "sharpen")


def picture(rows: int = 24, columns: int = 36, seed: int = 1) -> np.ndarray:
    return np.random.default_rng(seed).random((rows, columns, 3)).astype(np.float32)


def compiled(*layers: Layer) -> Compiled:
    return compile_effect(Effect(name="x", layers=list(layers)), Material())


def ready_made(kind: str, identity: str, **more: object) -> Layer:
    return Layer(id=identity, name=kind, kind=kind, **{"blend": shipped()[kind].start.blend, "opacity": 0.7} | more)


def assert_right(made: Compiled, camera: np.ndarray) -> None:
    """By the reference, which follows the recorded pictures and knows no plan."""
    program = made.program.final
    np.testing.assert_array_equal(
        drawn(program, camera, made.inputs, frame=3)[0], readable(program, camera, made.inputs, frame=3)[0]
    )


def test_equal_values_are_one_object() -> None:
    assert uniform("a") * 2.0 + near(CAMERA, 1) is uniform("a") * 2.0 + near(CAMERA, 1)
    assert uniform("a") * 2.0 is not uniform("a") * 2.5
    assert uniform("a", "int") is not uniform("a")


def test_cells_that_start_at_nothing_and_at_minus_nothing_are_two() -> None:
    """They compare equal in Python, and 1 / x tells them apart."""
    assert leaf("cell", "c", 0.0).digest != leaf("cell", "c", -0.0).digest
    assert constant(0.0).digest != constant(-0.0).digest


def test_forgetting_what_is_known_changes_no_program(monkeypatch: pytest.MonkeyPatch) -> None:
    layers = [ready_made(kind, f"l{n}") for n, kind in enumerate(KINDS)]
    before = compiled(*layers)
    monkeypatch.setattr(expression, "_MOST_KNOWN", 40)
    # What was kept of the layers themselves does not count.
    compiling._stage.cache_clear()
    compiling._itself.cache_clear()
    again = compiled(*layers)
    assert again.program.final.key == before.program.final.key


@pytest.mark.parametrize("kind", KINDS)
def test_a_layer_put_below_leaves_the_others_right(kind: str) -> None:
    """Passes are known apart from their place: their slots must find the signals that the new plan numbers otherwise."""
    above = [ready_made("tone-and-colour", "tone"), ready_made("outline", "line"), fill("f", blend="screen", opacity=0.4)]
    camera = picture()
    assert_right(compiled(*above), camera)
    assert_right(compiled(ready_made(kind, "new"), *above), camera)
    assert_right(compiled(*above, ready_made(kind, "new")), camera)
    assert_right(compiled(above[0], ready_made(kind, "new", opacity=0.0), *above[1:]), camera)


def test_an_edit_on_top_keeps_the_passes_below() -> None:
    layers = [ready_made("glow", "glow"), ready_made("sharpen", "sharp"), ready_made("outline", "line")]
    before = compiled(*layers).program.final.plan.passes
    after = compiled(*layers, fill("f", blend="screen")).program.final.plan.passes
    kept = [one.key for one in before[:-1]]
    assert [one.key for one in after[: len(kept)]] == kept
    assert all(one.values is other.values for one, other in zip(before[:-1], after, strict=False))


def test_a_quotient_by_what_is_alike_at_all_pixels_is_a_product() -> None:
    for divisor in (uniform("u"), v.to_float(leaf("target", 0))):
        value = near(CAMERA, 0) / divisor
        assert value.op == "mul"
        assert [one.op for one in needed([value]) if one.rate is not Rate.PIXEL and one.op == "div"] == ["div"]
    assert (near(CAMERA, 0) / 3.0).op == "div"
    assert (near(CAMERA, 0) / near(CAMERA, 1)).op == "div"
    assert (uniform("u") / uniform("w")).op == "div"


def test_a_number_by_itself_is_one() -> None:
    """Where both differ from pixel to pixel; by a reciprocal it would often be a unit in the last place less."""
    same = near(CAMERA, 0)
    seen = drawn(Program((Vec(same / same, 0.0, 0.0),)), picture() + np.float32(0.01), Inputs())[0]
    assert (seen[..., 0] == 1.0).all()


@pytest.mark.parametrize("columns", [1, 3, 31, 33, 101, 270, 541, 1080])
@pytest.mark.parametrize("edge", ["clamp", "repeat", "mirror"])
def test_a_picture_that_is_not_moved_is_itself_to_the_bit(columns: int, edge: str) -> None:
    camera = picture(5, columns)
    assert np.array_equal(drawn(Program((sample(CAMERA, here(), edge).rgb,)), camera, Inputs())[0], camera)  # type: ignore[arg-type]


@pytest.mark.parametrize("shift", [(0.25, 0.5), (-3.4, 1.7), (12.0, -7.0), (0.002, -0.002)])
def test_a_moved_picture_is_scipys(shift: tuple[float, float]) -> None:
    """SciPy's map_coordinates, order 1, in double precision."""
    camera = picture(40, 50)
    place = Vec(*(p + constant(s / n) for p, s, n in zip(here().parts(), shift, (50, 40), strict=True)))
    seen = drawn(Program((sample(CAMERA, place).rgb,)), camera, Inputs())[0]
    rows, columns = np.mgrid[0:40, 0:50]
    at = [rows + shift[1], columns + shift[0]]
    want = np.stack(
        [ndimage.map_coordinates(camera[..., c].astype(float), at, order=1, mode="nearest") for c in range(3)], axis=-1
    )
    np.testing.assert_allclose(seen, want, atol=2e-5)


def test_the_listing_of_a_program_is_stable() -> None:
    """Whatever was recorded before, in whatever order."""
    text = listing((near(CAMERA, 0) * uniform("u") + 1.0, near(CAMERA, 1)))
    _ = near(CAMERA, 1) * 5.0
    assert listing((near(CAMERA, 0) * uniform("u") + 1.0, near(CAMERA, 1))) == text


def stack(**lowest: object) -> list[Layer]:
    kinds = ("colour-fringes", "outline", "film-grain")
    return [ready_made("tone-and-colour", "tone", **lowest), *(ready_made(kind, kind) for kind in kinds)]


def test_an_edit_below_leaves_what_is_recorded_above() -> None:
    """A layer knows what lies below it by name."""
    before, after = compiled(*stack()).program, compiled(*stack(blend="multiply")).program
    for name in ("colour-fringes", "outline", "film-grain"):
        assert all(one is other for one, other in zip(before.stages[name], after.stages[name], strict=True))
    assert before.stages["tone"] != after.stages["tone"]


def test_an_edit_below_leaves_the_forms_of_passes_that_read_it_as_a_picture() -> None:
    before, after = (compiled(*stack(blend=mode)).program.final.plan.passes for mode in ("normal", "multiply"))
    assert len(before) == len(after)
    same = [one.values is other.values for one, other in zip(before, after, strict=True)]
    assert same == [False, *[True] * (len(before) - 1)]


def test_a_layer_by_another_content_is_another_form() -> None:
    """The same name over the same layers above, one after the other: nothing of the one is taken for the other."""
    camera = picture()
    for mode in ("normal", "screen", "multiply", "difference", "normal"):
        assert_right(compiled(*stack(blend=mode)), camera)


def test_layers_change_places() -> None:
    one, other, third, last = stack()
    camera = picture()
    for order in ((one, other, third, last), (other, one, last, third), (last, third, one, other), (one, third)):
        assert_right(compiled(*order), camera)


def test_a_stage_is_opaque() -> None:
    with pytest.raises(TypeError, match="opaque"):
        stage("half", Vec(0.1, 0.2, 0.3, 0.5))
