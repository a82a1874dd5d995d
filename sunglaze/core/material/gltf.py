"""glTF 2.0 as a container: its JSON and its buffers, wherever they lie; what is said of what is not shown; whether a file is
meant as a mesh at all."""

from __future__ import annotations

import base64
import binascii
import io
import json
import struct
import zipfile
from dataclasses import dataclass, field
from typing import Any

from sunglaze.core.errors import BadFile
from sunglaze.core.material.reels import BROKEN_ARCHIVE

_HEADER, _CHUNK = struct.Struct("<4sII"), struct.Struct("<I4s")
DAMAGE = (KeyError, IndexError, TypeError, ValueError, struct.error, AttributeError)
"""What reading raises where a file is not as it says."""


@dataclass(frozen=True, eq=False)
class Gltf:
    """A glTF file with all that it refers to. `buffers`: their bytes; `notes`: what of it is not shown."""

    plain: dict[str, Any]
    buffers: list[bytes]
    notes: list[str] = field(default_factory=list)

    @property
    def nodes(self) -> list[dict[str, Any]]:
        """Its nodes, by number."""
        return list(self.plain.get("nodes", []))

    def renamed(self) -> bytes:
        """The same as a .glb whose nodes are called by their numbers, and which holds its buffers."""
        plain = json.loads(json.dumps(self.plain))
        for number, node in enumerate(plain.get("nodes", [])):
            node["name"] = f"node {number}"
        starts, joined = [], b""
        for one in self.buffers:
            starts.append(len(joined))
            joined += one + b"\0" * (-len(one) % 4)
        for view in plain.get("bufferViews", []):
            view["byteOffset"] = view.get("byteOffset", 0) + starts[view["buffer"]]
            view["buffer"] = 0
        plain["buffers"] = [{"byteLength": len(joined)}]
        return pack_glb(plain, joined)

    def node_of(self, name: str) -> int:
        """The number of a node that trimesh calls so; -1 where it is none."""
        parts = name.split(" ")
        digits = parts[1].partition("_")[0] if len(parts) > 1 and parts[0] == "node" else ""
        return int(digits) if digits.isdigit() else -1


def is_model(name: str, data: bytes) -> bool:
    """Whether a file is meant as a mesh: by how it begins, or what its name or the names in its archive end on."""
    if data.startswith(b"glTF") or name.lower().endswith((".obj", ".gltf", ".glb")):
        return True
    return data.startswith(b"PK\x03\x04") and mesh_within(data) is not None


def mesh_within(data: bytes) -> str | None:
    """The mesh in an archive, where there is one."""
    try:
        names = zipfile.ZipFile(io.BytesIO(data)).namelist()
    except BROKEN_ARCHIVE:
        return None
    return next((one for ending in (".glb", ".gltf", ".obj") for one in names if one.lower().endswith(ending)), None)


def read_gltf(data: bytes, resolver: Any = None) -> Gltf:
    """A .glb or .gltf file. `resolver`: what else came along, by name. Raises BadFile."""
    try:
        plain, first = _parts(data)
        if str(plain.get("asset", {}).get("version", "")).partition(".")[0] != "2":
            raise BadFile("this is no glTF 2.0; export it as that, best as .glb")
        buffers = [_buffer(one, first, resolver) for one in plain.get("buffers", [])]
        for one in plain.get("images", []):
            if "uri" in one and not one["uri"].startswith("data:"):
                held = _beside(one.pop("uri"), resolver)
                plain.setdefault("bufferViews", []).append({"buffer": len(buffers), "byteLength": len(held)})
                one |= {"bufferView": len(plain["bufferViews"]) - 1, "mimeType": _media(held)}
                buffers.append(held)
    except DAMAGE:
        raise BadFile("this is a damaged glTF file; export it anew as .glb") from None
    needed = set(plain.get("extensionsRequired", []))
    if compressed := needed & {"KHR_draco_mesh_compression", "EXT_meshopt_compression", "KHR_texture_basisu"}:
        raise BadFile(f"it is compressed ({', '.join(sorted(compressed))}); export it without compression")
    notes = []
    if plain.get("skins"):
        notes.append("its bones are not followed; it stands as at rest")
    if any("targets" in part for mesh in plain.get("meshes", []) for part in mesh.get("primitives", [])):
        notes.append("its shape keys are not shown")
    if "KHR_texture_transform" in plain.get("extensionsUsed", []):
        notes.append("its textures are moved or turned by an extension that is not followed; bake them as they lie")
    return Gltf(plain, buffers, notes)


def _parts(data: bytes) -> tuple[dict[str, Any], bytes]:
    if not data.startswith(b"glTF"):
        return dict(json.loads(data)), b""
    at = _HEADER.size
    found: dict[bytes, bytes] = {}
    while at + _CHUNK.size <= len(data):
        length, kind = _CHUNK.unpack_from(data, at)
        found.setdefault(kind, data[at + _CHUNK.size : at + _CHUNK.size + length])
        at += _CHUNK.size + length
    return dict(json.loads(found[b"JSON"])), found.get(b"BIN\0", b"")


def _buffer(one: dict[str, Any], first: bytes, resolver: Any) -> bytes:
    uri = one.get("uri")
    if uri is None:
        return first
    if uri.startswith("data:"):
        try:
            return base64.b64decode(uri.partition(",")[2], validate=True)
        except binascii.Error:
            raise BadFile("a part of it that is written as text is damaged; export it as .glb") from None
    return _beside(uri, resolver)


def _beside(uri: str, resolver: Any) -> bytes:
    try:
        if resolver is None:
            raise KeyError(uri)
        return bytes(resolver.get(uri))
    except (KeyError, ValueError, OSError):
        raise BadFile(
            f"it refers to '{uri[:80]}' beside it; export it as .glb, which holds all, or bring both in a zip"
        ) from None


def _media(data: bytes) -> str:
    return "image/png" if data.startswith(b"\x89PNG") else "image/jpeg"


def pack_glb(plain: dict[str, Any], binary: bytes) -> bytes:
    """A .glb of its JSON and its one buffer (glTF 2.0, section 4.4)."""
    text = json.dumps(plain, separators=(",", ":"), sort_keys=True).encode()
    text += b" " * (-len(text) % 4)
    binary += b"\0" * (-len(binary) % 4)
    chunks = struct.pack("<I4s", len(text), b"JSON") + text + struct.pack("<I4s", len(binary), b"BIN\0") + binary
    return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks
