"""The cast: six made-up performers of the festival, by role, as numbers that shapes.py and surface.py draw from.

Skin colours are tones of the Monk Skin Tone scale (Monk 2022; the ten sRGB values from memory of its publication).
"""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.colour.spaces import linear

MONK_TONES = (
    "#f6ede4", "#f3e7db", "#f7ead0", "#eadaba", "#d7bd96", "#a07e56", "#825c43", "#604134", "#3a312a", "#292420",
)  # fmt: skip

HAIR = ("none", "cropped", "long", "curls", "bun")
HEADWEAR = ("none", "cap", "headscarf")
BEARD = ("none", "full", "moustache")
COAT = ("coat", "stripes", "apron", "oilskin")
COLLAR = ("none", "scarf", "roll")


@dataclass(frozen=True)
class Person:
    """One performer. Sizes are factors of a middle head; colours are linear red, green, blue."""

    key: str
    role: str
    tone: int
    hair: Literal["none", "cropped", "long", "curls", "bun"]
    headwear: Literal["none", "cap", "headscarf"] = "none"
    beard: Literal["none", "full", "moustache"] = "none"
    glasses: bool = False
    coat: Literal["coat", "stripes", "apron", "oilskin"] = "coat"
    collar: Literal["none", "scarf", "roll"] = "none"
    width: float = 1.0
    jaw: float = 1.0
    chin: float = 1.0
    cheek: float = 1.0
    nose_width: float = 1.0
    nose_length: float = 1.0
    lips: float = 1.0
    mouth_width: float = 1.0
    brow: float = 1.0
    eye: float = 1.0
    age: float = 0.2
    freckles: float = 0.0
    shoulders: float = 1.0
    hair_colour: tuple[float, float, float] = (0.06, 0.03, 0.015)
    iris: tuple[float, float, float] = (0.13, 0.07, 0.03)
    lip_colour: tuple[float, float, float] = (0.36, 0.11, 0.095)
    cloth: tuple[float, float, float] = (0.03, 0.1, 0.13)
    second_cloth: tuple[float, float, float] = (0.56, 0.25, 0.05)

    @property
    def skin(self) -> tuple[float, float, float]:
        """Linear light of the performer's tone."""
        code = MONK_TONES[self.tone - 1]
        red, green, blue = linear(np.array([int(code[n : n + 2], 16) / 255 for n in (1, 3, 5)])).tolist()
        return red, green, blue

    def numbers(self) -> NDArray[np.float64]:
        """What the compiled functions take; INDEX names the places."""
        plain: list[float] = []
        for one in fields(self):
            value = getattr(self, one.name)
            if one.name in ("key", "role", "tone"):
                continue
            if isinstance(value, tuple):
                plain += value
            elif isinstance(value, str):
                plain.append(
                    float(
                        {"hair": HAIR, "headwear": HEADWEAR, "beard": BEARD, "coat": COAT, "collar": COLLAR}[one.name].index(
                            value
                        )
                    )
                )
            else:
                plain.append(float(value))
        return np.array([*plain, *self.skin])


(
    P_HAIR, P_HEADWEAR, P_BEARD, P_GLASSES, P_COAT, P_COLLAR, P_WIDTH, P_JAW, P_CHIN, P_CHEEK, P_NOSE_WIDTH, P_NOSE_LENGTH, P_LIPS,
    P_MOUTH_WIDTH, P_BROW, P_EYE, P_AGE, P_FRECKLES, P_SHOULDERS,
) = range(19)  # fmt: skip
"""Places in `numbers`, in the order of Person's fields; colours of three numbers follow."""
C_HAIR, C_IRIS, C_LIPS, C_CLOTH, C_SECOND, C_SKIN = range(19, 37, 3)

CAST = (
    Person(
        "lamp-tender", "Lamp tender", 4, "bun", collar="scarf", brow=0.9, lips=1.1, jaw=0.94, freckles=0.3,
        hair_colour=(0.085, 0.04, 0.02), iris=(0.09, 0.11, 0.07), lip_colour=(0.5, 0.2, 0.17),
    ),
    Person(
        "ferry-pilot", "Ferry pilot", 6, "cropped", headwear="cap", beard="full", coat="oilskin", width=1.05, jaw=1.12, chin=1.1,
        nose_width=1.15, nose_length=1.15, lips=0.8, brow=1.3, eye=0.9, age=0.9, shoulders=1.1, hair_colour=(0.42, 0.41, 0.39),
        iris=(0.1, 0.055, 0.025), lip_colour=(0.26, 0.1, 0.08), cloth=(0.6, 0.36, 0.03), second_cloth=(0.02, 0.035, 0.07),
    ),
    Person(
        "beekeeper", "Beekeeper", 8, "curls", width=0.97, jaw=0.92, cheek=1.15, nose_width=1.3, nose_length=0.9, lips=1.4,
        mouth_width=1.08, brow=0.8, eye=1.08, age=0.3, coat="apron", hair_colour=(0.018, 0.012, 0.009), iris=(0.05, 0.025, 0.012),
        lip_colour=(0.2, 0.06, 0.055), cloth=(0.5, 0.48, 0.4), second_cloth=(0.62, 0.4, 0.05),
    ),
    Person(
        "stilt-walker", "Stilt walker", 2, "long", width=0.94, jaw=0.86, chin=0.9, nose_width=0.85, lips=0.95, brow=0.75, eye=1.1,
        age=0.05, freckles=1.0, coat="stripes", shoulders=0.92, hair_colour=(0.34, 0.1, 0.02), iris=(0.09, 0.16, 0.22),
        lip_colour=(0.6, 0.27, 0.24), cloth=(0.68, 0.66, 0.6), second_cloth=(0.5, 0.05, 0.05),
    ),
    Person(
        "oyster-cook", "Oyster cook", 10, "none", beard="moustache", width=1.04, jaw=1.1, chin=1.12, cheek=1.05, nose_width=1.35,
        nose_length=1.0, lips=1.3, mouth_width=1.1, brow=1.15, eye=0.97, age=0.55, shoulders=1.12, coat="apron",
        hair_colour=(0.014, 0.011, 0.01), iris=(0.035, 0.02, 0.012), lip_colour=(0.085, 0.032, 0.03), cloth=(0.12, 0.2, 0.3),
        second_cloth=(0.7, 0.69, 0.66),
    ),
    Person(
        "kite-flyer", "Kite flyer", 5, "none", headwear="headscarf", glasses=True, width=1.0, jaw=0.96, nose_length=1.05, lips=1.0,
        brow=1.05, eye=1.0, age=0.45, collar="none", hair_colour=(0.03, 0.018, 0.012), iris=(0.07, 0.035, 0.015),
        lip_colour=(0.42, 0.15, 0.13), cloth=(0.2, 0.06, 0.16), second_cloth=(0.08, 0.3, 0.3),
    ),
)  # fmt: skip
"""The six, from the festival of the demo."""
