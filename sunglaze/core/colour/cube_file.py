"""Read and write `.cube` text, after the Cube LUT Specification 1.0. Input-range keywords of common writers are read too."""

from __future__ import annotations

import codecs
import re
import warnings

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.colour.layouts import LARGEST_CUBE, LARGEST_CURVE, SMALLEST
from sunglaze.core.colour.lut import Lut, Triple, cube
from sunglaze.core.errors import BadFile

_SIZES = {"LUT_1D_SIZE": LARGEST_CURVE, "LUT_3D_SIZE": LARGEST_CUBE}
_RANGES = {"LUT_1D_INPUT_RANGE", "LUT_3D_INPUT_RANGE"}
_ENDS = {"DOMAIN_MIN", "DOMAIN_MAX"}
_KEYWORDS = {"TITLE", *_SIZES, *_RANGES, *_ENDS}
MOST_BYTES = 64 * 1024 * 1024
_CHUNK = 1 << 16
"""Bytes of a table that are read at a time: between them other threads have their turn."""
_MOST_BLANK = 1 << 20
_LARGEST = float(np.finfo(np.float32).max)
_FILLED = re.compile(rb"[^\s]")
_TABLE_BEGINS = re.compile(rb"[-+.0-9]|(?i:nan|inf)")


def read_cube(data: bytes) -> Lut:
    """The lookup that `.cube` bytes hold. Raises BadFile with the line that is wrong."""
    if len(data) > MOST_BYTES:
        megabytes = len(data) // 1_000_000
        raise BadFile(f"the file has {megabytes} MB; {MOST_BYTES // 1_000_000} are the most, so write fewer digits or steps")
    if b"\0" in data[:4096]:
        raise BadFile("this is not text, so not a .cube lookup; was it renamed?")
    data = data.removeprefix(codecs.BOM_UTF8).replace(b"\r\n", b"\n").replace(b"\r", b"\n")
    settings, first = _header(data)
    keyword = next((k for k in _SIZES if k in settings), None)
    if keyword is None:
        line = _line(data, min(first, len(data) - 1))
        raise BadFile("neither LUT_3D_SIZE nor LUT_1D_SIZE is given before the table; add the one that fits", line)
    if all(k in settings for k in _SIZES):
        raise BadFile("LUT_1D_SIZE and LUT_3D_SIZE are both given; a .cube file holds one table", settings["LUT_3D_SIZE"][0])
    size = _size(keyword, *settings[keyword])
    low, high = _domain(settings)
    rows = size if keyword == "LUT_1D_SIZE" else size**3
    table = _table(data, first, rows)
    title = settings["TITLE"][1].strip().strip('"') if "TITLE" in settings else ""
    return cube(table if keyword == "LUT_1D_SIZE" else table.reshape(size, size, size, 3), low, high, title)


def _line(data: bytes, at: int) -> int:
    """The number of the line in which a byte stands, from 1."""
    return data.count(b"\n", 0, max(at, 0)) + 1


def _header(data: bytes) -> tuple[dict[str, tuple[int, str]], int]:
    """Keywords with their line number and the rest of the line, and the place of the table's first byte."""
    settings: dict[str, tuple[int, str]] = {}
    at = 0
    while filled := _FILLED.search(data, at, at + _MOST_BLANK):
        begins = filled.start()
        ends = data.find(b"\n", begins)
        ends = len(data) if ends < 0 else ends
        at = ends
        stripped = data[begins:ends].decode("utf-8", errors="replace").strip()
        if stripped.startswith("#"):
            continue
        if _TABLE_BEGINS.match(data, begins):
            return settings, begins
        word, _, rest = stripped.partition(" ") if " " in stripped else stripped.partition("\t")
        keyword = word.upper()
        if keyword not in _KEYWORDS:
            raise BadFile(f"'{word[:40]}' is no keyword of a .cube file and no row of three numbers", _line(data, begins))
        if keyword in settings:
            raise BadFile(f"{keyword} is given a second time; first in line {settings[keyword][0]}", _line(data, begins))
        settings[keyword] = (_line(data, begins), rest.strip())
    if len(data) - at > _MOST_BLANK:
        raise BadFile("there are nothing but blank lines from here on", _line(data, at))
    return settings, len(data)


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
        # As bytes: text is parted by more than the blanks of ASCII.
        numbers = [float(part) for part in text.encode().split()]
    except ValueError:
        numbers = []
    if len(numbers) != count or not all(np.isfinite(numbers)):
        raise BadFile(f"{what} takes {count} numbers, this is '{text[:60]}'", line)
    return numbers


