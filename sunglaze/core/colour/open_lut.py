"""A lookup from any file that may hold one, with what was found; and lookups written by file name."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import PurePath
from typing import Literal

from sunglaze.core.colour.cube_file import read_cube, write_cube
from sunglaze.core.colour.inspection import LIKE_A_LOOKUP, LIKE_A_PICTURE, Inspection, inspect, likeness
from sunglaze.core.colour.layouts import LAYOUTS, Layout
from sunglaze.core.colour.lut import Lut
from sunglaze.core.colour.lut_picture import read_lut_picture, write_lut_picture
from sunglaze.core.colour.process_lists import read_process_list, write_clf
from sunglaze.core.errors import BadFile

Like = Literal["lookup", "unsure", "picture"]
Found = Literal["cube file", "clf file", "cdl file", "strip", "grid", "hald"]
_PICTURES = (b"\x89PNG", b"\xff\xd8\xff", b"GIF8", b"RIFF", b"BM", b"II*\0", b"MM\0*")


@dataclass(frozen=True)
class OpenedLut:
    """A lookup with how it was found. `choices` are the layouts that its size admits; `sure` as in lut_picture.Reading;
    `likeness` of a picture to a lookup as inspection.likeness has it."""

    lut: Lut
    found: Found
    choices: tuple[Layout, ...]
    bits: int | None
    sure: bool
    inspection: Inspection
    likeness: float | None = None

    @property
    def like(self) -> Like:
        """What a picture is most like; a `.cube` file is a lookup by what it says."""
        if self.likeness is None or self.likeness >= LIKE_A_LOOKUP:
            return "lookup"
        return "picture" if self.likeness < LIKE_A_PICTURE else "unsure"


def open_lut(data: bytes, layout: Layout | None = None) -> OpenedLut:
    """Read a `.cube`, CLF or CDL file or a lookup picture, told apart by their contents. Raises BadFile."""
    if not data:
        raise BadFile("the file is empty")
    if data.removeprefix(b"\xef\xbb\xbf").lstrip()[:1] == b"<":
        lut, kind = read_process_list(data)
        return OpenedLut(lut, kind, (), None, True, inspect(lut))
    if not data.startswith(_PICTURES):
        lut = read_cube(data)
        return OpenedLut(lut, "cube file", (), None, True, inspect(lut))
    reading = read_lut_picture(data, layout)
    size = reading.lut.size
    choices: tuple[Layout, ...] = ("strip",) if reading.layout == "strip" else ("grid", "hald")
    assert size
    inspection = inspect(reading.lut, reading.file.lossy)
    return OpenedLut(reading.lut, reading.layout, choices, reading.bits, reading.sure, inspection, likeness(reading.lut))


def lut_bytes(lut: Lut, name: str, layout: Layout | None, bits: int = 16) -> bytes:
    """The file for a name that ends in .cube, .clf or .png (which needs a layout). Raises BadFile for other names."""
    ending = PurePath(name).suffix.lower()
    if ending == ".cube":
        return write_cube(lut)
    if ending == ".clf":
        return write_clf(lut)
    if ending == ".png":
        if layout is None:
            raise BadFile(f"a lookup picture needs a layout: one of {', '.join(LAYOUTS)}")
        return write_lut_picture(lut, layout, bits)
    raise BadFile(f"'{name}' ends in '{ending}'; lookups are written as .cube, .clf or .png")
