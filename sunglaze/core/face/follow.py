"""Which face is which from frame to frame: the first stays the first while another crosses it, or hides it for a while."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import permutations

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.face.measure import measure

Points = NDArray[np.float64]
MOST = 2
KEPT_SECONDS = 1.5
"""How long a face that is not seen keeps its place."""
FARTHEST = 2.5
"""Sizes of a face that it may be away from where it was awaited."""
EASE_SECONDS = 0.15
"""Within which its speed follows the one that is seen."""


@dataclass
class _Known:
    middle: Points
    size: float
    speed: Points
    unseen: float = 0.0

    def awaited(self, seconds: float) -> Points:
        """Where its middle is to be expected so many seconds later (2,), if it goes on as it did."""
        return np.asarray(self.middle + self.speed * seconds)


class Follower:
    """Gives faces their places, first to last, by where each was awaited: it goes on as it went."""

    def __init__(self) -> None:
        self._known: list[_Known | None] = [None] * MOST

    def update(self, faces: list[Points], seconds: float) -> list[int | None]:
        """For each place the index of its face in `faces`, none where it is not seen now. `seconds` since the frame before.
        Each face is (468 or more, 2 or more), pixels."""
        seen = [measure(face) for face in faces[:MOST]]
        middles = [np.mean([one.places["left eye"], one.places["right eye"], one.places["nose tip"]], axis=0) for one in seen]
        best = min(
            permutations([*range(len(seen)), *[None] * (MOST - len(seen))], MOST),
            key=lambda order: self._cost(order, middles, [one.size for one in seen], seconds),
        )
        for place, n in enumerate(best):
            known = self._known[place]
            if n is None:
                if known is not None:
                    known.middle, known.unseen = known.awaited(seconds), known.unseen + seconds
                    if known.unseen > KEPT_SECONDS:
                        self._known[place] = None
                continue
            middle, size = middles[n], seen[n].size
            if known is None or known.unseen > 0:
                speed = known.speed if known else np.zeros(2)
            else:
                share = 1 - float(np.exp(-seconds / EASE_SECONDS))
                speed = known.speed + ((middle - known.middle) / max(seconds, 1e-3) - known.speed) * share
            self._known[place] = _Known(middle, size, speed)
        return list(best)

    def _cost(self, order: tuple[int | None, ...], middles: list[Points], sizes: list[float], seconds: float) -> float:
        total = 0.0
        for place, (n, known) in enumerate(zip(order, self._known, strict=True)):
            if n is None:
                continue
            if known is None:
                # A new face takes the first free place, rather than that of one which is far from it.
                total += FARTHEST + 0.01 * place
                continue
            far = float(np.linalg.norm(middles[n] - known.awaited(seconds))) / max(known.size, 1e-9)
            total += min(far + abs(float(np.log(sizes[n] / known.size))), FARTHEST + 1)
        return total
