"""Cases that both languages are tested on: written by Python from outside references, read by web/tests/*.test.ts.

`python -m tests.shared` writes the files anew; tests/test_shared.py holds that they are what it would write.
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
from scipy.interpolate import CubicHermiteSpline, PchipInterpolator

from sunglaze.core.effect.address import address
from sunglaze.core.effect.shipped import shipped
from sunglaze.core.moment.moment import Clock, Moment
from sunglaze.core.moment.rehearsal import Finger, Rehearsal, Step, write_rehearsal

FOLDER = Path(__file__).parent
ADDRESSES = [
    "layer:opacity",
    "amount",
    "mask:width",
    "drive:amount:seconds",
    "drive:layer:opacity:low",
    "drive:mask:centre.0:high",
    "noise.scale",
    "cue:tap:threshold",
    "dial:much:start",
    "curves",
]


def addresses() -> list[dict[str, str]]:
    """Texts of a layer `l`, what they mean, and the uniform's name, by core/effect/address.py."""
    found = [(text, address("l", text)) for text in ADDRESSES]
    return [{"text": text, **at.model_dump(), "uniform": at.uniform} for text, at in found]


def curves() -> dict[str, Any]:
    """Monotone cubics through points, at 41 places: SciPy's PchipInterpolator, held to 0 and 1. `round`: hue curves, periodic
    over 360 degrees, by the same interpolator over three turns. `between`: over 0 to 1, level beyond the outermost points."""
    rng, at, degrees = np.random.default_rng(31), np.linspace(0, 1, 41), np.linspace(0, 360, 41)
    found: dict[str, list[dict[str, Any]]] = {"open": [], "round": [], "between": []}

    def add(kind: str, x: Any, y: Any, places: Any, gives: Any) -> None:
        found[kind].append({"points": np.stack([x, y], 1), "at": places, "gives": gives})

    for count in (2, 3, 5, 9):
        x = np.concatenate([[0.0], np.sort(rng.choice(np.arange(1, 100), count - 2, replace=False)) / 100, [1.0]])
        y = rng.random(count).round(3)
        add("open", x, y, at, np.clip(PchipInterpolator(x, y)(at), 0, 1))
        places = np.sort(rng.choice(np.arange(1, 359), count, replace=False)).astype(float)
        heights = rng.uniform(-1, 1, count).round(3)
        turns = PchipInterpolator(np.concatenate([places - 360, places, places + 360]), np.tile(heights, 3))
        add("round", places, heights, degrees, turns(degrees))
        inner = np.sort(rng.choice(np.arange(5, 95), count, replace=False)) / 100
        # A level stretch before and behind makes the slope at both ends 0.
        level = PchipInterpolator([inner[0] - 1, *inner, inner[-1] + 1], [heights[0], *heights, heights[-1]])
        add("between", inner, heights, at, level(np.clip(at, inner[0], inner[-1])))
    return found


def outlines() -> list[dict[str, Any]]:
    """Closed smooth lines through points: SciPy's Hermite spline with Catmull-Rom tangents, twelve places a piece."""
    rng, found = np.random.default_rng(32), []
    for count in (3, 5, 8):
        points = rng.uniform(-0.4, 0.4, (count, 2)).round(3)
        closed = np.concatenate([points[-1:], points, points[:2]])
        spline = CubicHermiteSpline(np.arange(count + 1), closed[1:-1], (closed[2:] - closed[:-2]) / 2)
        found.append({"points": points.tolist(), "line": spline(np.arange(count * 12) / 12)})
    return found


def rehearsals() -> list[dict[str, Any]]:
    """What was done, and what moments have of it at every frame, by core/moment/rehearsal.py."""
    rng, found = np.random.default_rng(33), []
    for _ in range(4):
        steps, frame = [], 0
        for n in range(12):
            frame += int(rng.integers(1, 6))
            u, v, turn, scale = (float(part) for part in rng.random(4).round(3))
            touch = Finger(down=n % 3 != 2, u=u, v=v, turn=turn * 90, scale=scale + 0.5) if rng.random() < 0.7 else None
            cues = ("smile",) if rng.random() < 0.3 else ()
            steps.append(Step(frame=frame, touch=touch, cues=cues, dials={"size": u} if rng.random() < 0.4 else {}))
        made = Rehearsal(steps=tuple(steps), frames=frame + 3, seed=7)
        moments = [made.at(Moment(Clock.at(n))) for n in range(frame + 3)]
        seen = [
            {"touch": vars(one.touch), "cues": list(one.cues), "dials": dict(one.dials), "seed": one.clock.seed}
            for one in moments
        ]
        found.append({"rehearsal": json.loads(write_rehearsal(made)), "moments": seen})
    return found


def layers() -> list[dict[str, Any]]:
    """What the ready-made layers are called, of which families they are and what else people call them."""
    return [
        {"kind": kind, "name": one.name, "family": one.family, "help": one.help, "also": list(one.also)}
        for kind, one in shipped().items()
    ]


CASES = {"layers": layers, "addresses": addresses, "curves": curves, "outlines": outlines, "rehearsals": rehearsals}


def _plain(value: Any) -> Any:
    """Numbers with twelve digits, so that a last bit of another machine changes nothing."""
    if isinstance(value, np.ndarray):
        return _plain(value.tolist())
    if isinstance(value, dict):
        return {key: _plain(one) for key, one in value.items()}
    if isinstance(value, list | tuple):
        return [_plain(one) for one in value]
    return float(f"{value:.12g}") if isinstance(value, float) else value


def written(name: str) -> Any:
    """The cases of a name as their file has them."""
    return json.loads(json.dumps(_plain(CASES[name]())))
