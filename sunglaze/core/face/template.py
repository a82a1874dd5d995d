"""The template of the face: its flat picture as it is painted on, with the parts of the face as guides. As PNG, SVG and TIFF."""

from __future__ import annotations

import io
from collections.abc import Sequence
from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from sunglaze.core.face.model import RINGS, face_mesh
from sunglaze.core.material.text import read_text, text_picture

SIDE = 2048
WORDS = 0.28
"""Size of the words of guides, of what text is drawn at."""
PARTS: dict[str, tuple[str, tuple[int, ...]]] = {
    "outline of the face": ("oval", RINGS["oval"]),
    "left eye": ("left eye", RINGS["left eye"]), "right eye": ("right eye", RINGS["right eye"]),
    "left brow": ("left brow", RINGS["left brow"]), "right brow": ("right brow", RINGS["right brow"]),
    "lips": ("lips", RINGS["lips"]), "mouth": ("mouth", RINGS["mouth"]),
    "nose": ("nose", (168, 193, 245, 188, 174, 217, 209, 98, 97, 2, 326, 327, 429, 437, 399, 412, 465, 417)),
}  # fmt: skip
"""Guides by their titles: a ring of the tracker's points each. Left and right are the picture's."""
_LINE, _MESH = (60, 52, 44), (150, 140, 128)
Bytes = NDArray[np.uint8]


def _places(points: Sequence[int]) -> NDArray[np.float64]:
    return np.asarray(face_mesh().places[list(points)] * SIDE)


def _fixed(places: NDArray[np.float64]) -> NDArray[np.int32]:
    return np.rint((places - 0.5) * 16).astype(np.int32)


@cache
def _lines(mesh: bool) -> Bytes:
    """Guides, or the triangles, as lines on nothing (SIDE, SIDE, 4)."""
    ink = np.zeros((SIDE, SIDE), np.uint8)
    rings = (
        [_places(three.tolist()) for three in face_mesh().triangles] if mesh else [_places(ring) for _, ring in PARTS.values()]
    )
    for ring in rings:
        cv2.polylines(ink, [_fixed(ring)], True, 255, 1 if mesh else 3, cv2.LINE_AA, 4)
    if not mesh:
        for title, (_, points) in PARTS.items():
            places = _places(points)
            middle, low = places.mean(axis=0), places[:, 1].max()
            top = places[:, 1].min() + 40 if title.startswith("outline") else low + 8
            letters = text_picture(read_text({"text": title}))[..., 3]
            word = np.asarray(cv2.resize(letters, None, fx=WORDS, fy=WORDS, interpolation=cv2.INTER_AREA), np.uint8)
            x, y = round(middle[0] - word.shape[1] / 2), round(top)
            ink[y : y + word.shape[0], x : x + word.shape[1]] |= word
    colour = np.broadcast_to(np.array(_MESH if mesh else _LINE, np.uint8), (SIDE, SIDE, 3))
    return np.dstack([colour, ink])


def template_png() -> bytes:
    """Guides on nothing, 2,048 pixels square: to be laid over what is painted, and taken away again."""
    room = io.BytesIO()
    Image.fromarray(_lines(False)).save(room, "PNG", optimize=True)
    return room.getvalue()


def template_tiff() -> bytes:
    """Three layers as pages of one size: an empty one to paint on, the guides, the triangles of the mesh."""
    room = io.BytesIO()
    empty = Image.fromarray(np.zeros((SIDE, SIDE, 4), np.uint8))
    layers = [empty, Image.fromarray(_lines(False)), Image.fromarray(_lines(True))]
    names = {285: "paint"}, {285: "guides"}, {285: "mesh"}
    for layer, info in zip(layers, names, strict=True):
        layer.encoderinfo = {"tiffinfo": info}
    empty.save(room, "TIFF", compression="tiff_deflate", save_all=True, append_images=layers[1:], tiffinfo=names[0])
    return room.getvalue()


def template_svg() -> bytes:
    """Guides as named paths in a group of their own, above an empty group that is painted in."""

    def path(points: tuple[int, ...]) -> str:
        return "M" + " L".join(f"{x:.1f},{y:.1f}" for x, y in _places(points)) + " Z"

    guides = "\n".join(
        f'    <path id="{name.replace(" ", "-")}" d="{path(ring)}"><title>{title}</title></path>'
        for title, (name, ring) in PARTS.items()
    )
    return f"""<svg xmlns="http://www.w3.org/2000/svg" width="{SIDE}" height="{SIDE}" viewBox="0 0 {SIDE} {SIDE}">
  <g id="paint"></g>
  <g id="guides" fill="none" stroke="#{"".join(f"{part:02x}" for part in _LINE)}" stroke-width="3">
{guides}
  </g>
</svg>
""".encode()


TEMPLATES = {"png": template_png, "svg": template_svg, "tiff": template_tiff}
"""What is handed out, by its ending."""
MEDIA = {"png": "image/png", "svg": "image/svg+xml", "tiff": "image/tiff"}
