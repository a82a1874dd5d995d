"""Packages: what leaves the workbench. A zip (`.glaze`) of manifest, program, effect, lossless tables and an icon.

Everything a player needs is in program.json and the tables; effect.json is the document, so that a package opens again.
"""

from __future__ import annotations

import io
import json
import math
import struct
import zipfile
import zlib
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any

import numpy as np

from sunglaze.core.camera.cameras import Camera
from sunglaze.core.colour.lut import Lut, cube
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, parse_effect
from sunglaze.core.effect.listing import IconAt, Listing, Seen, read_listing
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.motions import Dial
from sunglaze.core.effect.references import WEARER, LookupRef, Wearers, lookup_ref
from sunglaze.core.errors import BadEffect, BadFile
from sunglaze.core.face.head import head_mesh
from sunglaze.core.face.model import face_mesh, skin_rim, skin_triangles
from sunglaze.core.language.pictures import Picture
from sunglaze.core.material.files import compact, encode_png
from sunglaze.core.material.glb import read_glb, write_glb
from sunglaze.core.material.painting import Painting
from sunglaze.core.material.reels import ending
from sunglaze.core.material.reels import made as reel
from sunglaze.core.material.sequence import EACH
from sunglaze.core.material.still import Still
from sunglaze.core.moment.moment import RATE
from sunglaze.core.nodes.solids import TEXTURE
from sunglaze.core.package.icons import icon_png
from sunglaze.core.package.manifest import FORMAT, VERSION, Cost, CueEntry, DialEntry, Manifest, SequenceEntry, TableEntry
from sunglaze.core.passes.planning import Copy, Mesh, Sweep, Upload
from sunglaze.core.passes.program import Inputs, Program, sequence_of
from sunglaze.core.prints.costs import cost
from sunglaze.core.targets.glsl import fragment_shader, reads_person, slot_kinds

_MOST_BYTES = 64 * 1024 * 1024
_PACKED = (".png", ".webp", ".jpg", ".gif", ".avif", ".mp4", ".webm")
"""Endings of files that no zip makes smaller."""
# What the standard library's readers raise on damaged zips, and on manifests that hold something else.
_DAMAGE = (
    KeyError, TypeError, AttributeError, ValueError, EOFError, NotImplementedError, RuntimeError, OSError, OverflowError,
    zipfile.BadZipFile, zlib.error, struct.error,
)  # fmt: skip
_WHAT = {
    "manifest.json": "list of contents",
    "effect.json": "the effect, to open again",
    "program.json": "what the phone runs",
    "icon.png": "icon",
    "poster.jpg": "poster of the clip",
    "clip.mp4": "preview clip",
    "clip.webm": "preview clip",
}
SHOWN = ("icon.png", "poster.jpg", "clip.mp4", "clip.webm")
"""Pieces that a catalogue shows; whoever wears an effect does not load them."""


@dataclass(frozen=True)
class Piece:
    """One file of a package, and what it weighs in it (compressed)."""

    file: str
    what: str
    bytes: int


