"""Where a Matroska or WebM file is damaged, which its reader goes over without a word (RFC 8794, RFC 9559)."""

from __future__ import annotations

EBML = b"\x1a\x45\xdf\xa3"
_OPENED = {0x18538067, 0x1F43B675}
"""Segment and Cluster, whose elements are walked; all others are skipped by their size."""
_INFO, _TIMESTAMP, _BLOCK, _SCALE = 0x1549A966, 0xE7, 0xA3, b"\x2a\xd7\xb1"
MOST_ELEMENTS = 200_000
"""Two minutes of pictures and sound have a tenth of that; what has more is not walked to its end."""
_KNOWN = {
    *(0x1A45DFA3, 0x114D9B74, _INFO, 0x1654AE6B, 0x1C53BB6B, 0x1941A469, 0x1043A770, 0x1254C367, 0xEC, 0xBF),
    *(_TIMESTAMP, 0x5854, 0xA7, 0xAB, _BLOCK, 0xA0, 0xAF),
}


def damaged_from(data: bytes) -> float | None:
    """The seconds of the last picture or cluster before the first element that is none, or that reaches beyond the file; None
    where every element leads to the next, and for other kinds of files."""
    if not data.startswith(EBML):
        return None
    at, nanoseconds, cluster, seconds = 0, 1_000_000, 0, 0.0
    for _ in range(MOST_ELEMENTS):
        if at >= len(data):
            return None
        name, at = _number(data, at, 4, marked=True)
        size, at = _number(data, at, 8, marked=False) if name is not None else (None, at)
        if name in _OPENED and size is not None:
            continue
        if name not in _KNOWN or size is None or at + size > len(data):
            return seconds
        inside = data[at : at + size] if name in (_INFO, _TIMESTAMP) else b""
        if name == _INFO and (found := inside.find(_SCALE)) >= 0:
            length, start = _number(inside, found + len(_SCALE), 8, marked=False)
            nanoseconds = int.from_bytes(inside[start : start + (length or 0)], "big") or nanoseconds
        if name == _TIMESTAMP:
            cluster = int.from_bytes(inside, "big")
            seconds = cluster * nanoseconds / 1e9
        if name == _BLOCK:
            _, start = _number(data, at, 8, marked=False)
            seconds = (cluster + int.from_bytes(data[start : start + 2], "big", signed=True)) * nanoseconds / 1e9
        at += size
    return None


def _number(data: bytes, at: int, most: int, marked: bool) -> tuple[int | None, int]:
    """A number of variable length, and where it ends; names keep the mark of their length. None where it is none."""
    width = 9 - data[at].bit_length() if at < len(data) else 9
    if width > most or at + width > len(data):
        return None, at
    whole = int.from_bytes(data[at : at + width], "big")
    return whole if marked else whole & ((1 << 7 * width) - 1), at + width
