"""Whether words can be read: their contrast against what is behind them as it is rendered (WCAG 2.2, 1.4.3), and whether they
stand inside the safe part of each screen."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.cameras import SCREENS, screen_size
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.colour.spaces import SRGB_TO_XYZ, linear
from sunglaze.core.effect.compiling import Compiled, compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.engine.playback import play_to
from sunglaze.core.targets.memory import parts_of

KINDS = ("text", "pinned-text")
"""Layers that show words."""
LEAST = 3.0
"""Contrast of large letters: WCAG 2.2, 1.4.3."""
SAFE = 0.02
"""Of a side, how near to the edge words may come; common practice, no source."""
SHORT, FRAME = 270, 20
CHANGE, CORE, ROUND = 12, 0.7, 4
"""Of 255: what counts as drawn; the part of the largest change that is the letters themselves; pixels round them."""
Bytes = NDArray[np.uint8]
Marks = NDArray[np.bool_]


@dataclass(frozen=True)
class Words:
    """A layer's words: the least contrast in any light that was looked at, and the screens on which they
    come too near to an edge."""

    layer: Layer
    contrast: float
    light: str
    outside: tuple[str, ...]


def luminance(picture: Bytes) -> NDArray[np.float64]:
    """Relative luminance of sRGB bytes (..., 3)."""
    return np.asarray(linear(picture / 255.0) @ SRGB_TO_XYZ[1])


def contrast_of(before: Bytes, after: Bytes) -> float | None:
    """The contrast ratio of what a layer drew to what lies round it; none where it drew nothing. `before`, `after`: (rows,
    columns, 3)."""
    change = np.abs(after.astype(int) - before).max(axis=2)
    if change.max() < CHANGE:
        return None
    letters = change >= max(CHANGE, CORE * change.max())
    around = cv2.dilate(letters.astype(np.uint8), np.ones((2 * ROUND + 1,) * 2, np.uint8)).astype(bool) & (change < CHANGE)
    # Where a shade lies under the letters, all round them is changed, too: then what is changed least.
    ring = around if around.any() else change < np.quantile(change, 0.5)
    one, other = (float(np.median(luminance(after[marks]))) for marks in (letters, ring))
    return (max(one, other) + 0.05) / (min(one, other) + 0.05)


def words_of(effect: Effect, compiled: Compiled, material: Material, patience: Callable[[], None]) -> Iterator[Words]:
    """The words of an effect's layers, as they are rendered; layers that show none in FRAME are left out."""
    for layer in effect.layers:
        if not layer.on or layer.kind not in KINDS:
            continue
        others = [one if one is not layer else layer.model_copy(update={"on": False, "drives": {}}) for one in effect.layers]
        bare = compile_effect(effect.model_copy(update={"layers": others}), material)
        least, dark = np.inf, ""
        for light in ("noon", "dusk"):
            patience()
            found = contrast_of(*(_shown(one, "9:16", light) for one in (bare, compiled)))
            if found is not None and found < least:
                least, dark = found, light
        if not dark:
            continue  # nothing of it is seen in this frame
        outside = []
        for screen in SCREENS:
            patience()
            drawn = np.abs(_shown(compiled, screen).astype(int) - _shown(bare, screen)).max(axis=2) >= CHANGE
            margin = max(1, round(SAFE * min(drawn.shape)))
            if drawn[:margin].any() or drawn[-margin:].any() or drawn[:, :margin].any() or drawn[:, -margin:].any():
                outside.append(screen)
        yield Words(layer, float(least), dark, tuple(outside))


def _shown(compiled: Compiled, screen: str, light: str = "noon") -> Bytes:
    camera = StandIn(*screen_size(screen, SHORT), Sitting("lamp-tender", "still", light))
    drawn = play_to(compiled.program.final, compiled.inputs, camera, FRAME)
    return parts_of(drawn, camera.width)[:, :, 2::-1].copy()
