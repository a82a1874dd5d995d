"""The cast: eight made-up performers of the festival, by role. How they are made is in bake/people.py.

Skin colours are tones of the Monk Skin Tone scale (Monk 2022; the ten sRGB values from memory of its publication).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from sunglaze.core.colour.spaces import linear

MONK_TONES = (
    "#f6ede4", "#f3e7db", "#f7ead0", "#eadaba", "#d7bd96", "#a07e56", "#825c43", "#604134", "#3a312a", "#292420",
)  # fmt: skip


@dataclass(frozen=True)
class Performer:
    """One of the cast. `tone`: of the Monk scale, 1 to 10; `place`: what stands behind."""

    key: str
    role: str
    tone: int
    place: str
    looks: tuple[str, ...] = ()
    """What is worn or grown, beside hair."""

    @property
    def exposure(self) -> float:
        """By how much a phone exposes for this face: part of the way to a middle one, as automatic exposure does (common
        practice, no source)."""
        code = MONK_TONES[self.tone - 1]
        red, green, blue = linear(np.array([int(code[n : n + 2], 16) / 255 for n in (1, 3, 5)]))
        light = float(0.2126 * red + 0.7152 * green + 0.0722 * blue)
        return float(min(1.5, max(0.6, (0.27 / light) ** 0.4)))


PEOPLE = {
    one.key: one
    for one in (
        Performer("lamp-tender", "Lamp tender", 4, "harbour"),
        Performer("ferry-pilot", "Ferry pilot", 6, "harbour", ("beard", "cap")),
        Performer("beekeeper", "Beekeeper", 8, "meadow"),
        Performer("stilt-walker", "Stilt walker", 2, "square", ("freckles",)),
        Performer("oyster-cook", "Oyster cook", 10, "square", ("bald", "moustache")),
        Performer("kite-flyer", "Kite flyer", 5, "meadow", ("scarf", "glasses")),
        Performer("net-mender", "Net mender", 3, "harbour", ("wrinkles",)),
        Performer("tide-reader", "Tide reader", 9, "meadow", ("birthmark", "stubble")),
    )
}