def program_json(
    program: Program,
    inputs: Inputs,
    name: str,
    tables: Mapping[str, str],
    pictures: Mapping[str, str],
    sequences: Mapping[str, Sequence[str]],
    dials: Sequence[Dial] = (),
    paintings: Mapping[str, Painting] = MappingProxyType({}),
    models: Mapping[str, str] = MappingProxyType({}),
    settled: bool = False,
) -> dict[str, Any]:
    """What web/src/engine takes: signals as data, passes as shaders. `tables`, `pictures` and `sequences` give the files of
    what it reads, by the ids of tables and assets; `dials`: what the wearer may turn; `paintings`: pictures that the
    player draws; `models`: the files of meshes, by asset. `settled`: controls stay where they stand, so that passes which come to
    nothing are left out, and with them shaders and masks that a phone would prepare in vain.

    A pass: `floats` and `ints` are places of signals, in the order in which its shader has them in `u` and `w`, by fours.
    """
    program = program.final
    names = program.tables
    passes = program.settled(inputs.uniforms) if settled else program.plan.passes
    return {
        "format": "sun-glaze/program",
        "version": 5,
        "name": name,
        "rate": RATE,
        "seed": inputs.seed,
        "dials": [one.model_dump() for one in dials],
        "uniforms": {n: inputs.uniforms.get(n, 0.0) for n in program.uniforms},
        "signals": program.signals.as_data(),
        "tables": [
            {
                "file": tables[name],
                "kind": "curve" if name in program.curves else "cube",
                "size": int(inputs.tables[name].shape[0]),
            }
            for name in names
        ],
        "pictures": [_picture_json(p, pictures, paintings) for p in program.given],
        "sequences": {
            name: {"files": list(sequences.get(name, ())), "holds": list(inputs.sequences[name].holds)}
            for name in program.sequences
            if name in inputs.sequences
        },
        "uploads": [_upload_json(one) for one in program.plan.uploads],
        "copies": [_copy_json(one) for one in program.plan.copies],
        "meshes": [_mesh_json(one) for one in program.plan.meshes],
        "models": dict(models),
        **({"head": _solid_json()} if program.meshes else {}),
        **({"face": _face_json()} if any(one.vertices.kind == "face" for one in program.plan.meshes) else {}),
        "passes": [_pass_json(one, names, program.lasting) for one in passes],
    }


def _picture_json(one: Picture, files: Mapping[str, str], paintings: Mapping[str, Painting]) -> dict[str, Any]:
    found = {"name": one.name, "file": files.get(one.id) if one.source == "asset" else None}
    return {**found, **({"painting": paintings[one.id].plain} if one.id in paintings else {})}


def _pass_json(one: Sweep, tables: tuple[str, ...], lasting: Collection[str]) -> dict[str, Any]:
    kinds, target = slot_kinds(one), one.target
    return {
        "fragment": fragment_shader(one),
        "target": target
        and {
            "name": target.name,
            "channels": target.channels,
            "reduce": target.reduce,
            "precise": target.precise,
            "keeps": target.keeps,
        },
        "pictures": [p.name for p in one.pictures],
        "tables": [tables.index(name) for name in one.tables],
        "floats": [signal for signal, kind in zip(one.slots, kinds, strict=True) if kind == "float"],
        "ints": [signal for signal, kind in zip(one.slots, kinds, strict=True) if kind != "float"],
        "person": reads_person(one),
        "enabled": one.enabled,
        **({"lasting": True} if target is not None and target.name in lasting else {}),
    }


def _upload_json(one: Upload) -> dict[str, Any]:
    return {"name": one.target.name, "sequence": sequence_of(one.target), "shows": one.shows, "soon": one.soon}


def _copy_json(one: Copy) -> dict[str, Any]:
    return {"name": one.target.name, "of": one.of.name, "wide": one.wide}


def _mesh_json(one: Mesh) -> dict[str, Any]:
    return {"name": one.target.name, "kind": one.vertices.kind, "id": one.vertices.id, "numbers": one.numbers}


def _face_json() -> dict[str, Any]:
    """The skin that meshes of faces are drawn with: places in its texture, triangles by part, and where its outline is."""
    parts = {name: part.ravel().tolist() for name, part in skin_triangles().items()}
    return {"places": face_mesh().places.ravel().tolist(), **parts, "rim": skin_rim().astype(int).tolist()}


def _solid_json() -> dict[str, Any]:
    """The head that hides meshes behind it."""
    solid = head_mesh()
    return {"vertices": solid.vertices.ravel().tolist(), "triangles": solid.triangles.ravel().tolist()}


def _table_file(ref: LookupRef) -> str:
    return f"tables/{ref.asset[:16]}{'-' + ref.layout if ref.layout else ''}.f32"


