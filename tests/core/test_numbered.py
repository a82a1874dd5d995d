"""Rows of pictures from zips: what they may hold, in which order, and how little of it is decoded."""

from __future__ import annotations

import io
import zipfile

import numpy as np
import pytest
from PIL import Image

from sunglaze.core.errors import BadFile
from sunglaze.core.material.files import encode_png, picture_size, read_picture
from sunglaze.core.material.reels import read_animated, read_zip
from sunglaze.core.material.sequence import MOST_FRAMES
from tests.core.test_sequences import animated, packed, plain


def test_any_zip_of_numbered_pictures_is_read() -> None:
    files = {f"deep/er/IMG_{n:03}.png": encode_png(plain(n)) for n in (3, 1, 2)}
    reel = read_zip(packed({**files, "__MACOSX/._IMG_001.png": b"x", ".DS_Store": b"y"}))
    assert reel.sequence.frames == 3
    assert not reel.notes


def locked() -> bytes:
    """A zip whose entries say that they are encrypted (bit 0 of the flags, APPNOTE 4.4.4)."""
    data = bytearray(packed({"1.png": encode_png(plain(1))}))
    data[6] |= 1
    data[data.index(b"PK\x01\x02") + 8] |= 1
    return bytes(data)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"PK\x03\x04 not a zip", "damaged"),
        (packed({"a.png": encode_png(plain(1))}), "number"),
        (packed({"1.png": b"\x89PNG\r\n\x1a\n nothing", "2.svg": b"<svg><script/></svg>"}), "can be read"),
        (packed({"1.png": bytes(80 * 1024 * 1024)}, compression=zipfile.ZIP_DEFLATED), "64 MB"),
        (packed({f"{n}.png": encode_png(plain(1, (2, 2))) for n in range(MOST_FRAMES + 1)}), f"{MOST_FRAMES} are the most"),
        # Counted before any is read: 65,000 small ones had held the reader up for a minute.
        (packed({f"{n}.png": b"no picture" for n in range(MOST_FRAMES + 1)}), f"{MOST_FRAMES} are the most"),
        (packed({f"{n}.txt": b"" for n in range(2 * MOST_FRAMES + 1)}), "1,201 files; 1,200 are the most"),
        (locked(), "password"),
        (packed({"sequence.json": b"[]", "1.png": encode_png(plain(1))}), "sequence.json"),
        (
            packed({"sequence.json": b'{"format":"sun-glaze/sequence","version":1,"rate":1e400}', "1.png": encode_png(plain(1))}),
            "rate",
        ),
    ],
)
def test_bad_zips_are_refused_in_words(data: bytes, words: str) -> None:
    with pytest.raises(BadFile, match=words):
        read_zip(data)


def test_pictures_that_are_too_many_together_are_counted_by_what_they_say() -> None:
    """A GIF of 172 kB held the reader up for 22 seconds."""
    kept = encode_png(np.zeros((3000, 4000, 1), np.uint8), 1)
    with pytest.raises(BadFile, match="its 17 pictures of 4000 by 3000 are 204 million pixels together; 200 million are"):
        read_zip(packed({f"{n}.png": kept for n in range(17)}))
    with pytest.raises(BadFile, match="its 5 pictures of 4000 by 3000 are 60 million pixels together; 50 million are"):
        read_animated(animated("GIF", [np.full((3000, 4000), n, np.uint8) for n in range(5)], [100] * 5))


@pytest.mark.parametrize("form", ["PNG", "JPEG", "WEBP", "BMP"])
def test_a_row_goes_on_without_a_picture_that_is_cut_off(form: str) -> None:
    def kept(n: int) -> bytes:
        room = io.BytesIO()
        Image.fromarray(np.random.default_rng(n).integers(0, 255, (40, 50, 3)).astype(np.uint8)).save(room, form)
        return room.getvalue()

    files = {f"{n}.x": kept(n) for n in range(4)}
    reel = read_zip(packed({**files, "2.x": kept(2)[:-30]}))
    assert reel.sequence.files == (files["0.x"], files["1.x"], files["3.x"])
    assert reel.notes == ("2 is missing", "left out: 2.x")


@pytest.mark.parametrize("form", ["PNG", "JPEG", "WEBP", "TIFF", "AVIF"])
@pytest.mark.parametrize("turned", [1, 3, 6])
def test_a_picture_s_size_is_known_without_decoding_it(form: str, turned: int) -> None:
    """Orientations of EXIF as CIPA DC-008 has them: 6 lies on its side."""
    told, room = Image.Exif(), io.BytesIO()
    told[0x0112] = turned
    Image.fromarray(np.full((40, 70, 3), 90, np.uint8)).save(room, form, exif=told)
    assert picture_size(room.getvalue()) == ((40, 70) if turned == 6 else (70, 40))
    assert read_picture(room.getvalue()).pixels.shape[1::-1] == picture_size(room.getvalue())


def test_names_that_climb_lead_nowhere() -> None:
    reel = read_zip(packed({"../../etc/1.png": encode_png(plain(1)), "/abs/2.png": encode_png(plain(2))}))
    assert reel.sequence.frames == 2
