"""How well the regions of a real camera are outlined on the cast, performer by performer: trackers' points, hands and colours
against the cast's exact masks. Part of `sunglaze realism`."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.camera.people import PEOPLE
from sunglaze.core.face.regions import hand_region, region

if TYPE_CHECKING:
    from sunglaze.realism import Trackers

DRAWN = ("head", "hair", "face skin", "eyes", "lips", "teeth", "clothes")
LOOKED_AT = (("talk", "noon", 10), ("talk", "lamp", 60), ("open", "noon", 15))
HANDS = (6, 11, 16)
WIDTH, HEIGHT = 540, 960
LEAST = 200
"""Pixels of a region that is there."""
Mask = NDArray[np.bool_]


def _alike(seen: NDArray[np.uint8], exact: NDArray[np.uint8]) -> float | None:
    """Intersection over union; none where the region is not there."""
    ours, theirs = seen > 127, exact[..., 0] > 127
    return None if theirs.sum() < LEAST else float((ours & theirs).sum() / (ours | theirs).sum())


def outlined(trackers: Trackers, told: Callable[[str], None]) -> dict[str, dict[str, float | None]]:
    """By performer and region, the median of intersections over unions; none where it is never seen."""
    found: dict[str, dict[str, float | None]] = {}
    for who, person in PEOPLE.items():
        told(f"regions of the {person.role.lower()}")
        parts: dict[str, list[float | None]] = {name: [] for name in (*DRAWN, "hands")}
        for script, light, number in LOOKED_AT:
            camera = StandIn(WIDTH, HEIGHT, Sitting(who, script, light))
            pixels = np.ascontiguousarray(colours(camera.frame(number), WIDTH))
            faces = [face * (WIDTH, HEIGHT, WIDTH) for face in trackers.faces(pixels)]
            mask, exact = trackers.person(pixels), camera.regions(number, DRAWN)
            for name in DRAWN:
                parts[name].append(_alike(region(name, faces, mask, pixels), exact[name]))
        for number in HANDS:
            camera = StandIn(WIDTH, HEIGHT, Sitting(who, "hands"))
            pixels = np.ascontiguousarray(colours(camera.frame(number), WIDTH))
            hands = [hand * (WIDTH, HEIGHT, WIDTH) for hand in trackers.hands(pixels)]
            parts["hands"].append(_alike(hand_region(hands, HEIGHT, WIDTH), camera.regions(number, ["hands"])["hands"]))
        known = {name: [one for one in some if one is not None] for name, some in parts.items()}
        found[who] = {name: float(np.median(some)) if some else None for name, some in known.items()}
    return found


def in_words(found: dict[str, dict[str, float | None]]) -> str:
    """As a table in Markdown."""
    names = (*DRAWN, "hands")
    lines = [f"| region, of 1 | {' | '.join(names)} |", "|---" * (len(names) + 1) + "|"]
    for who, parts in found.items():
        shown = ["none there" if parts[name] is None else f"{parts[name]:.2f}" for name in names]
        lines.append(f"| {PEOPLE[who].role} | {' | '.join(shown)} |")
    return "\n".join(lines)
