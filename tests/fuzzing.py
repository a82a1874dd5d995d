"""Files of every kind that is read, damaged at random: `python -m tests.fuzzing [--seconds N] [--seed S]` goes on by hand for as
long as wanted, and tells what ended otherwise than in a picture or in plain words. Tests do the same, briefly."""

from __future__ import annotations

import argparse
import io
import time
import traceback
import warnings
from collections import Counter
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PIL import Image

from sunglaze.core.colour.cube_file import write_cube
from sunglaze.core.colour.lut import neutral
from sunglaze.core.colour.lut_picture import write_lut_picture
from sunglaze.core.colour.open_lut import open_lut
from sunglaze.core.effect.document import Effect, parse_effect
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.references import LookupRef
from sunglaze.core.errors import GlazeError
from sunglaze.core.material.files import encode_png, material_pixels, read_picture
from sunglaze.core.material.footage import Footage
from sunglaze.core.material.models import read_model
from sunglaze.core.material.reels import read_animated, read_zip
from sunglaze.core.material.sheets import count_cells
from sunglaze.core.package.archive import read_package, write_package
from tests.core.test_sequences import animated, dots, packed, plain, sheet, walking
from tests.footage import clip
from tests.grades import random_cube, sample_picture
from tests.layers import fill, grade
from tests.solids import box_and_ball, moving, painted_obj

REF = LookupRef(asset="3" * 64)
EFFECT = Effect(name="t", layers=[grade("g", REF), fill("f")])
SLOW = 20.0
"""Seconds after which reading a small file counts as hanging."""
Reader = Callable[[bytes], object]


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


def _every_picture(data: bytes) -> None:
    film = Footage(data)
    for number in range(len(film.times)):
        film.picture(number)


def _shown(sequence_of: Reader) -> Reader:
    def read(data: bytes) -> None:
        sequence = sequence_of(data).sequence  # type: ignore[attr-defined]
        for number in range(sequence.frames):
            material_pixels(sequence.files[number])

    return read


STILL: dict[str, tuple[bytes, Reader]] = {
    "cube": (write_cube(random_cube(0, 3)), open_lut),
    "lookup picture": (write_lut_picture(neutral(16), "hald", 8), open_lut),
    "effect": (EFFECT.model_dump_json(by_alias=True).encode(), parse_effect),
    "package": (write_package(EFFECT, Material({REF: random_cube(0, 3)})), read_package),
    **{kind: (saved(kind), read_picture) for kind in ("PNG", "JPEG", "WEBP", "GIF", "BMP", "TIFF")},
}
"""What ends in words often enough to count them in a short test."""
MOVING: dict[str, tuple[bytes, Reader]] = {
    **{f"moving {form}": (animated(form, dots(4), [40] * 4), _shown(read_animated)) for form in ("GIF", "PNG", "WEBP")},
    "zip of pictures": (packed({f"{n}.png": encode_png(plain(40 * n)) for n in range(4)}), _shown(read_zip)),
    "clip": (clip(walking(6)), _every_picture),
    "sheet": (encode_png(sheet(3, 2, 0)), lambda data: count_cells(material_pixels(data))),
    "glb": (moving(), lambda data: read_model("a.glb", data)),
    "still glb": (box_and_ball(), lambda data: read_model("a.glb", data)),
    "obj in a zip": (painted_obj(), lambda data: read_model("a.zip", data)),
}
SAMPLES = STILL | MOVING


def main() -> None:
    """Damage and read until the time is over."""
    told = argparse.ArgumentParser(description=__doc__)
    told.add_argument("--seconds", type=float, default=600.0)
    told.add_argument("--seed", type=int, default=0)
    told.add_argument("--keep", type=Path, default=Path(".fuzz"), help="where files go that found something")
    chosen = told.parse_args()
    warnings.simplefilter("ignore")
    rng, end = np.random.default_rng(chosen.seed), time.monotonic() + chosen.seconds
    tried: Counter[str] = Counter()
    found: Counter[str] = Counter()
    while time.monotonic() < end:
        for name, (data, read) in SAMPLES.items():
            bad = damaged(data, rng)
            for _ in range(int(rng.integers(0, 2))):
                bad = damaged(bad, rng) if bad else data
            began = time.monotonic()
            try:
                read(bad)
                words = ""
            except GlazeError:
                words = ""
            except Exception:
                words = traceback.format_exc()
            took = time.monotonic() - began
            if took > SLOW:
                words += f"took {took:.0f} s"
            tried[name] += 1
            if words:
                found[name] += 1
                chosen.keep.mkdir(exist_ok=True)
                (chosen.keep / f"{name.replace(' ', '-')}-{tried[name]}.bin").write_bytes(bad)
                print(f"{name} {tried[name]}: {words}", flush=True)
    print(f"{sum(tried.values())} files tried, of each kind {min(tried.values())} or more; {sum(found.values())} found something")


if __name__ == "__main__":
    main()
