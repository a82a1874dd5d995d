"""Pictures in other colour spaces, against colour-science; and files that nobody would write, against which readers hold."""

from __future__ import annotations

import contextlib
import io
import struct

import colour
import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image, ImageCms

from sunglaze.core.errors import BadFile
from sunglaze.core.material.files import encode_png, encode_webp, material_pixels, read_picture
from sunglaze.core.material.reels import read_animated, read_zip
from sunglaze.store.shelf import recognised
from tests.core.test_sequences import animated, dots, packed, plain
from tests.footage import clip

GAMMA = 2.2
BRADFORD_D50 = np.array([0.9642, 1.0, 0.8249])


def fixed(number: float) -> bytes:
    return struct.pack(">i", round(number * 65536))


def profile_of(name: str) -> bytes:
    """An ICC profile (ICC.1:2010, version 2: matrix and curves) of a colour space's primaries and a plain power."""
    space = colour.RGB_COLOURSPACES[name]
    white = colour.xy_to_XYZ(space.whitepoint)
    adapted = (
        colour.adaptation.matrix_chromatic_adaptation_VonKries(white, BRADFORD_D50, transform="Bradford")
        @ space.matrix_RGB_to_XYZ
    )
    xyz = [b"XYZ \0\0\0\0" + b"".join(fixed(part) for part in column) for column in adapted.T]
    curve = b"curv\0\0\0\0" + struct.pack(">IH", 1, round(GAMMA * 256)) + b"\0\0"
    text = b"text\0\0\0\0none\0\0\0\0"
    described = b"desc\0\0\0\0" + struct.pack(">I", 2) + b"p\0" + bytes(78 + 10)
    white_point = b"XYZ \0\0\0\0" + b"".join(fixed(part) for part in BRADFORD_D50)
    tags = [
        (b"desc", described),
        (b"cprt", text),
        (b"wtpt", white_point),
        (b"rXYZ", xyz[0]),
        (b"gXYZ", xyz[1]),
        (b"bXYZ", xyz[2]),
    ]
    tags += [(b"rTRC", curve), (b"gTRC", curve), (b"bTRC", curve)]
    at, table, body = 128 + 4 + 12 * len(tags), b"", b""
    for tag, data in tags:
        data += bytes(-len(data) % 4)
        table += tag + struct.pack(">II", at + len(body), len(data))
        body += data
    head = struct.pack(">I4sI4s4s4s12s4s", 0, b"none", 0x02400000, b"mntr", b"RGB ", b"XYZ ", bytes(12), b"acsp")
    head = head.ljust(68, b"\0") + b"".join(fixed(part) for part in BRADFORD_D50)
    whole = head.ljust(128, b"\0") + struct.pack(">I", len(tags)) + table + body
    return struct.pack(">I", len(whole)) + whole[4:]


@pytest.mark.parametrize("name", ["Display P3", "ITU-R BT.2020"])
@pytest.mark.parametrize("form", ["PNG", "JPEG", "TIFF", "WEBP"])
def test_a_profile_is_converted_to_srgb(name: str, form: str) -> None:
    steps = np.array([40, 90, 128, 170, 215])
    patches = np.stack(np.meshgrid(steps, steps, steps), axis=-1).reshape(-1, 3).astype(np.uint8)
    # Muted colours, which sRGB holds, too.
    patches = np.rint(patches * 0.35 + patches.mean(axis=1, keepdims=True) * 0.65).astype(np.uint8)
    picture = np.repeat(np.repeat(patches[None], 8, axis=0), 8, axis=1)
    room = io.BytesIO()
    how = {"quality": 100, "subsampling": 0} if form == "JPEG" else {"lossless": True} if form == "WEBP" else {}
    Image.fromarray(picture).save(room, form, icc_profile=profile_of(name), **how)
    got = material_pixels(room.getvalue())[4, 4::8, :3].astype(int)
    linear = (patches / 255) ** GAMMA
    space, srgb = colour.RGB_COLOURSPACES[name], colour.RGB_COLOURSPACES["sRGB"]
    want = np.clip(colour.RGB_to_RGB(linear, space, srgb, "Bradford", apply_cctf_encoding=True), 0, 1) * 255
    assert np.abs(got - want).max() <= (8 if form == "JPEG" else 2)
    assert np.abs(patches.astype(int) - want).max() > 6


def test_its_own_profile_and_a_broken_one_leave_a_picture() -> None:
    rng = np.random.default_rng(0)
    picture = rng.integers(0, 256, (20, 30, 3)).astype(np.uint8)
    own = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    for profile in (own, b"no profile at all", profile_of("Display P3")[:200]):
        room = io.BytesIO()
        Image.fromarray(picture).save(room, "PNG", icc_profile=profile)
        assert np.abs(material_pixels(room.getvalue())[..., :3].astype(int) - picture).max() <= 1


def test_a_lookup_picture_keeps_its_numbers() -> None:
    room = io.BytesIO()
    picture = np.random.default_rng(1).integers(0, 256, (8, 64, 3)).astype(np.uint8)
    Image.fromarray(picture).save(room, "PNG", icc_profile=profile_of("Display P3"))
    np.testing.assert_array_equal(read_picture(room.getvalue()).pixels[..., :3], picture)


SEEDS = {
    "png": encode_png(plain(40)),
    "webp": encode_webp(plain(90), None),
    "gif": animated("GIF", dots(3), [100, 40, 100]),
    "apng": animated("PNG", dots(3), [100, 40, 100]),
    "zip": packed({f"{n}.png": encode_png(plain(n, (8, 8))) for n in range(3)}),
    "mp4": clip([plain(n)[..., :3] for n in range(4)]),
}


@settings(max_examples=60, deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow])
@given(
    which=st.sampled_from(sorted(SEEDS)),
    cut=st.floats(0, 1),
    changes=st.lists(st.tuples(st.floats(0, 1, exclude_max=True), st.integers(0, 255)), max_size=12),
    tail=st.binary(max_size=20),
)
def test_readers_meet_damage_in_words(which: str, cut: float, changes: list[tuple[float, int]], tail: bytes) -> None:
    """Truncated, changed and lengthened files are read, or refused in words: nothing else comes out of a reader."""
    data = bytearray(SEEDS[which][: max(4, round(len(SEEDS[which]) * max(cut, 0.2)))])
    for place, value in changes:
        data[int(place * len(data))] = value
    damaged = bytes(data) + tail
    for read in (lambda: recognised(f"x.{which}", damaged), lambda: read_zip(damaged), lambda: read_animated(damaged)):
        with contextlib.suppress(BadFile):
            read()
