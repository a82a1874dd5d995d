"""Assets in the database, and the lookups that an effect refers to."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from pathlib import PurePath
from typing import Any

import numpy as np
from numpy.typing import NDArray
from sqlalchemy.orm import Session

from sunglaze.core.cache import CACHE
from sunglaze.core.camera.cameras import Camera
from sunglaze.core.colour.lut import Lut
from sunglaze.core.colour.open_lut import open_lut
from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.references import LookupRef
from sunglaze.core.material.files import eight_bits, material_pixels, read_picture, with_alpha
from sunglaze.core.material.glb import read_glb
from sunglaze.core.material.mesh import MeshData, Model
from sunglaze.core.material.reels import Reel, is_animated, read_animated, read_numbered, read_zip, write_sequence
from sunglaze.core.material.sequence import Sequence as Moving
from sunglaze.core.material.sheets import count_cells
from sunglaze.core.material.still import Still
from sunglaze.core.package.archive import write_package
from sunglaze.store.effects import NotThere
from sunglaze.store.tables import AssetRow

DRAFT, SAVED = "draft", "saved"
"""Facts of files that are not on the shelf, and of those that were made smaller of another."""
MOST_CUT = 24
"""Cells of a sheet that are named as cut off."""


Facts = dict[str, Any]


def lookup_facts(data: bytes) -> Facts:
    """What is found in a lookup file. Raises BadFile where it is none."""
    opened = open_lut(data)
    return {
        "found": opened.found,
        "choices": list(opened.choices),
        "sure": opened.sure,
        "like": opened.like,
        "bits": opened.bits,
        **opened.inspection.as_dict(),
    }


def picture_facts(data: bytes) -> Facts:
    """What is found in a still picture: its size, and the cells where it is a sheet. Raises BadFile where it cannot be read."""
    file = read_picture(data)
    height, width = file.pixels.shape[:2]
    sheet = count_cells(with_alpha(eight_bits(file.pixels)))
    facts = {"width": width, "height": height, "format": file.format}
    return facts | {"columns": sheet.columns, "rows": sheet.rows, "cut": [list(cell) for cell in sheet.cut[:MOST_CUT]]}


def sequence_facts(reel: Reel) -> Facts:
    """What a sequence is."""
    one = reel.sequence
    return {
        "width": reel.size[0],
        "height": reel.size[1],
        "frames": one.frames,
        "rate": round(one.frames / one.seconds, 4),
        "seconds": round(one.seconds, 4),
        "even": not one.holds,
        "notes": list(reel.notes),
    }


def mesh_facts(model: Model) -> Facts:
    """What a mesh is: triangles, its sides in centimetres, texels of its texture, and its motions."""
    mesh = model.mesh
    across, up, deep = (round(float(side), 2) for side in mesh.bounds[1] - mesh.bounds[0])
    texture = None if mesh.texture is None else [mesh.texture.shape[1], mesh.texture.shape[0]]
    motions = [{"name": one.name, "seconds": round(one.seconds, 2)} for one in mesh.motions]
    sides = {"size": round(mesh.size, 2), "across": across, "up": up, "deep": deep}
    return {"triangles": len(mesh.triangles), **sides, "texture": texture, "motions": motions, "notes": list(model.notes)}


def read_mesh(session: Session, key: str) -> MeshData:
    """A mesh, read once and held by the cache of the process. Raises NotThere or BadFile."""
    return CACHE.get(("mesh file", key), lambda: read_glb(asset(session, key).data), lambda one: one.weight)


def meshes_of(session: Session, effect: Effect) -> dict[str, MeshData]:
    """The meshes of an effect's layers. Raises NotThere or BadFile."""
    return {key: read_mesh(session, key) for key in effect.meshes()}


def read_moving(data: bytes) -> Reel:
    """A sequence of a file: an animated picture, or a zip of numbered ones. Raises BadFile."""
    return read_animated(data) if is_animated(data) else read_zip(data)


def read_row(some: Sequence[tuple[str, bytes]]) -> tuple[bytes, Facts]:
    """Numbered pictures as a sequence's file, and what it is. Raises BadFile."""
    reel = read_numbered(some)
    return write_sequence(reel.sequence), sequence_facts(reel)


def add_sequence(session: Session, name: str, reel: Reel) -> AssetRow:
    """Keep a sequence."""
    return add(session, "sequence", name, write_sequence(reel.sequence), sequence_facts(reel))


def read_sequence(session: Session, key: str) -> Moving:
    """A sequence, read once and held by the cache of the process. Raises NotThere or BadFile."""
    return CACHE.get(("sequence file", key), lambda: read_zip(asset(session, key).data).sequence, lambda one: one.weight)


def add(session: Session, kind: str, name: str, data: bytes, facts: Facts) -> AssetRow:
    """Keep a file with what was found in it as a lookup, picture or footage."""
    key = hashlib.sha256(data).hexdigest()
    row = session.get(AssetRow, key)
    if row is None:
        row = AssetRow(hash=key, name=PurePath(name).name[:200] or kind, facts={}, data=data, size=len(data))
        session.add(row)
    # One file may serve as both: a lookup picture is a picture, too. What comes again is on the shelf again.
    row.facts = {**{name: held for name, held in row.facts.items() if name != DRAFT}, kind: facts}
    row.deleted = None
    session.flush()
    return row


def known(session: Session, data: bytes) -> AssetRow | None:
    """The row of a file that was kept before; none where there is none."""
    return session.get(AssetRow, hashlib.sha256(data).hexdigest())


def asset(session: Session, key: str) -> AssetRow:
    """Raises NotThere."""
    row = session.get(AssetRow, key)
    if row is None:
        raise NotThere(f"the file {key[:12]} is not here (any more); choose it again")
    return row


def material_of(session: Session, effect: Effect) -> Material:
    """The lookups, pictures, sequences and meshes of an effect's layers, read. Raises NotThere or BadFile."""
    luts = {ref: read_lut(session, ref) for ref in effect.lookups()}
    rows = {key: asset(session, key) for key in effect.pictures()}
    pictures = {key: Still.read(row.data) for key, row in rows.items()}
    packed = {key: row.data for key, row in rows.items() if SAVED in row.facts}
    moving = {key: read_sequence(session, key) for key in effect.sequences()}
    return Material(luts, pictures, moving, packed, meshes_of(session, effect))


def read_lut(session: Session, ref: LookupRef) -> Lut:
    """A lookup, read once and held by the cache of the process. Raises NotThere or BadFile."""
    row = asset(session, ref.asset)
    return CACHE.get(("lookup file", ref), lambda: open_lut(row.data, ref.layout).lut, lambda one: one.table.nbytes)


def read_pixels(session: Session, key: str) -> NDArray[np.uint8]:
    """A picture as layers read it, (height, width, 4). Raises NotThere or BadFile."""
    return material_pixels(asset(session, key).data)


def packed(session: Session, effect: Effect, camera: Camera | None) -> bytes:
    """An effect as a package, its icon seen through a camera. Raises NotThere, BadFile or BadEffect."""
    return write_package(effect, material_of(session, effect), camera)
