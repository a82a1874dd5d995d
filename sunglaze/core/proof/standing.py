"""What stands out on a proof sheet: cells whose figures are far from the others', and what a sheet says in words."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from itertools import chain
from types import MappingProxyType
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from sunglaze.core.camera.people import PEOPLE
from sunglaze.core.proof.cells import Figures
from sunglaze.core.proof.sheet import Axis, Place, Sheet, title
from sunglaze.core.review.preflight import APART, SHIFTS

CLIPPED, FLAT, COVERED = 0.05, 0.5, 0.5
"""Shares: of the picture that may clip, of the camera's contrast that must stay, and of the eyes that may be covered; common
practice, no source."""
UNEVEN, ALIKE, NEARLY = 1.5, 2.0, 1.35
"""From how many times as far, and how much farther (CIEDE2000), somebody's skin is told of; up to how many times as far as the
least is about alike."""
Figure = Literal["shift", "clipped", "contrast", "eyes", "border", "flashes"]
Made = Mapping[Place, Figures]


class Said(BaseModel):
    """A sentence. `look`: it wants a look; `cells`: the keys of the places that it is about."""

    model_config = ConfigDict(frozen=True)
    words: str
    look: bool = False
    cells: tuple[str, ...] = ()


def outliers(cells: Made) -> dict[Place, tuple[Figure, ...]]:
    """Of each cell the figures that are far from the others' or beyond what is usual; cells with none are left out."""
    shifts = defaultdict(list)
    for place, one in cells.items():
        if one.shift is not None:
            shifts[_elsewhere(place)].append(one.shift)
    middles = {where: float(np.median(some)) for where, some in shifts.items()}
    found = {}
    for place, one in cells.items():
        far = one.shift is not None and one.shift > max(APART, SHIFTS * middles[_elsewhere(place)])
        marks: dict[Figure, bool] = {
            "shift": far,
            "clipped": one.clipped > CLIPPED,
            "contrast": one.contrast < FLAT * one.bare_contrast,
            "eyes": one.eyes is not None and one.eyes > COVERED,
            "border": bool(one.border),
            "flashes": one.flashes_harm,
        }
        if names := tuple(name for name, marked in marks.items() if marked):
            found[place] = names
    return found


def _elsewhere(place: Place) -> tuple[str, str, str]:
    return place.light, place.screen, place.moment


def said(sheet: Sheet, cells: Made, own: Mapping[str, str] = MappingProxyType({})) -> list[Said]:
    """What a sheet says in words, what wants a look first. `own`: names of own photos and clips."""
    if not cells:
        return []
    marks = outliers(cells)
    found = [*_skin(cells, own), *_eyes(sheet, cells, own), *_share(cells, marks), *_edges(cells), *_flashing(cells)]
    return sorted(found, key=lambda one: not one.look)


def _name(who: str, own: Mapping[str, str]) -> str:
    words = title("who", who, own)
    return f"the {words.lower()}" if who in PEOPLE else words


