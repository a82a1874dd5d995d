"""What material weighs: forms by other decoders, likeness by scikit-image, the least visible savings against trying all."""

from __future__ import annotations

import io
from itertools import product

import cv2
import numpy as np
import pytest
from PIL import Image
from skimage.metrics import structural_similarity

from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.material.files import encode_webp
from sunglaze.core.material.reels import made
from sunglaze.core.material.still import Still
from sunglaze.core.material.weighing import KILO, Choice, alike, encoded, fit, halved, sampled, saved, weigh
from sunglaze.core.package.archive import open_archive, read_package, write_package
from sunglaze.core.review.savings import Saving, compared


def soft(seed: int, size: tuple[int, int] = (120, 90)) -> np.ndarray:
    rng = np.random.default_rng(seed)
    noise = cv2.GaussianBlur(rng.integers(0, 256, (size[1], size[0], 3)).astype(np.uint8), (0, 0), 2)
    return np.dstack([noise, np.full(noise.shape[:2], 255, np.uint8)])


def test_forms_weigh_what_they_say_and_lossless_ones_are_the_same() -> None:
    pictures = [soft(n) for n in range(3)]
    found = {one.form: one for one in weigh(dict(zip((0, 12, 29), pictures, strict=True)), 30, 70)}
    assert list(found) == ["png", "lossless", "webp", "half", "fewer"]
    assert found["png"].alike == found["lossless"].alike == 1.0
    assert found["half"].bytes < found["webp"].bytes < found["lossless"].bytes
    assert found["fewer"].bytes == pytest.approx(found["half"].bytes * 20 / 30, rel=1e-3)
    assert 0.3 < found["half"].alike < found["webp"].alike < 1
    mean = sum(len(encoded(one, "webp", 70)) for one in pictures) / 3
    assert found["webp"].bytes == round(mean * 30)
    # Its likeness is the worst picture's, by scikit-image itself on what Pillow decodes.
    likeness = [
        structural_similarity(
            one[..., :3].astype(np.float32),
            np.asarray(Image.open(io.BytesIO(encoded(one, "webp", 70))).convert("RGB"), np.float32),
            channel_axis=2, data_range=255.0, win_size=7,
        )  # type: ignore[no-untyped-call]
        for one in pictures
    ]  # fmt: skip
    assert found["webp"].alike == pytest.approx(min(likeness), abs=1e-3)
    assert found["webp"].worst == (0, 12, 29)[int(np.argmin(likeness))]


def test_likeness_is_of_what_is_seen() -> None:
    clear, other = soft(1), soft(2)
    clear[..., 3] = other[..., 3] = 0
    assert alike(clear, other) == pytest.approx(1.0)
    assert alike(soft(1), soft(2)) < 0.5
    assert alike(soft(1), halved(soft(1))) > 0.5


def test_a_saving_keeps_times_but_where_there_are_fewer_pictures() -> None:
    one = made([encode_webp(soft(n), None) for n in range(6)], 100.0, (5, 1, 1, 1, 1, 3))
    told: list[tuple[int, int]] = []
    half = saved(one, "half", 60, lambda done, of, weight: told.append((done, of)))
    assert (half.rate, half.holds, half.frames) == (100.0, (5, 1, 1, 1, 1, 3), 6)
    assert half.frame(0).shape == (45, 60, 4)
    assert told[-1] == (6, 6)
    few = saved(one, "fewer", 60, lambda *_: None)
    assert few.frames == 4
    assert few.seconds == pytest.approx(one.seconds)
    assert saved(one, "lossless", 60, lambda *_: None).frame(7).tolist() == one.frame(7).tolist()
    assert list(sampled(one, 3)) == [0, 2, 5]


def test_a_saving_is_seen_in_the_effect_beside_what_it_was_made_of() -> None:
    """The one picture that is asked for, whatever the frame; the rest of the effect, and who sits there, are the same."""
    key, used = "5" * 64, "6" * 64
    frames = [soft(n, (60, 106)) for n in range(4)]
    loop = made([encode_webp(one, None) for one in frames], 30.0)
    layer = Layer(id="l", name="l", kind="picture", values={"picture": {"asset": used, "rate": 30.0, "order": "shuffled"}})
    camera = StandIn(90, 160, Sitting())
    material = Material(sequences={used: saved(loop, "fewer", 20, lambda *_: None)})
    effect = Effect(name="t", layers=[layer])
    for frame in (0, 7):
        was, small = compared(effect, material, Saving(loop, used, "half", 20, 2), camera, frame)
        shown = cv2.resize(np.asarray(frames[2][..., :3]), (90, 160), interpolation=cv2.INTER_LINEAR).astype(int)
        assert np.abs(was - shown).mean() < 12
        assert structural_similarity(was, small, channel_axis=2) < 0.9  # type: ignore[no-untyped-call]
        assert np.abs(was.mean(axis=(0, 1)) - small.mean(axis=(0, 1))).max() < 6
    still = Still.read(encode_webp(frames[1], None))
    flat = Effect(name="t", layers=[layer.model_copy(update={"values": {"picture": key}})])
    was, same = compared(flat, Material(pictures={key: still}), Saving(still, key, "lossless", 20, 0), camera, 3)
    assert np.array_equal(was, same)


@pytest.mark.parametrize("seed", range(12))
def test_the_least_visible_savings_are_found(seed: int) -> None:
    rng = np.random.default_rng(seed)
    pieces = []
    for _ in range(int(rng.integers(1, 5))):
        weights = np.sort(rng.integers(1, 900, int(rng.integers(1, 5))))[::-1] * KILO
        looks = [1.0, *np.sort(rng.random(len(weights) - 1))[::-1]]
        pieces.append([Choice(int(weight), float(look)) for weight, look in zip(weights, looks, strict=True)])
    room = int(rng.integers(50, 2500)) * KILO
    sound = [
        (sum(1 - one.alike for one in chosen), chosen) for chosen in product(*pieces) if sum(one.bytes for one in chosen) <= room
    ]
    found = fit(pieces, room)
    if not sound:
        assert found is None
        return
    assert found is not None
    chosen = [choices[n] for choices, n in zip(pieces, found, strict=True)]
    assert sum(one.bytes for one in chosen) <= room
    assert sum(1 - one.alike for one in chosen) == pytest.approx(min(loss for loss, _ in sound))


def test_nothing_is_changed_where_all_fits() -> None:
    pieces = [[Choice(KILO, 1.0), Choice(1, 0.9)], [Choice(2 * KILO, 1.0), Choice(KILO, 0.99)]]
    assert fit(pieces, 10 * KILO) == (0, 0)
    assert fit([], 0) == ()


def test_a_package_carries_the_saving_as_it_is() -> None:
    key, data = "cd" * 32, encode_webp(soft(4), 40)
    pixels = cv2.cvtColor(cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR), cv2.COLOR_BGR2RGBA)
    effect = Effect(name="x", layers=[Layer(id="p", name="p", kind="picture", values={"picture": key})])
    small = write_package(effect, Material(pictures={key: Still.of(pixels)}, packed={key: data}))
    whole = write_package(effect, Material(pictures={key: Still.of(pixels)}))
    archive = open_archive(small)
    assert archive.read(f"pictures/{key[:16]}.webp") == data
    assert len(small) < len(whole)
    _, again = read_package(small)
    assert np.abs(again.pictures[key].frame().astype(int) - pixels.astype(int)).max() <= 2
