"""Whatever is dropped in ends in a picture or in plain words: files cut, mixed up and damaged at random."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable

import numpy as np
import pytest
from PIL import Image

from sunglaze.core.colour.cube_file import write_cube
from sunglaze.core.colour.lut import neutral
from sunglaze.core.colour.lut_picture import write_lut_picture
from sunglaze.core.colour.open_lut import open_lut
from sunglaze.core.effect.document import Effect, parse_effect
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.references import LookupRef
from sunglaze.core.errors import BadFile, GlazeError
from sunglaze.core.material.files import read_picture
from sunglaze.core.package.archive import read_package, write_package
from tests.grades import random_cube, sample_picture
from tests.layers import fill, grade

REF = LookupRef(asset="3" * 64)
EFFECT = Effect(name="t", layers=[grade("g", REF), fill("f")])


def saved(kind: str) -> bytes:
    room = io.BytesIO()
    Image.fromarray(sample_picture(24, 24)).save(room, kind)
    return room.getvalue()


def damaged(data: bytes, rng: np.random.Generator) -> bytes:
    """The data cut off, with bytes changed, a part repeated or taken out."""
    changed = bytearray(data)
    match int(rng.integers(0, 4)):
        case 0:
            del changed[int(rng.integers(0, len(changed))) :]
        case 1:
            for _ in range(int(rng.integers(1, 12))):
                changed[int(rng.integers(0, len(changed)))] = int(rng.integers(0, 256))
        case 2:
            a, b = sorted(rng.integers(0, len(changed), 2).tolist())
            changed[a:a] = changed[a:b]
        case _:
            a, b = sorted(rng.integers(0, len(changed), 2).tolist())
            del changed[a:b]
    return bytes(changed)


SAMPLES: dict[str, tuple[bytes, Callable[[bytes], object]]] = {
    "cube": (write_cube(random_cube(0, 3)), open_lut),
    "lookup picture": (write_lut_picture(neutral(16), "hald", 8), open_lut),
    "effect": (EFFECT.model_dump_json(by_alias=True).encode(), parse_effect),
    "package": (write_package(EFFECT, Material({REF: random_cube(0, 3)})), read_package),
    **{kind: (saved(kind), read_picture) for kind in ("PNG", "JPEG", "WEBP", "GIF", "BMP", "TIFF")},
}


@pytest.mark.filterwarnings("ignore::UserWarning")
@pytest.mark.parametrize("name", SAMPLES)
def test_damaged_files_end_in_plain_words(name: str) -> None:
    data, read = SAMPLES[name]
    read(data)
    rng = np.random.default_rng(len(name))
    words = []
    for _ in range(150):
        try:
            read(damaged(data, rng))
        except GlazeError as error:
            words.append(str(error))
    assert len(words) > 5
    assert min(map(len, words)) > 10


def test_pictures_too_large_are_refused_before_they_are_decoded() -> None:
    """A PNG of some 60 kB that claims 60,000 by 60,000 pixels."""
    room = io.BytesIO()
    Image.new("L", (8, 8)).save(room, "PNG")
    data = bytearray(room.getvalue())
    data[16:24] = (60_000).to_bytes(4, "big") * 2
    import zlib

    data[29:33] = zlib.crc32(bytes(data[12:29])).to_bytes(4, "big")
    with pytest.raises(BadFile, match="million"):
        read_picture(bytes(data))


def test_packages_that_unpack_to_too_much_are_refused() -> None:
    room = io.BytesIO()
    with zipfile.ZipFile(room, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("manifest.json", b"0" * (65 * 1024 * 1024))
    with pytest.raises(BadFile, match="64 MB"):
        read_package(room.getvalue())


@pytest.mark.parametrize(
    "change",
    [
        {"lookups": [{}]},
        {"lookups": 5},
        {"lookups": [{"asset": "3" * 64, "layout": "round", "file": "effect.json"}]},
        {"lookups": [{"asset": "3" * 64, "layout": None, "file": "../x", "size": 3, "kind": "cube"}]},
        {"lookups": [{"asset": "3" * 64, "layout": None, "file": "icon.png", "size": 3, "kind": "cube"}]},
        {"format": "other"},
    ],
)
def test_manifests_that_lie_are_refused(change: dict[str, object]) -> None:
    room = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(SAMPLES["package"][0])) as old, zipfile.ZipFile(room, "w") as new:
        for name in old.namelist():
            data = old.read(name)
            if name == "manifest.json":
                data = json.dumps({**json.loads(data), **change}).encode()
            new.writestr(name, data)
    with pytest.raises(GlazeError):
        read_package(room.getvalue())


def test_deep_json_is_refused() -> None:
    with pytest.raises(GlazeError):
        parse_effect(b"[" * 100_000)