def write_package(
    effect: Effect,
    material: Material,
    own: Camera | None = None,
    listing: Listing | None = None,
    shown: Mapping[str, bytes] = MappingProxyType({}),
) -> bytes:
    """The package's bytes. `own`: what the effect is looked at on, where that is footage; `listing`: what is said of it; `shown`:
    files of SHOWN that were made by it. Raises BadEffect where the effect does not compile."""
    compiled = compile_effect(effect, material)
    program = compiled.program.final
    files: dict[str, bytes] = {}
    lookups: list[TableEntry] = []
    for ref in sorted(effect.lookups(), key=_table_file):
        lut = material.luts[ref]
        files[_table_file(ref)] = lut.table.astype("<f4").tobytes()
        lookups.append(
            TableEntry(
                asset=ref.asset,
                layout=ref.layout,
                file=_table_file(ref),
                kind="cube" if lut.is_cube else "curve",
                size=lut.size,
                domain_min=lut.domain_min,
                domain_max=lut.domain_max,
                title=lut.title,
            )
        )
    tables = {}
    of_lookups = {one.name: one.typed for layer in effect.layers for one in layer.everything_set()}
    for name in program.tables:
        held = of_lookups.get(name)
        tables[name] = _table_file(held) if isinstance(held, LookupRef) else f"tables/{name}.f32"
        if tables[name] not in files:
            files[tables[name]] = compiled.inputs.tables[name][..., :3].astype("<f4").tobytes()
    pictures = {}
    for key in sorted(effect.pictures()):
        # What an artist made smaller travels as that; all else as what every phone reads without loss.
        data = material.packed.get(key) or encode_png(compact(material.pictures[key].frame()), 9)
        pictures[key] = f"pictures/{key[:16]}.{ending(data)}"
        files[pictures[key]] = data
    for layer in effect.layers:
        for one in layer.everything_set():
            if isinstance(one.typed, Wearers) and one.typed.asset in pictures:
                pictures[WEARER] = pictures[one.typed.asset]
    paintings = effect.paintings()
    models = {key: f"meshes/{key[:16]}.glb" for key in sorted(material.meshes)}
    files |= {name: write_glb(material.meshes[key]) for key, name in models.items()}
    drawn_here = {name for name in program.assets if not name.startswith(TEXTURE)} - set(pictures) - set(paintings)
    for n, identity in enumerate(sorted(drawn_here)):
        if (drawn := compiled.inputs.asset(identity)) is not None:
            pictures[identity] = f"pictures/drawn-{n}.png"
            files[pictures[identity]] = encode_png(drawn.frame(), 9)
    moving: dict[str, list[str]] = {}
    for key, sequence in sorted(material.sequences.items()):
        names = [f"sequences/{key[:16]}/{n:04}.{ending(one)}" for n, one in enumerate(sequence.files, 1)]
        files |= dict(zip(names, sequence.files, strict=True))
        moving[key] = moving[key + EACH] = names
    files["effect.json"] = _json(effect.model_dump(exclude={"still"}, by_alias=True))
    plain = program_json(
        program, compiled.inputs, effect.name, tables, pictures, moving, effect.dials, paintings, models, settled=True
    )
    files["program.json"] = _json(plain)
    files |= shown
    if "icon.png" not in files:
        files["icon.png"] = icon_png(effect, compiled, IconAt(seen=Seen(own=own is not None)), own)
    passes, memory = cost(compiled)
    manifest = Manifest(
        name=effect.name,
        lookups=lookups,
        pictures={key: pictures[key] for key in sorted(effect.pictures())},
        sequences={
            key: SequenceEntry(rate=one.rate, holds=list(one.holds), files=moving[key])
            for key, one in sorted(material.sequences.items())
        },
        meshes=models,
        listing=listing,
        dials=[DialEntry(id=one.id, title=one.title, kind=one.kind) for one in effect.dials],
        cues=[CueEntry(id=one.id, name=one.name, kind=one.kind) for one in effect.cues],
        cost=Cost(passes=passes, texture_bytes=memory),
        weights={name: len(data) for name, data in sorted(files.items())},
        files=sorted(files),
    )
    files["manifest.json"] = _json(manifest.model_dump(mode="json"))
    room = io.BytesIO()
    with zipfile.ZipFile(room, "w") as archive:
        for name in sorted(files, key=lambda f: f != "manifest.json"):
            entry = zipfile.ZipInfo(name)  # without a date, so that equal effects give equal packages
            stored = name.endswith(_PACKED)
            entry.compress_type = zipfile.ZIP_STORED if stored else zipfile.ZIP_DEFLATED
            archive.writestr(entry, files[name], compresslevel=None if stored else 9)
    return room.getvalue()