def _table(data: bytes, first: int, rows: int) -> NDArray[np.float64]:
    """The table, (rows, 3). Chunks of lines the quick way; one in which that fails line by line, to name the one to blame."""
    table = np.empty((rows, 3))
    found, at = 0, first
    while at < len(data):
        ends = data.find(b"\n", min(at + _CHUNK, len(data)))
        ends = len(data) if ends < 0 else ends
        numbers = _plain_rows(data[at:ends])
        if numbers is None:
            numbers = _rows([parts for line in data[at:ends].split(b"\n") if (parts := line.split()) and parts[0][:1] != b"#"])
        if numbers is None or found + len(numbers) > rows:
            _blame(data, at, ends, rows - found, rows)
        assert numbers is not None
        table[found : found + len(numbers)] = numbers
        found += len(numbers)
        at = ends + 1
    if found < rows:
        raise BadFile(f"the table has {found:,} rows, its size asks for {rows:,}; is the file cut off?", _line(data, len(data)))
    return table


def _plain_rows(text: bytes) -> NDArray[np.float64] | None:
    """Rows of nothing but three numbers each, quickly; none where there is anything else."""
    letters = np.frombuffer(text, np.uint8)
    blank = letters <= 32
    begins = ~blank
    begins[1:] &= blank[:-1]
    ends = np.flatnonzero(letters == 10)
    words = np.diff(np.concatenate([[0], np.cumsum(begins)[ends], [begins.sum()]]))
    if not np.isin(words, (0, 3)).all() or b"#" in text:
        return None
    with warnings.catch_warnings():
        warnings.simplefilter("error", DeprecationWarning)  # what is no number ends the reading with one
        try:
            numbers = np.fromstring(text, np.float64, sep=" ")
        except (DeprecationWarning, ValueError):
            return None
    if numbers.size != words.sum() or not (np.abs(numbers) <= _LARGEST).all():
        return None
    return numbers.reshape(-1, 3)


def _rows(lines: list[list[bytes]]) -> NDArray[np.float64] | None:
    """Rows of three numbers; none where one is something else."""
    if any(len(parts) != 3 for parts in lines):
        return None
    try:
        numbers = np.array([float(part) for parts in lines for part in parts], np.float64).reshape(-1, 3)
    except ValueError:
        return None
    return numbers if (np.abs(numbers) <= _LARGEST).all() else None


def _blame(data: bytes, begins: int, ends: int, left: int, rows: int) -> None:
    """Raises BadFile with the first line from here that is no row, or one too many."""
    at = begins
    for raw in data[begins:ends].split(b"\n"):
        line, place = raw.strip().decode("utf-8", errors="replace"), at
        at += len(raw) + 1
        if not line or line.startswith("#"):
            continue
        if line[0].isalpha() and line.split()[0].upper() in _KEYWORDS:
            raise BadFile(f"{line.split()[0]} stands after the table has begun; keywords come first", _line(data, place))
        if max(abs(v) for v in _numbers(line, 3, "a row of the table", _line(data, place))) > _LARGEST:
            raise BadFile("a number of this row is too large for single precision", _line(data, place))
        left -= 1
        if left < 0:
            raise BadFile(f"the table has more than the {rows:,} rows that its size asks for", _line(data, place))


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
