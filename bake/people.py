"""The eight performers, made up, as numbers that the modules beside this one draw from. Nobody real is meant or resembled."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from bake.human import build

Triple = tuple[float, float, float]


@dataclass(frozen=True)
class Hair:
    """How hair grows: `style` names a rule of hair.py. Lengths and widths in millimetres, colour linear light of one strand."""

    style: str = "short"
    count: int = 20_000
    length: float = 40.0
    width: float = 0.7
    colour: Triple = (0.03, 0.018, 0.012)
    grey: float = 0.0
    line: float = 0.0
    """How far the hairline has gone back, decimetres."""


@dataclass(frozen=True)
class Performer:
    """One performer. `tone`: of the Monk scale, 1 to 10. `shapes`: further shapes of the data with their amounts."""

    key: str
    role: str
    tone: int
    age: float
    male: float
    ancestry: Triple
    seed: int
    muscle: float = 0.5
    weight: float = 0.5
    shapes: dict[str, float] = field(default_factory=dict)
    hair: Hair = Hair()
    beard: Hair | None = None
    brows: Hair = Hair("brows", 1020, 6.8, 0.24)
    iris: Triple = (0.05, 0.025, 0.012)
    freckles: float = 0.0
    wrinkles: float = 0.0
    birthmark: tuple[float, float, float, float] | None = None
    """Middle in the rest coordinates of the base mesh, and radius."""
    cloth: Triple = (0.03, 0.1, 0.13)
    weave: str = "knit"
    glasses: bool = False
    scarf: Triple | None = None
    hat: Triple | None = None
    smile: float = 1.0

    def amounts(self) -> dict[str, float]:
        """All shapes with their amounts; a little is uneven in everybody, by the seed."""
        chance = np.random.default_rng(self.seed)
        parts = ("brown-1", "cheek-1", "cheek-2", "ear-1", "eye-2", "eye-4", "jaw-1", "mouth-1", "nose-1", "nose-3", "temple-1")
        uneven = {f"asym/asym-{part}-{chance.choice(['l', 'r'])}": float(chance.uniform(0.1, 0.4)) for part in parts}
        return build(self.age, self.male, self.ancestry, self.muscle, self.weight) | uneven | both(self.shapes)


def both(shapes: dict[str, float]) -> dict[str, float]:
    """Shapes whose name has `*-` in place of a side count for both."""
    found: dict[str, float] = {}
    for name, amount in shapes.items():
        found |= {name.replace("*", side): amount for side in "lr"} if "*" in name else {name: amount}
    return found


CAST = (
    Performer(
        "lamp-tender", "Lamp tender", 4, 34, 0.05, (0.05, 0.35, 0.6), 11, weight=0.45,
        shapes={"head/head-oval": 0.5, "mouth/mouth-scale-horiz-incr": 0.3, "nose/nose-scale-vert-decr": 0.2,
                "eyes/*-eye-scale-incr": 0.25, "eyes/*-eye-height2-incr": 0.3, "mouth/mouth-lowerlip-volume-incr": 0.3},
        hair=Hair("long", 16_000, 320, 0.75, (0.05, 0.025, 0.014)), brows=Hair("brows", 760, 6.8, 0.23, (0.02, 0.012, 0.008)),
        iris=(0.07, 0.06, 0.03), freckles=0.25, cloth=(0.42, 0.05, 0.045),
    ),
    Performer(
        "ferry-pilot", "Ferry pilot", 6, 62, 1.0, (0.3, 0.2, 0.5), 23, muscle=0.6, weight=0.6, wrinkles=0.8,
        shapes={"head/head-square": 0.4, "nose/nose-hump-incr": 0.4, "nose/nose-scale-horiz-incr": 0.25, "chin/chin-width-incr": 0.4},
        hair=Hair("short", 14_000, 26, 0.6, (0.2, 0.19, 0.18), 0.6, 0.25), hat=(0.02, 0.03, 0.055),
        beard=Hair("beard", 22_000, 10, 0.42, (0.22, 0.21, 0.2), 0.7), brows=Hair("brows", 1147, 9.3, 0.29, (0.12, 0.11, 0.1), 0.5),
        iris=(0.1, 0.055, 0.025), cloth=(0.5, 0.29, 0.03),
    ),
    Performer(
        "beekeeper", "Beekeeper", 8, 27, 0.0, (1.0, 0.0, 0.0), 37, shapes={"nose/nose-scale-vert-decr": 0.2, "head/head-round": 0.3},
        hair=Hair("coils", 20_000, 28, 0.75, (0.016, 0.011, 0.009)), brows=Hair("brows", 918, 6.0, 0.23, (0.008, 0.006, 0.005)),
        iris=(0.04, 0.018, 0.009), cloth=(0.62, 0.42, 0.03),
    ),
    Performer(
        "stilt-walker", "Stilt walker", 2, 19, 0.3, (0.0, 0.0, 1.0), 41, weight=0.35,
        shapes={"chin/chin-width-decr": 0.4, "nose/nose-scale-horiz-decr": 0.3, "eyes/*-eye-scale-incr": 0.2, "eyes/*-eye-height2-incr": 0.3, "nose/nose-point-up": 0.3},
        hair=Hair("curls", 13_000, 120, 0.7, (0.22, 0.075, 0.02)), brows=Hair("brows", 816, 6.8, 0.22, (0.16, 0.065, 0.025)),
        iris=(0.09, 0.16, 0.2), freckles=1.0, cloth=(0.07, 0.22, 0.2),
    ),
    Performer(
        "oyster-cook", "Oyster cook", 10, 45, 1.0, (1.0, 0.0, 0.0), 53, muscle=0.7, weight=0.65, wrinkles=0.3,
        shapes={"head/head-rectangular": 0.3, "chin/chin-prominent-incr": 0.3},
        hair=Hair("none", 0), beard=Hair("moustache", 5_000, 12, 0.42, (0.012, 0.01, 0.009)),
        brows=Hair("brows", 1083, 6.8, 0.26, (0.008, 0.006, 0.005)), iris=(0.03, 0.016, 0.01), cloth=(0.5, 0.47, 0.42), weave="fine",
    ),
    Performer(
        "kite-flyer", "Kite flyer", 5, 41, 0.0, (0.1, 0.2, 0.7), 61, shapes={"nose/nose-hump-incr": 0.25, "head/head-oval": 0.3},
        hair=Hair("none", 0), scarf=(0.08, 0.28, 0.3), glasses=True, wrinkles=0.2,
        brows=Hair("brows", 1083, 6.8, 0.25, (0.02, 0.013, 0.01)), iris=(0.07, 0.035, 0.015), cloth=(0.2, 0.06, 0.16), weave="fine",
    ),
    Performer(
        "net-mender", "Net mender", 3, 80, 0.0, (0.0, 0.15, 0.85), 71, weight=0.4, wrinkles=1.0,
        shapes={"head/head-age-incr": 0.5, "mouth/mouth-upperlip-volume-decr": 0.4},
        hair=Hair("short", 15_000, 60, 0.55, (0.62, 0.6, 0.57), 1.0), brows=Hair("brows", 637, 6.8, 0.22, (0.4, 0.38, 0.35), 0.8),
        iris=(0.1, 0.17, 0.24), cloth=(0.1, 0.13, 0.3),
    ),
    Performer(
        "tide-reader", "Tide reader", 9, 23, 1.0, (0.8, 0.2, 0.0), 83, muscle=0.6, weight=0.4,
        shapes={"head/head-diamond": 0.3, "nose/nose-scale-horiz-incr": 0.1},
        hair=Hair("locks", 14_000, 90, 0.75, (0.014, 0.01, 0.008)), brows=Hair("brows", 1020, 6.0, 0.25, (0.008, 0.006, 0.005)),
        beard=Hair("stubble", 9_000, 3, 0.3, (0.012, 0.01, 0.009)), birthmark=(0.5, 6.98, 1.33, 0.13),
        iris=(0.04, 0.02, 0.01), cloth=(0.33, 0.36, 0.39), weave="fine",
    ),
)  # fmt: skip
