"""Who sits before the stand-in camera: performer, script, light and camera, put together frame by frame from the baked takes.

A script says which takes are seen at a frame, how large and where. Performers are flat cut-outs there: what is true of a frame
(masks, head, eyes) is moved along with them, and is exact for what is seen.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable, Iterable
from dataclasses import dataclass, replace
from functools import lru_cache, partial
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.cache import CACHE, kept_mask
from sunglaze.core.camera.cameras import Size, kept_region, moment_of, shrunk
from sunglaze.core.camera.kept import kept_frame
from sunglaze.core.camera.labels import (
    BEARD,
    BROW,
    BUILDING,
    CLOTH,
    EAR,
    EYE,
    GLASSES,
    GROUND,
    HAIR,
    HAND,
    HEADWEAR,
    LIPS,
    MOUTH,
    NECK,
    OTHER_HAND,
    SEA,
    SKIN,
    SKY,
    TEETH,
    TONGUE,
)  # fmt: skip
from sunglaze.core.camera.laying import Standing, materials, together
from sunglaze.core.camera.lighting import LIGHTS, TO_LINEAR, compose, lit_place
from sunglaze.core.camera.people import PEOPLE
from sunglaze.core.camera.takes import LENS_Z, MIDDLE_ROW, WIDTH, place, take
from sunglaze.core.camera.tracked import as_tracked
from sunglaze.core.camera.truth import heads
from sunglaze.core.face.pose import Pose
from sunglaze.core.face.seen import seen_face
from sunglaze.core.material.files import Bytes
from sunglaze.core.moment.moment import Face, Moment, Reads
from sunglaze.core.targets.memory import Words

SCRIPTS: dict[str, str] = {
    "talk": "Talks and turns", "smile": "Smiles and blinks", "open": "Opens the mouth", "near": "Leans in, goes far away",
    "edges": "To each edge, out and back",
    "two": "Two, one passes behind", "hands": "Hands before the face", "still": "Keeps still",
}  # fmt: skip
LENGTHS = {"talk": 75, "smile": 32, "open": 28, "near": 168, "edges": 300, "two": 225, "hands": 24, "still": 150}
NEAR_FRAMES = 28
"""Of the take *near*, which is played at a sixth of its rate; between its frames the size goes on."""
STILL_FRAME = 0
ROWS = {9 / 16: (0, 960), 3 / 4: (0, 780), 1.0: (0, 740), 16 / 9: (0, 740)}
"""By a screen's width over its height, the rows of a take that it shows: every head is whole in them; one that leans in
to 28 cm loses hair, and maybe its chin."""
PLACE_MIDDLE = 480
"""The row of a take at which the middle of the place is."""
SMALLEST = 270
"""Screens with a shorter side are made from one of twice or more the size, so that nothing flickers."""


HEAD_LABELS = (SKIN, HAIR, EYE, LIPS, TEETH, MOUTH, TONGUE, EAR, HEADWEAR, GLASSES, BROW, BEARD)
REGIONS: dict[str, tuple[tuple[int, ...], bool]] = {
    "hair": ((HAIR,), False),
    "head": (HEAD_LABELS, False),
    "face skin": ((SKIN,), False),
    "eyes": ((EYE,), False),
    "lips": ((LIPS,), False),
    "teeth": ((TEETH,), False),
    "tongue": ((TONGUE,), False),
    "brows": ((BROW,), False),
    "ears": ((EAR,), False),
    "neck": ((NECK,), False),
    "hands": ((HAND, OTHER_HAND), False),
    "right hand": ((HAND,), False),
    "left hand": ((OTHER_HAND,), False),
    "clothes": ((CLOTH, HEADWEAR), False),
    "sky": ((SKY,), True),
    "ground": ((GROUND, SEA), True),
    "building": ((BUILDING,), True),
}
"""The labels of each region, and whether they are the place's."""
NEARER, FARTHER = "nearer person", "farther person"
KNOWN = ("person", NEARER, FARTHER, *REGIONS)
"""All masks that this camera gives."""


