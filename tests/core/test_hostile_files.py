"""Whatever is dropped in ends in a picture or in plain words: files cut, mixed up and damaged at random."""

from __future__ import annotations

import io
import json
import re
import zipfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from sunglaze.core.effect.document import parse_effect
from sunglaze.core.errors import BadFile, GlazeError
from sunglaze.core.material.files import read_picture
from sunglaze.core.package.archive import read_package
from tests.fuzzing import MOVING, STILL, damaged
from tests.often import often

FOUND = Path(__file__).parents[1] / "found"
BY_ENDING = {"cube": STILL["cube"][1], "mp4": MOVING["clip"][1], "glb": MOVING["glb"][1]}


@pytest.mark.filterwarnings("ignore::UserWarning")
@pytest.mark.parametrize("count", often(40, 150))
@pytest.mark.parametrize("name", STILL)
def test_damaged_files_end_in_plain_words(name: str, count: int) -> None:
    data, read = STILL[name]
    read(data)
    rng = np.random.default_rng(len(name))
    words = []
    for _ in range(count):
        try:
            read(damaged(data, rng))
        except GlazeError as error:
            words.append(str(error))
    assert len(words) > 5
    assert min(map(len, words)) > 10
    assert not [one for one in words if OF_PYTHON.search(one)]


OF_PYTHON = re.compile(r"\b[A-Z]\w*(Error|Exception|Warning)\b|Traceback|<class|0x[0-9a-f]{6}")


def in_plain_words(read: Callable[[], object]) -> None:
    """What is refused is refused in words of people, not of the library that failed."""
    said = ""
    try:
        read()
    except GlazeError as error:
        said = str(error)
    assert not OF_PYTHON.search(said), said


@pytest.mark.filterwarnings("ignore::UserWarning")
@pytest.mark.parametrize("count", often(10, 40))
@pytest.mark.parametrize("name", MOVING)
def test_damaged_material_that_moves_ends_in_plain_words_or_is_read(name: str, count: int) -> None:
    data, read = MOVING[name]
    read(data)
    rng = np.random.default_rng(len(name))
    for _ in range(count):
        in_plain_words(lambda: read(damaged(data, rng)))


@pytest.mark.parametrize("name", sorted(path.name for path in FOUND.iterdir()))
def test_what_a_long_run_found_ends_in_plain_words_or_is_read(name: str) -> None:
    """Files that raised something else (tests/fuzzing.py), kept."""
    in_plain_words(lambda: BY_ENDING[name.rpartition(".")[2]]((FOUND / name).read_bytes()))


def test_a_clip_of_an_unknown_codec_is_refused_in_words() -> None:
    data, read = MOVING["clip"]
    marks = [mark for mark in (b"avc1", b"vp09", b"V_VP9", b"mp4v") if mark in data]
    assert marks, data[:400]
    with pytest.raises(BadFile, match="clip"):
        read(data.replace(marks[0], b"z" * len(marks[0])))


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
    with zipfile.ZipFile(io.BytesIO(STILL["package"][0])) as old, zipfile.ZipFile(room, "w") as new:
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
