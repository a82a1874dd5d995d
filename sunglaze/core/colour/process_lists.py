"""Grades as XML: the Academy's Common LUT Format (CLF, SMPTE ST 2136-1) and the ASC's colour decision lists (CDL 1.2).

A cube is written as one LUT3D node. Reading goes through OpenColorIO, which knows every node that a process list may hold
(matrices, ranges, logarithms, exponents, curves, cubes, decision lists); what it makes of 0 to 1 becomes a lookup.
"""

from __future__ import annotations

import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal
from xml.sax.saxutils import escape, quoteattr

import numpy as np

from sunglaze.core.colour.layouts import LARGEST_CUBE
from sunglaze.core.colour.lut import Lut, Triple, cube, inputs_of, neutral
from sunglaze.core.errors import BadFile

Kind = Literal["clf file", "cdl file"]
MOST_BYTES = 64 * 1024 * 1024
STEPS = 65
"""Of the cube that a list becomes which has none of its own: a decision list between its entries is then within 1.5 of 255, and
that only where a power bends it near black."""


@dataclass(frozen=True)
class Decision:
    """A colour decision list: out = clamp(in * slope + offset) ^ power, then saturation."""

    slope: Triple = (1.0, 1.0, 1.0)
    offset: Triple = (0.0, 0.0, 0.0)
    power: Triple = (1.0, 1.0, 1.0)
    saturation: float = 1.0


def write_clf(lut: Lut) -> bytes:
    """The lookup as a process list of one LUT3D. Raises BadFile for curves and for inputs other than 0 to 1."""
    if not lut.is_cube or not lut.has_unit_domain:
        raise BadFile("a CLF file is written of a cube over 0 to 1; resample the lookup first")
    size = lut.size
    # Blue changes fastest in a LUT3D of CLF.
    rows = lut.table.transpose(2, 1, 0, 3).reshape(-1, 3).astype(np.float64)
    text = "\n".join(" ".join(f"{part:.7g}" for part in row) for row in rows)
    name = quoteattr(lut.title or "Sun Glaze grade")
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<ProcessList xmlns="urn:AMPAS:CLF:v3.0" id="sun-glaze-grade" name={name} compCLFversion="3">\n'
        f"  <Description>{escape(lut.title or 'Sun Glaze grade')}</Description>\n"
        '  <LUT3D inBitDepth="32f" outBitDepth="32f" interpolation="tetrahedral">\n'
        f'    <Array dim="{size} {size} {size} 3">\n{text}\n    </Array>\n  </LUT3D>\n</ProcessList>\n'
    ).encode()


def write_cdl(decision: Decision, name: str) -> bytes:
    """A decision list as a ColorCorrection in a ColorDecisionList."""

    def three(values: Triple) -> str:
        return " ".join(f"{value:.9g}" for value in values)

    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n<ColorDecisionList xmlns="urn:ASC:CDL:v1.2">\n  <ColorDecision>\n'
        f'    <ColorCorrection id="sun-glaze-grade">\n      <Description>{escape(name)}</Description>\n'
        f"      <SOPNode>\n        <Slope>{three(decision.slope)}</Slope>\n        <Offset>{three(decision.offset)}</Offset>\n"
        f"        <Power>{three(decision.power)}</Power>\n      </SOPNode>\n"
        f"      <SatNode>\n        <Saturation>{decision.saturation:.9g}</Saturation>\n      </SatNode>\n"
        "    </ColorCorrection>\n  </ColorDecision>\n</ColorDecisionList>\n"
    ).encode()


def read_process_list(data: bytes) -> tuple[Lut, Kind]:
    """What a CLF or CDL file makes of 0 to 1, as a cube; its own size where it is one cube. Raises BadFile."""
    if len(data) > MOST_BYTES:
        raise BadFile(f"the file has {len(data) // 1_000_000} MB; {MOST_BYTES // 1_000_000} are the most")
    head = data[:4096]
    endings = {
        b"<ProcessList": ".clf",
        b"<ColorDecisionList": ".cdl",
        b"<ColorCorrectionCollection": ".ccc",
        b"<ColorCorrection": ".cc",
    }
    ending = next((suffix for mark, suffix in endings.items() if mark in head), None)
    if ending is None:
        raise BadFile("this is XML but neither a process list (CLF) nor a colour decision list (CDL)")
    kind: Kind = "clf file" if ending == ".clf" else "cdl file"
    # Here, since it takes as long to load as all else; and it reads files only.
    import PyOpenColorIO as ocio

    ocio.SetLoggingLevel(ocio.LOGGING_LEVEL_NONE)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"grade{ending}"
        path.write_bytes(data)
        try:
            transform = ocio.FileTransform(str(path), "0" if kind == "cdl file" else "", ocio.INTERP_BEST)
            transform.setCDLStyle(ocio.CDL_ASC)  # which clamps, as CDL 1.2 says
            processor = ocio.Config.CreateRaw().getProcessor(transform)
            size = _steps(ocio, processor)
            points = inputs_of(neutral(size)).reshape(-1, 3)
            processor.getDefaultCPUProcessor().applyRGB(points)
        except ocio.Exception as error:
            raise BadFile(f"the {ending[1:].upper()} file cannot be read: {_words(str(error), folder)}") from None
    if not np.isfinite(points).all():
        raise BadFile(f"the {ending[1:].upper()} file makes no finite numbers of some colours")
    return cube(points.reshape(size, size, size, 3)), kind


def _steps(ocio: Any, processor: Any) -> int:
    """Steps of the cube that stands for a process: its own where it is one, else STEPS or as many as its finest."""
    parts = list(processor.createGroupTransform())
    sizes = [part.getGridSize() for part in parts if isinstance(part, ocio.Lut3DTransform)]
    if len(parts) == 1 and sizes:
        return int(min(LARGEST_CUBE, sizes[0]))
    return int(min(LARGEST_CUBE, max([STEPS, *sizes])))


def _words(text: str, folder: str) -> str:
    """What was wrong, without where the file lay here."""
    return " ".join(text.replace(folder, "").replace("/grade", "the file").split())[:300]
