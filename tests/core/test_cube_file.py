"""Reading and writing .cube: the Cube LUT Specification 1.0, OpenColorIO and colour-science."""

from __future__ import annotations

import warnings
from pathlib import Path

import numpy as np
import pytest

from sunglaze.core.colour.cube_file import read_cube, write_cube
from sunglaze.core.colour.lut import cube
from sunglaze.core.errors import BadFile
from tests.grades import random_cube

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour

EIGHT = "\n".join(f"{r} {g} {b}" for b in (0, 1) for g in (0, 1) for r in (0, 1))


@pytest.mark.parametrize("size", [2, 5, 33])
def test_round_trip_keeps_every_bit(size: int) -> None:
    lut = cube(random_cube(size, size).table * 3 - 1, (-0.5, 0, 0.25), (1.5, 1, 2), "Harbour")
    back = read_cube(write_cube(lut))
    assert np.array_equal(back.table, lut.table)
    assert (back.domain_min, back.domain_max, back.title) == (lut.domain_min, lut.domain_max, "Harbour")


def test_curves_round_trip() -> None:
    lut = cube(np.random.default_rng(0).random((65_536, 3)))
    assert np.array_equal(read_cube(write_cube(lut)).table, lut.table)


def test_red_changes_fastest() -> None:
    """Specification 1.0, "the first index (red) changes most rapidly"."""
    table = read_cube(f"LUT_3D_SIZE 2\n{EIGHT}".encode()).table
    assert table[0, 0, 1].tolist() == [1, 0, 0]
    assert table[1, 0, 0].tolist() == [0, 0, 1]


def test_colour_science_reads_what_we_write_and_we_what_it_writes(tmp_path: Path) -> None:
    lut = cube(random_cube(1, 7).table, (0, -1, 0), (1, 2, 4), "Tide")
    (tmp_path / "ours.cube").write_bytes(write_cube(lut))
    theirs = colour.io.read_LUT_IridasCube(str(tmp_path / "ours.cube"))
    # colour-science indexes [red, green, blue]
    assert np.abs(theirs.table.transpose(2, 1, 0, 3) - lut.table).max() < 1e-7
    assert theirs.domain.tolist() == [[0, -1, 0], [1, 2, 4]]
    colour.io.write_LUT_IridasCube(theirs, str(tmp_path / "theirs.cube"), decimals=9)
    assert np.abs(read_cube((tmp_path / "theirs.cube").read_bytes()).table - lut.table).max() < 1e-6


@pytest.mark.parametrize("ending", ["\n", "\r\n", "\r"])
def test_comments_blank_lines_case_and_line_ends(ending: str) -> None:
    text = f'# graded at low tide\n\ntitle "Low tide"\nlut_3d_size 2\nDomain_Min 0 0 0\n\n# table\n{EIGHT}\n\n'
    lut = read_cube(text.replace("\n", ending).encode())
    assert lut.title == "Low tide"
    assert lut.size == 2
    assert lut.table.sum() == 12


def test_byte_order_mark_and_exponents() -> None:
    text = "\ufeffLUT_1D_SIZE 2\n-1e-3 0 .5\n1E0 +2. 3\n"
    assert read_cube(text.encode()).table.tolist()[1] == [1, 2, 3]


@pytest.mark.parametrize(
    ("text", "line", "words"),
    [
        ("", 1, "LUT_3D_SIZE"),
        ("LUT_3D_SIZE 2\n0 0 0\n1 1", 3, "3 numbers"),
        ("LUT_3D_SIZE 2\n0 0 0\n", 3, "1 rows"),
        (f"LUT_3D_SIZE 2\n{EIGHT}\n0 0 0", 10, "more than"),
        ("LUT_3D_SIZE 1\n0 0 0", 1, "2 to 129"),
        ("LUT_3D_SIZE 130\n", 1, "2 to 129"),
        ("LUT_1D_SIZE 65537\n", 1, "2 to 65536"),
        ("LUT_3D_SIZE two\n", 1, "whole number"),
        (f"LUT_3D_SIZE 2\nLUT_3D_SIZE 2\n{EIGHT}", 2, "second time"),
        (f"LUT_3D_SIZE 2\nLUT_1D_SIZE 2\n{EIGHT}", 1, "both"),
        (f"LUT_3D_SIZE 2\nDOMAIN_MAX 0 1 1\n{EIGHT}", 2, "above its start"),
        (f"LUT_3D_SIZE 2\nDOMAIN_MIN 0 0\n{EIGHT}", 2, "3 numbers"),
        ("LUT_3D_SIZE 2\nnan 0 0\n" + "0 0 0\n" * 7, 2, "3 numbers"),
        ("LUT_3D_SIZE 2\n1e99 0 0\n" + "0 0 0\n" * 7, 2, "too large"),
        (f"LUT_3D_SIZE 2\n{EIGHT}\nTITLE late", 10, "keywords come first"),
        ("<html>\n", 1, "no keyword"),
    ],
)
def test_a_bad_file_is_refused_with_its_line(text: str, line: int, words: str) -> None:
    with pytest.raises(BadFile, match=words) as caught:
        read_cube(text.encode())
    assert caught.value.line == line


def test_input_range_keyword() -> None:
    """LUT_3D_INPUT_RANGE of common writers; OpenColorIO documents it for its reader of this format (from memory)."""
    lut = read_cube(f"LUT_3D_SIZE 2\nLUT_3D_INPUT_RANGE -1 3\n{EIGHT}".encode())
    assert (lut.domain_min, lut.domain_max) == ((-1, -1, -1), (3, 3, 3))
