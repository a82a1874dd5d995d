"""Names and bounds of lookup tables, without what computes with them: the command line and the interface name them, too."""

from __future__ import annotations

from typing import Literal

Layout = Literal["strip", "grid", "hald"]
LAYOUTS: tuple[Layout, ...] = ("strip", "grid", "hald")
Interpolation = Literal["tetrahedral", "trilinear"]
"""Between a cube's entries."""
SMALLEST, LARGEST_CUBE, LARGEST_CURVE = 2, 129, 65_536
"""Entries along an edge of a cube, at least and at most, and of a curve."""