LEAST_INSIDE, LEAST_SEEN = 0.5, 0.2
"""Shares of a face's points that lie in the picture, and that nothing hides, below which no tracker would find it; common
practice, no source."""


@dataclass(frozen=True)
class Sitting:
    """What is before the camera. `back`: the other side's camera, not mirrored, from a little farther. `tracked`: faces are told
    as a phone tracks them (tracked.py), not as they truly are."""

    who: str = "lamp-tender"
    script: str = "talk"
    light: str = "noon"
    back: bool = False
    tracked: bool = False

    def known(self) -> Sitting:
        """This, with what is not known here as it is by default."""
        plain = Sitting()
        return Sitting(
            self.who if self.who in PEOPLE else plain.who,
            self.script if self.script in SCRIPTS else plain.script,
            self.light if self.light in LIGHTS else plain.light,
            self.back,
            self.tracked,
        )


@dataclass(frozen=True)
class Figure:
    """A take's frame as it stands on the screen: `scale` about the middle of the row `pivot`, by default the lowest that is seen,
    then `across` pixels of the take sideways."""

    who: str
    take: str
    number: int
    scale: float = 1.0
    across: float = 0.0
    pivot: float | None = None


def figures(sitting: Sitting, number: int) -> list[Figure]:
    """The figures of a frame, those behind first."""
    who, n = sitting.who, number % LENGTHS[sitting.script]
    talk = n % LENGTHS["talk"]
    if sitting.script in ("talk", "smile", "open", "hands"):
        return [Figure(who, sitting.script, n)]
    if sitting.script == "still":
        return [Figure(who, "talk", STILL_FRAME)]
    if sitting.script == "near":
        at = n * NEAR_FRAMES / LENGTHS["near"]
        known = [one["shift"][2] for one in take(who, "near").truth]
        low, high, share = int(at), (int(at) + 1) % NEAR_FRAMES, at - int(at)
        wanted = known[low] * (1 - share) + known[high] * share
        # The one that is farther away, made larger: a nearer one made smaller would end above the edge of the picture.
        shown = min(low, high, key=lambda frame: known[frame])
        return [Figure(who, "near", shown, (LENS_Z - known[shown]) / (LENS_Z - wanted), 0.0, MIDDLE_ROW)]
    if sitting.script == "edges":
        return [Figure(who, "talk", talk, 1.0, -620 * math.sin(2 * math.pi * n / 300))]
    order = list(PEOPLE)
    other = order[(order.index(who) + 1) % len(order)]
    passing = -640 * math.cos(2 * math.pi * n / 225)
    return [Figure(other, "talk", (talk + 30) % 75, 0.84, passing), Figure(who, "talk", talk, 0.94, 40.0)]


