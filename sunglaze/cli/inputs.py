"""How effects, sizes and places to write to are given to commands."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from numpy.typing import NDArray

from sunglaze.core.colour.open_lut import open_lut
from sunglaze.core.disk_cache import keep_beside
from sunglaze.core.effect.document import Effect, parse_effect
from sunglaze.core.effect.listing import Listing
from sunglaze.core.effect.literals import Material
from sunglaze.core.errors import BadFile
from sunglaze.core.material.files import encode_jpeg, encode_png
from sunglaze.core.material.glb import read_glb
from sunglaze.core.material.reels import read_zip
from sunglaze.core.material.still import Still
from sunglaze.core.package.archive import listing_of, read_package

DIST = Path(__file__).parents[2] / "web" / "dist"
"""The built front end, of which pages are exported."""


def write_picture(pixels: NDArray[Any], path: Path) -> None:
    """Write pixels (height, width, channels), red first. Raises BadFile for an ending that is none of a picture."""
    ending = path.suffix.lower()
    if ending not in (".png", ".jpg", ".jpeg"):
        raise BadFile(f"{path}: pictures are written as .png or .jpg")
    path.write_bytes(encode_png(pixels) if ending == ".png" else encode_jpeg(pixels, 95))


def size_of(text: str) -> tuple[int, int]:
    """Columns and rows of WIDTHxHEIGHT. Raises BadFile."""
    try:
        width, height = (int(part) for part in text.lower().split("x"))
    except ValueError:
        raise BadFile(f"--size takes WIDTHxHEIGHT in pixels, like 540x960; this is '{text}'") from None
    if not (16 <= width <= 8192 and 16 <= height <= 8192):
        raise BadFile(f"--size {text}: each side must be 16 to 8192 pixels")
    return width, height


def effect_of(which: str, data: Path) -> tuple[Effect, Material]:
    """An effect by id (from the database), or from a JSON or package file. Needs no database for a file."""
    path = Path(which)
    if path.is_file():
        raw = path.read_bytes()
        if raw.startswith(b"PK"):
            return read_package(raw)
        effect = parse_effect(raw)
        return effect, _beside(path, effect)
    from sunglaze.store import effects, files
    from sunglaze.store.database import FILE, open_database

    if not (data / FILE).is_file():
        raise BadFile(f"'{which}' is no file, and {data} has no database to look it up in; see --data")
    keep_beside(data)
    with open_database(data)() as session:
        kept = effects.get(session, which)
        return kept.effect, files.material_of(session, kept.effect)


def listing_for(which: str, data: Path) -> Listing | None:
    """What is said of an effect where it is published, from the database or from its package; none where nothing is."""
    path = Path(which)
    if path.is_file():
        raw = path.read_bytes()
        return listing_of(raw) if raw.startswith(b"PK") else None
    from sunglaze.store import publishing
    from sunglaze.store.database import open_database

    with open_database(data)() as session:
        return publishing.listing(session, which)


BESIDE = (".cube", ".clf", ".cdl", ".cc", ".ccc", ".png", ".jpg", ".jpeg", ".webp", ".zip", ".glb")
"""Endings of files that an effect may refer to."""


def _beside(path: Path, effect: Effect) -> Material:
    """What an effect given as JSON refers to: files of any name beside it whose contents have the right hash."""
    import hashlib

    refs, keys, moving, solids = effect.lookups(), effect.pictures(), effect.sequences(), effect.meshes()
    wanted = {ref.asset for ref in refs} | keys | moving | solids
    found: dict[str, bytes] = {}
    for candidate in sorted(path.parent.iterdir()) if wanted else []:
        if candidate.suffix.lower() in BESIDE and candidate.is_file():
            data = candidate.read_bytes()
            found[hashlib.sha256(data).hexdigest()] = data
    for key in sorted(wanted - set(found)):
        kinds = {"picture": keys, "sequence": moving, "mesh": solids}
        what = next((kind for kind, some in kinds.items() if key in some), "lookup")
        raise BadFile(f"{path}: the {what} {key[:12]} lies not beside it; use the package, or the effect's id")
    luts = {ref: open_lut(found[ref.asset], ref.layout).lut for ref in refs}
    pictures = {key: Still.read(found[key]) for key in keys}
    meshes = {key: read_glb(found[key]) for key in solids}
    return Material(luts, pictures, {key: read_zip(found[key]).sequence for key in moving}, meshes=meshes)
