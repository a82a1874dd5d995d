"""Effects that arrive as files: a document, or a package with the lookups and pictures that it refers to."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial
from typing import Any

from sqlalchemy.orm import Session

from sunglaze.core.colour.cube_file import write_cube
from sunglaze.core.effect.document import FORMAT, Effect, parse_effect
from sunglaze.core.effect.listing import Listing
from sunglaze.core.effect.recipe import FORMAT as RECIPE_FORMAT
from sunglaze.core.errors import BadFile
from sunglaze.core.material.files import compact, encode_png
from sunglaze.core.material.glb import read_glb, write_glb
from sunglaze.core.material.mesh import Model
from sunglaze.core.material.reels import read_zip, write_sequence
from sunglaze.core.package.archive import listing_of, read_package
from sunglaze.store import effects, files, publishing
from sunglaze.store.effects import Kept
from sunglaze.store.shelf import refer, replaced

_FACTS: dict[str, Callable[[bytes], files.Facts]] = {
    "lookup": files.lookup_facts,
    "picture": files.picture_facts,
    "mesh": lambda data: files.mesh_facts(Model(read_glb(data), ())),
    "sequence": lambda data: files.sequence_facts(read_zip(data)),
}
_ENDINGS = {"lookup": "cube", "picture": "png", "sequence": "zip", "mesh": "glb"}
ZIP = b"PK\x03\x04"


@dataclass(frozen=True)
class Come:
    """What came with an effect: the files that it refers to by the keys that it has for them (their kind, bytes and facts), as
    far as they came along; and what is said of it, with what only its package has left out."""

    files: Mapping[str, tuple[str, bytes, files.Facts]]
    listing: Listing | None = None


def read_effect(data: bytes) -> tuple[Effect, Come]:
    """An effect from a file, and what comes with it. Raises BadFile or BadEffect, which name what else the file is."""
    if not data.startswith(ZIP):
        return parse_effect(_document(data)), Come({})
    effect, material = read_package(data)
    come = {ref.asset: ("lookup", write_cube(lut)) for ref, lut in material.luts.items()}
    come |= {key: ("picture", encode_png(compact(one.frame()))) for key, one in material.pictures.items()}
    come |= {key: ("sequence", write_sequence(one)) for key, one in material.sequences.items()}
    come |= {key: ("mesh", write_glb(mesh)) for key, mesh in material.meshes.items()}
    # Footage is never packed: it is the artist's own.
    known = {key: (kind, made, _FACTS[kind](made)) for key, (kind, made) in come.items()}
    return effect.model_copy(update={"still": None}), Come(known, _said(data))


def _said(data: bytes) -> Listing | None:
    """A package's listing; its icon and clip show the stand-in where they showed what is not packed."""
    said = listing_of(data)
    if said is None:
        return None
    icon = said.icon.model_copy(update={"picture": None, "seen": said.icon.seen.model_copy(update={"own": False})})
    clip = said.clip and said.clip.model_copy(update={"seen": said.clip.seen.model_copy(update={"own": False})})
    return said.model_copy(update={"icon": icon, "clip": clip})


def _document(data: bytes) -> dict[str, Any]:
    try:
        plain = json.loads(data)
    except (ValueError, RecursionError):
        raise BadFile("this is neither an effect's document nor a package (.glaze)") from None
    if isinstance(plain, dict) and plain.get("format") == RECIPE_FORMAT:
        raise BadFile("this is a recipe: drop it on the desk of an effect, where it becomes a layer")
    if not isinstance(plain, dict) or plain.get("format") != FORMAT:
        raise BadFile(f"this is JSON, but no effect: its 'format' is not '{FORMAT}'")
    return plain


def keep(session: Session, name: str, effect: Effect, come: Come) -> Kept:
    """A new effect of one that arrived, with its files, which have keys of their own here: they are written anew. Nothing is
    decoded: whoever else writes waits as long."""
    keys = {}
    for key, (kind, data, facts) in come.files.items():
        keys[key] = files.add(session, kind, f"{key[:12]}.{_ENDINGS[kind]}", data, facts).hash
    by = {old: partial(refer, key=new) for old, new in keys.items()}
    renewed = parse_effect(replaced(effect.model_dump(by_alias=True), by))
    kept = effects.create(session, renewed, f"Opened from {name}"[:200])
    if come.listing is not None:
        publishing.keep_listing(session, kept.id, come.listing)
    return kept