class StandIn:
    """The stand-in camera with a sitting, for a screen of `width` by `height` pixels. Frames are kept while memory allows."""

    def __init__(self, width: int, height: int, sitting: Sitting | None = None) -> None:
        self.width, self.height = width, height
        self.sitting = (sitting or Sitting()).known()
        self.length = LENGTHS[self.sitting.script]
        # Its pictures are the same, however faces are told.
        self._plays = (replace(self.sitting, tracked=False), width, height)

    def sized(self, width: int, height: int) -> StandIn:
        """The same camera for another screen."""
        return self if (width, height) == (self.width, self.height) else StandIn(width, height, self.sitting)

    def faces(self, number: int) -> list[Face]:
        """As Camera has it: the nearest one first, of those of which enough is seen; as they are, or as a phone tracks them."""
        number %= self.length
        # What a phone takes for the face of who keeps still trembles all the same.
        return list(_faces(self.sitting, self.width, self.height, number if self.sitting.tracked else self._shown(number)))

    def seen_faces(self, number: int) -> tuple[Face, ...]:
        """The faces of a frame, computed."""
        found = []
        for head in reversed(heads(self, number)):
            inside = ((head.points >= 0) & (head.points < (self.width, self.height))).all(axis=1)
            if inside.mean() < LEAST_INSIDE or head.visible.mean() < LEAST_SEEN:
                continue
            points = np.column_stack([head.points, head.farther])
            found.append(seen_face(points, self.width, self.height, ~head.visible, Pose(head.turn, head.place)))
        return tuple(found)

    def moment(self, number: int, reads: Reads) -> Moment:
        """As Camera has it."""
        return moment_of(self, number, reads, "back" if self.sitting.back else "front")

    def frame(self, number: int) -> Words:
        """The picture of a frame as words, alpha the person mask."""
        shown = self._shown(number % self.length)
        name, size = f"{self._plays} {shown}", (self.width, self.height)
        return self._kept((shown,), lambda: kept_frame(name, size, lambda: self._composed(shown)))

    def _shown(self, number: int) -> int:
        return 0 if self.sitting.script == "still" else number

    def _kept(self, key: tuple[Hashable, ...], make: Callable[[], NDArray[Any]]) -> NDArray[Any]:
        return CACHE.get((self._plays, *key), make, group=self._plays)

    def _kept_mask(self, key: tuple[Hashable, ...], make: Callable[[], Bytes]) -> Bytes:
        return kept_mask((self._plays, *key), make, self._plays)

    def _composed(self, number: int) -> Words:
        short = min(self.width, self.height)
        if short < SMALLEST:
            factor = math.ceil(SMALLEST / short)
            # Not kept: who wants it at this size seldom wants it large, too.
            large = StandIn(self.width * factor, self.height * factor, self.sitting)._composed(number)
            return shrunk(large, self.width * factor, (self.width, self.height))
        light = LIGHTS[self.sitting.light]
        behind = self._kept(("place",), self._lit_place)
        return compose(behind, self._laid(number), light, number, PEOPLE[self.sitting.who].exposure)

    def _lit_place(self) -> NDArray[np.uint16]:
        light = LIGHTS[self.sitting.light]
        behind, _ = place(PEOPLE[self.sitting.who].place)
        around = np.array(light.place, np.float32) * np.float32(light.exposure * PEOPLE[self.sitting.who].exposure ** 0.5)
        return lit_place(TO_LINEAR[self.warped(behind, self._place_to_screen())] * around, light)

    def _laid(self, number: int) -> list[Standing]:
        def laid(figure: Figure, to_screen: NDArray[np.float64]) -> Standing:
            return Standing(take(figure.who, figure.take).frame(figure.number), to_screen)

        return together([partial(laid, *one) for one in self.standing(number)])

    def _outlines(self, number: int) -> list[Standing]:
        """As they are laid, with nothing but what each pixel is."""
        return [Standing(take(one.who, one.take).outline(one.number), to_screen) for one, to_screen in self.standing(number)]

    def rows(self) -> tuple[int, int]:
        """The first row of a take that the screen shows, and the one after the last."""
        aspect = self.width / self.height
        return ROWS[min(ROWS, key=lambda known: abs(math.log(known / aspect)))]

    def _to_screen(self, figure: Figure) -> NDArray[np.float64]:
        """From a take's pixels to the screen's, 2 by 3."""
        top, bottom = self.rows()
        zoom = self.height / (bottom - top)
        scale = figure.scale * (0.86 if self.sitting.back else 1.0)
        turned = 1.0 if self.sitting.back else -1.0
        pivot = bottom if figure.pivot is None else figure.pivot
        # Sideways about the middle, upright about a row.
        return np.array(
            [
                [turned * scale * zoom, 0, self.width / 2 + turned * (figure.across - WIDTH / 2 * scale) * zoom],
                [0, scale * zoom, ((1 - scale) * pivot - top) * zoom],
            ]
        )

    def _place_to_screen(self) -> NDArray[np.float64]:
        """From the place's pixels to the screen's: it is wide enough for every screen."""
        top, bottom = self.rows()
        size = place(PEOPLE[self.sitting.who].place)[0].shape[0]
        zoom = self.height / (bottom - top)
        scale = max(960 * zoom / size, self.width / size)
        turned = 1.0 if self.sitting.back else -1.0
        middle = (PLACE_MIDDLE - top) * zoom
        low = self.height - size / 2 * scale
        return np.array(
            [
                [turned * scale, 0, self.width / 2 - turned * size / 2 * scale],
                [0, scale, min(max(middle, low), size / 2 * scale) - size / 2 * scale],
            ]
        )

    def warped(self, pixels: NDArray[Any], to_screen: NDArray[np.float64], exact: bool = False) -> NDArray[Any]:
        """A picture of a take or place as it stands on the screen; `exact`: without mixing neighbours. `pixels`: (rows,
        columns) or (rows, columns, channels); `to_screen`: (2, 3)."""
        how = cv2.INTER_NEAREST if exact else cv2.INTER_LINEAR
        centred = _centred(to_screen)
        return np.asarray(cv2.warpAffine(pixels, centred, (self.width, self.height), flags=how))

    def labels(self, number: int) -> tuple[Bytes, Bytes]:
        """What every pixel shows, exactly: the performers' material (labels.py, 0 for none) and the place's label."""
        number %= self.length
        seen = self._kept_mask(
            (self._shown(number), "labels"), lambda: materials(self._outlines(number), self.width, self.height)
        )
        return seen, self._behind()

    def _behind(self) -> Bytes:
        _, behind = place(PEOPLE[self.sitting.who].place)
        made = partial(self.warped, behind, self._place_to_screen(), True)
        return self._kept(("behind",), made)

    def regions(self, number: int, names: Iterable[str], size: Size | None = None) -> dict[str, Bytes]:
        """As Camera has it: exact, soft by half a pixel at their edges."""
        number %= self.length
        key = self._plays, self._shown(number)
        known = [name for name in names if name in KNOWN and name != "person"]
        return {name: kept_region((*key, name), partial(self._region, number, name), self._plays, size) for name in known}

    def _region(self, number: int, name: str) -> Bytes:
        if name in (NEARER, FARTHER):
            return self._one_person(number, name)[..., None]
        material, behind = self.labels(number)
        labels, of_place = REGIONS[name]
        chosen = np.isin(np.arange(256), labels).astype(np.uint8) * 255
        inside = cv2.LUT(behind if of_place else material, chosen)
        if of_place:
            inside[material > 0] = 0
        return np.asarray(cv2.blur(inside, (3, 3))[..., None], np.uint8)

    def _one_person(self, number: int, name: str) -> Bytes:
        """What is seen of the nearer or the farther of two people; of one alone, who is the nearer."""
        masks = [self.warped(one.frame.coverage, one.to_screen) for one in self._outlines(number)]
        if name == NEARER:
            return masks[-1]
        hidden = masks[-1].astype(np.uint16)
        return np.asarray(masks[0] * (255 - hidden) // 255 if len(masks) > 1 else np.zeros_like(masks[0]), np.uint8)

    def standing(self, number: int) -> list[tuple[Figure, NDArray[np.float64]]]:
        """The figures of a frame, those behind first, each with what takes its take's pixels to the screen's (2 by 3)."""
        return [(figure, self._to_screen(figure)) for figure in figures(self.sitting, number % self.length)]


@lru_cache(maxsize=1024)
def _faces(sitting: Sitting, width: int, height: int, number: int) -> tuple[Face, ...]:
    """Of a frame, some 20 kB a face; many ask for them: the effect, its score, frames that nobody saw."""
    if sitting.tracked:
        camera = StandIn(width, height, replace(sitting, tracked=False))
        return tuple(as_tracked(camera.faces, number, width, height, sitting.who))
    return StandIn(width, height, sitting).seen_faces(number)


def _centred(matrix: NDArray[np.float64]) -> NDArray[np.float64]:
    """A mapping of places (pixel centres at +0.5) as OpenCV has it (centres at whole numbers)."""
    made = matrix.copy()
    made[:, 2] += matrix[:, :2] @ np.array([0.5, 0.5]) - 0.5
    return made