def _json(plain: dict[str, Any]) -> bytes:
    return json.dumps(plain, indent=1, ensure_ascii=False).encode()


def carried(data: bytes) -> int:
    """Bytes of a package without what only a catalogue shows."""
    return len(data) - sum(piece.bytes for piece in pieces(data) if piece.file in SHOWN)


def listing_of(data: bytes) -> Listing | None:
    """What is said of a package; none where nothing is. Raises BadFile."""
    plain = json.loads(open_archive(data).read("manifest.json")).get("listing")
    return None if plain is None else read_listing(plain)


def open_archive(data: bytes) -> zipfile.ZipFile:
    """A package as a zip file. Raises BadFile where it is none."""
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
        if sum(entry.file_size for entry in archive.infolist()) > _MOST_BYTES:
            raise BadFile("the package unpacks to more than 64 MB; no phone would take it")
        return archive
    except _DAMAGE:
        raise BadFile("this is no package, or it is cut off or damaged; fetch it anew") from None


def pieces(data: bytes) -> list[Piece]:
    """What a package weighs, piece by piece, heaviest first."""
    listed = [Piece(e.filename, _what(e.filename), e.compress_size) for e in open_archive(data).infolist()]
    listed.append(Piece("", "zip directory", len(data) - sum(p.bytes for p in listed)))
    return sorted(listed, key=lambda p: -p.bytes)


def _what(name: str) -> str:
    if name in _WHAT:
        return _WHAT[name]
    if name.startswith("meshes/"):
        return "mesh"
    return "picture of a sequence" if name.startswith("sequences/") else "picture" if name.endswith(_PACKED) else "lookup table"


def read_package(data: bytes) -> tuple[Effect, Material]:
    """The effect of a package and what it refers to. Raises BadFile or BadEffect."""
    archive = open_archive(data)
    try:
        manifest = json.loads(archive.read("manifest.json"))
        if manifest.get("format") != FORMAT:
            raise BadFile("this zip has a manifest, but not that of a package")
        number = manifest.get("version")
        if type(number) is not int or number < 1:
            raise BadFile(f"the package's manifest gives {number!r} as its version, which is no version")
        if number > VERSION:
            raise BadFile(f"the package has version {number}, this program reads up to {VERSION}; update Sun Glaze")
        effect = parse_effect(archive.read("effect.json"))
        luts: dict[LookupRef, Lut] = {}
        for entry in manifest["lookups"]:
            flat = np.frombuffer(archive.read(entry["file"]), "<f4")
            size = int(entry["size"])
            shape = (size,) * 3 + (3,) if entry["kind"] == "cube" else (size, 3)
            if size < 2 or flat.size != math.prod(shape) or not np.isfinite(flat).all():
                raise BadFile(f"{entry['file']}: the table does not have the {size} steps that the manifest says")
            ref = lookup_ref({"asset": entry["asset"], "layout": entry["layout"]})
            luts[ref] = cube(flat.reshape(shape), entry["domain_min"], entry["domain_max"], entry["title"])
        pictures = {str(key): Still.read(archive.read(file)) for key, file in manifest.get("pictures", {}).items()}
        moving = {
            str(key): reel(
                [archive.read(file) for file in one["files"]], float(one["rate"]), tuple(int(n) for n in one.get("holds") or ())
            )
            for key, one in manifest.get("sequences", {}).items()
        }
        meshes = {str(key): read_glb(archive.read(file)) for key, file in manifest.get("meshes", {}).items()}
    except _DAMAGE:
        raise BadFile("the package is damaged; fetch it anew, or export its effect again") from None
    except BadEffect as error:
        raise BadEffect(f"effect.json in the package: {error}", error.layer) from None
    return effect, Material(luts, pictures, moving, meshes=meshes)
