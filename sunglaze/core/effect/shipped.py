"""Ready-made layers, masks, drives and cues: recipes that ship as documents beside this file."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from sunglaze.core.effect.recipe import Recipe, read_recipe

FOLDER = Path(__file__).parent / "recipes"
MASKS = Path(__file__).parent / "masks"
DRIVES = Path(__file__).parent / "drives"
CUES = Path(__file__).parent / "cues"


@cache
def shipped() -> dict[str, Recipe]:
    """All ready-made layers by kind, which is their file's name."""
    return {path.stem: read_recipe(path.read_bytes()) for path in sorted(FOLDER.glob("*.json"))}


@cache
def mask_recipes() -> dict[str, Recipe]:
    """All kinds of masks of layers: recipes that give a mask."""
    return {path.stem: read_recipe(path.read_bytes()) for path in sorted(MASKS.glob("*.json"))}


@cache
def drive_recipes() -> dict[str, Recipe]:
    """All that moves a control by itself: recipes that give a number."""
    return {path.stem: read_recipe(path.read_bytes()) for path in sorted(DRIVES.glob("*.json"))}


@cache
def cue_recipes() -> dict[str, Recipe]:
    """All kinds of cues: recipes that give yes or no."""
    return {path.stem: read_recipe(path.read_bytes()) for path in sorted(CUES.glob("*.json"))}
