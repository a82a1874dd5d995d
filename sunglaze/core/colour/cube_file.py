"""Read and write `.cube` text, after the Cube LUT Specification 1.0. Input-range keywords of common writers are read too."""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.colour.lut import LARGEST_CUBE, LARGEST_CURVE, SMALLEST, Lut, Triple, cube
from sunglaze.core.errors import BadFile

_SIZES = {"LUT_1D_SIZE": LARGEST_CURVE, "LUT_3D_SIZE": LARGEST_CUBE}
_RANGES = {"LUT_1D_INPUT_RANGE", "LUT_3D_INPUT_RANGE"}
_ENDS = {"DOMAIN_MIN", "DOMAIN_MAX"}
_MOST_BYTES = 256 * 1024 * 1024
_LARGEST = float(np.finfo(np.float32).max)


def read_cube(data: bytes) -> Lut:
    """The lookup that `.cube` bytes hold. Raises BadFile with the line that is wrong."""
    if len(data) > _MOST_BYTES:
        raise BadFile(f"the file has {len(data) // 1_000_000} MB; a lookup of {LARGEST_CUBE} steps has at most 256 MB")
    if b"\0" in data[:4096]:
        raise BadFile("this is not text, so not a .cube lookup; was it renamed?")
    text = data.decode("utf-8-sig", errors="replace")
    lines = re.split(r"\r\n|\n|\r", text)
    settings, first = _header(lines)
    keyword = next((k for k in _SIZES if k in settings), None)
    if keyword is None:
        raise BadFile(
            "neither LUT_3D_SIZE nor LUT_1D_SIZE is given before the table; add the one that fits", min(first + 1, len(lines))
        )
    if all(k in settings for k in _SIZES):
        raise BadFile("LUT_1D_SIZE and LUT_3D_SIZE are both given; a .cube file holds one table", settings["LUT_3D_SIZE"][0])
    size = _size(keyword, *settings[keyword])
    low, high = _domain(settings)
    rows = size if keyword == "LUT_1D_SIZE" else size**3
    table = _table(lines, first, rows)
    title = settings["TITLE"][1].strip().strip('"') if "TITLE" in settings else ""
    return cube(table if keyword == "LUT_1D_SIZE" else table.reshape(size, size, size, 3), low, high, title)


def _header(lines: list[str]) -> tuple[dict[str, tuple[int, str]], int]:
    """Keywords with their line number and the rest of the line, and the index of the table's first line."""
    settings: dict[str, tuple[int, str]] = {}
    for index, line in enumerate(lines):
        stripped = line.strip()
        if not stripped or stripped.startswith("#"):
            continue
        if stripped[0] in "+-.0123456789" or re.match(r"(?i)(nan|inf)", stripped):
            return settings, index
        word, _, rest = stripped.partition(" ") if " " in stripped else stripped.partition("\t")
        keyword = word.upper()
        if keyword not in {"TITLE", *_SIZES, *_RANGES, *_ENDS}:
            raise BadFile(f"'{word[:40]}' is no keyword of a .cube file and no row of three numbers", index + 1)
        if keyword in settings:
            raise BadFile(f"{keyword} is given a second time; first in line {settings[keyword][0]}", index + 1)
        settings[keyword] = (index + 1, rest.strip())
    return settings, len(lines)


def _size(keyword: str, line: int, text: str) -> int:
    if not re.fullmatch(r"\d{1,9}", text):
        raise BadFile(f"{keyword} takes one whole number, this is '{text[:40]}'", line)
    size = int(text)
    if not SMALLEST <= size <= _SIZES[keyword]:
        raise BadFile(f"{keyword} is {size}; it must be {SMALLEST} to {_SIZES[keyword]}", line)
    return size


def _domain(settings: dict[str, tuple[int, str]]) -> tuple[Triple, Triple]:
    low: Triple = (0.0, 0.0, 0.0)
    high: Triple = (1.0, 1.0, 1.0)
    for keyword in _RANGES & settings.keys():
        line, text = settings[keyword]
        start, end = _numbers(text, 2, keyword, line)
        low, high = (start,) * 3, (end,) * 3
    last = 0
    if "DOMAIN_MIN" in settings:
        last, text = settings["DOMAIN_MIN"]
        low = _three(_numbers(text, 3, "DOMAIN_MIN", last))
    if "DOMAIN_MAX" in settings:
        last, text = settings["DOMAIN_MAX"]
        high = _three(_numbers(text, 3, "DOMAIN_MAX", last))
    if any(a >= b for a, b in zip(low, high, strict=True)):
        raise BadFile(f"the domain ends at {high} where it starts at {low}; each end must be above its start", last or None)
    return low, high


def _three(numbers: list[float]) -> Triple:
    return numbers[0], numbers[1], numbers[2]


def _numbers(text: str, count: int, what: str, line: int) -> list[float]:
    try:
        numbers = [float(part) for part in text.split()]
    except ValueError:
        numbers = []
    if len(numbers) != count or not all(np.isfinite(numbers)):
        raise BadFile(f"{what} takes {count} numbers, this is '{text[:60]}'", line)
    return numbers


def _table(lines: list[str], first: int, rows: int) -> NDArray[np.float64]:
    """The table, (rows, 3). The quick way first; where it fails, line by line, to name the one to blame."""
    data = [line for line in lines[first:] if line.strip() and not line.lstrip().startswith("#")]
    if len(data) == rows:
        try:
            flat = np.array(" ".join(data).split(), np.float64)
            widths = {len(line.split()) for line in data}
        except ValueError:
            flat, widths = np.empty(0), set()
        if widths == {3} and flat.size == 3 * rows and (np.abs(flat) <= _LARGEST).all():
            return flat.reshape(rows, 3)
    found = 0
    for index in range(first, len(lines)):
        line = lines[index].strip()
        if not line or line.startswith("#"):
            continue
        if line[0].isalpha() and line.split()[0].upper() in {"TITLE", *_SIZES, *_RANGES, *_ENDS}:
            raise BadFile(f"{line.split()[0]} stands after the table has begun; keywords come first", index + 1)
        if max(abs(v) for v in _numbers(line, 3, "a row of the table", index + 1)) > _LARGEST:
            raise BadFile("a number of this row is too large for single precision", index + 1)
        found += 1
        if found > rows:
            raise BadFile(f"the table has more than the {rows:,} rows that its size asks for", index + 1)
    raise BadFile(f"the table has {found:,} rows, its size asks for {rows:,}; is the file cut off?", len(lines))


def write_cube(lut: Lut) -> bytes:
    """The lookup as `.cube` text. Nine digits keep single precision exactly."""
    head = [f'TITLE "{_printable(lut.title)}"'] if lut.title else []
    head.append(f"LUT_{'3' if lut.is_cube else '1'}D_SIZE {lut.size}")
    if not lut.has_unit_domain:
        head.append("DOMAIN_MIN " + " ".join(repr(v) for v in lut.domain_min))
        head.append("DOMAIN_MAX " + " ".join(repr(v) for v in lut.domain_max))
    rows = (f"{r:.9g} {g:.9g} {b:.9g}" for r, g, b in lut.table.reshape(-1, 3).tolist())
    return ("\n".join([*head, "", *rows]) + "\n").encode()


def _printable(title: str) -> str:
    return "".join(c for c in title if c.isprintable() and c != '"')[:200]