def _skin(cells: Made, own: Mapping[str, str]) -> list[Said]:
    by_who = defaultdict(list)
    for place, one in cells.items():
        if one.shift is not None and one.lightness is not None:
            by_who[place.who].append((one.shift, one.lightness))
    if not by_who:
        return [Said(words="No skin is seen in any of these.")]
    means = {who: np.mean(some, axis=0) for who, some in by_who.items()}
    order = sorted(means, key=lambda who: means[who][0])
    least, most = means[order[0]][0], means[order[-1]][0]
    if most < 1.0:
        return [Said(words="Skin stays as it is: no shift that is seen (below 1, CIEDE2000).")]
    middle, far = order[(len(order) - 1) // 2], order[-1]
    ratio = most / max(means[middle][0], 1e-6)
    if ratio >= UNEVEN and most - means[middle][0] > ALIKE:
        lighter = means[far][1]
        verb = "lightens" if lighter > most / 2 else "darkens" if lighter < -most / 2 else "colours"
        words = f"It {verb} {_name(far, own)}'s skin {_times(ratio)} as {_name(middle, own)}'s: by {most:.1f} against"
        where = tuple(place.key for place in cells if place.who in (far, middle))
        return [Said(words=f"{words} {means[middle][0]:.1f} (CIEDE2000).", look=most > APART and ratio > SHIFTS, cells=where)]
    if len(order) == 1:
        return [Said(words=f"It shifts {_name(far, own)}'s skin by {most:.1f} (CIEDE2000).")]
    if most < NEARLY * least:
        return [Said(words=f"It shifts everybody's skin about alike, by {least:.1f} to {most:.1f} (CIEDE2000).")]
    words = f"It shifts {_name(order[0], own)}'s skin least, by {least:.1f}, and {_name(far, own)}'s most, by {most:.1f}"
    return [Said(words=f"{words} (CIEDE2000).")]


def _times(ratio: float) -> str:
    for most, words in ((1.75, "half as much again"), (2.25, "twice as much"), (2.75, "two and a half times as much")):
        if ratio < most:
            return words
    return "three times as much" if ratio < 3.25 else f"{ratio:.0f} times as much"


def _eyes(sheet: Sheet, cells: Made, own: Mapping[str, str]) -> list[Said]:
    axis: Axis = sheet.across if sheet.down == "who" else sheet.down
    groups = defaultdict(list)
    for place, one in cells.items():
        if one.eyes is not None:
            groups[getattr(place, axis)].append((place.key, one.eyes > COVERED))
    hidden = {value: [key for key, covered in some if covered] for value, some in groups.items()}
    worst = {value: keys for value, keys in hidden.items() if keys}
    if not groups:
        return []
    if not worst:
        return [Said(words="Eyes can be seen wherever there are some.")]
    if len(worst) == len(groups) and all(len(keys) == len(groups[value]) for value, keys in worst.items()):
        return [Said(words="It hides everybody's eyes, everywhere.", look=True, cells=tuple(chain(*worst.values())))]
    of = {value: f"{_number(len(keys))} of {_number(len(groups[value]))}" for value, keys in worst.items()}
    parts = [f"{words} ({title(axis, value, own).lower()})" for value, words in of.items()]
    return [Said(words=f"It hides the eyes of {', '.join(parts)}.", look=True, cells=tuple(chain(*worst.values())))]


def _number(count: int) -> str:
    few = ("none", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
    return few[count] if count < len(few) else str(count)


def _share(cells: Made, marks: Mapping[Place, tuple[Figure, ...]]) -> list[Said]:
    flat = tuple(place.key for place in cells if "contrast" in marks.get(place, ()))
    ends = tuple(place.key for place in cells if "clipped" in marks.get(place, ()))
    found = []
    if flat:
        words = f"Contrast falls below half of the camera's in {_number(len(flat))} of {_number(len(cells))} cells."
        found.append(Said(words=words, look=True, cells=flat))
    most = max(one.clipped for one in cells.values())
    if ends:
        words = f"Light or shadow is lost in {_number(len(ends))} of {_number(len(cells))} cells"
        found.append(Said(words=f"{words}: up to {100 * most:.0f} % of the picture.", look=True, cells=ends))
    else:
        found.append(Said(words=f"Hardly any light or shadow is lost: at most {100 * most:.1f} % of the picture."))
    return found


def _edges(cells: Made) -> list[Said]:
    lined = tuple(place.key for place, one in cells.items() if one.border)
    if not lined:
        return [Said(words="No border shows.")]
    sides = dict.fromkeys(side for one in cells.values() for side in one.border)
    where = f"A line shows along the {' and '.join(sides)} edge in {_number(len(lined))} of {_number(len(cells))} cells."
    return [Said(words=where, look=True, cells=lined)]


def _flashing(cells: Made) -> list[Said]:
    bad = tuple(place.key for place, one in cells.items() if one.flashes_harm)
    if not bad:
        return [Said(words="No flashing that harms (WCAG 2.3.1).")]
    worst = max(one.flashes for one in cells.values() if one.flashes_harm)
    words = f"It flashes up to {worst} times a second in {_number(len(bad))} of {_number(len(cells))} cells; three are the most"
    return [Said(words=f"{words} (WCAG 2.3.1).", look=True, cells=bad)]
