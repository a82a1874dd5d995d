"""What trackers saw in footage, picture by picture: the person's mask, and the points of faces and hands. Kept as a zip archive:

- tracks.json: `format`, `version`, `pictures` (how many), and `faces` by a picture's number: of each face its 478 points as
  parts of the picture's width and height, and depth in the scale of the width. `hands`: the same of hands, 21 points each, of
  pictures in which these were looked for.
- masks/000000.png: grey, white where the person is, of any size.
"""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from sunglaze.core.errors import BadFile
from sunglaze.core.face.model import POINTS

FORMAT, VERSION = "sun-glaze/tracks", 1
MOST_MASK_BYTES = 4_000_000
LARGEST_MASK = 4096
HAND_POINTS = 21
FARTHEST = 1000.0
"""Parts of a picture's width beyond which no point of a face lies."""
Mask = NDArray[np.uint8]


@dataclass(frozen=True)
class Track:
    """Of one picture: `mask` a PNG file, `faces` and `hands` as tracks.json has them; no `hands` where nobody looked for them."""

    mask: bytes
    faces: list[list[list[float]]]
    hands: list[list[list[float]]] | None = None

    def points(self, width: float, height: float) -> list[NDArray[np.float64]]:
        """The faces' points (478, 3) in pixels of a picture of this size."""
        return [np.array(face, np.float64) * (width, height, width) for face in self.faces]

    def hand_points(self, width: float, height: float) -> list[NDArray[np.float64]]:
        """The hands' points (21, 3) in pixels of a picture of this size."""
        return [np.array(hand, np.float64) * (width, height, width) for hand in self.hands or []]

    def person(self) -> Mask:
        """(height, width), of the mask's own size. Raises BadFile where the mask is no PNG."""
        mask = cv2.imdecode(np.frombuffer(self.mask, np.uint8), cv2.IMREAD_GRAYSCALE)
        if mask is None:
            raise BadFile("a mask of the tracks is no PNG")
        return np.asarray(mask, np.uint8)


Tracks = Mapping[int, Track]


def checked(mask: bytes, faces: list[list[list[float]]], hands: list[list[list[float]]] | None = None) -> Track:
    """A track as a browser sent it. Raises BadFile."""
    track = Track(mask, faces, hands)
    if len(mask) > MOST_MASK_BYTES or any(len(face) != POINTS or any(len(p) != 3 for p in face) for face in faces):
        raise BadFile(f"a track is a mask and faces of {POINTS} points with three numbers each")
    if any(len(hand) != HAND_POINTS or any(len(p) != 3 for p in hand) for hand in hands or []):
        raise BadFile(f"a hand of a track has {HAND_POINTS} points with three numbers each")
    if any(seen and not (np.abs(np.array(seen, np.float64)) < FARTHEST).all() for seen in (faces, hands)):
        raise BadFile("a face or hand of a track has a point without a place")
    try:
        # The head alone: a few bytes can say that they are gigabytes.
        with Image.open(io.BytesIO(mask), formats=["PNG"]) as head:
            columns, rows = head.size
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise BadFile("a mask of the tracks is no PNG") from None
    if not (0 < columns <= LARGEST_MASK and 0 < rows <= LARGEST_MASK):
        raise BadFile(f"a mask of the tracks has {columns} by {rows} pixels; each side has 1 to {LARGEST_MASK}")
    track.person()
    return track


def write_tracks(tracks: Tracks, pictures: int) -> bytes:
    """An archive of tracks, as read_tracks takes it. `pictures`: how many the footage has."""
    room = io.BytesIO()
    faces = {str(number): track.faces for number, track in sorted(tracks.items()) if track.faces}
    hands = {str(number): track.hands for number, track in sorted(tracks.items()) if track.hands is not None}
    page = {"format": FORMAT, "version": VERSION, "pictures": pictures, "faces": faces, "hands": hands}
    with zipfile.ZipFile(room, "w") as archive:
        archive.writestr("tracks.json", json.dumps(page, separators=(",", ":")), zipfile.ZIP_DEFLATED)
        for number, track in sorted(tracks.items()):
            archive.writestr(f"masks/{number:06d}.png", track.mask, zipfile.ZIP_STORED)
    return room.getvalue()


def read_tracks(data: bytes) -> dict[int, Track]:
    """Raises BadFile where the archive is none of tracks."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            page: dict[str, Any] = json.loads(archive.read("tracks.json"))
            if page.get("format") != FORMAT or page.get("version") != VERSION:
                raise BadFile(f"these are no tracks of version {VERSION}; track the clip again")
            masks = {int(n.removeprefix("masks/").removesuffix(".png")): n for n in archive.namelist() if n.startswith("masks/")}
            if any(archive.getinfo(name).file_size > MOST_MASK_BYTES for name in masks.values()):
                raise BadFile("a mask of the tracks is too large")
            faces, hands = page.get("faces", {}), page.get("hands", {})
            return {
                number: checked(archive.read(name), faces.get(str(number), []), hands.get(str(number)))
                for number, name in masks.items()
            }
    except (zipfile.BadZipFile, KeyError, ValueError, AttributeError, TypeError) as error:
        raise BadFile(f"this is no archive of tracks ({error})") from None
