"""The demo's material as files, drawn once and kept in demo/shelf: drawing all of it takes half a minute, reading it a moment.

`python -m demo.made` draws it anew (`python -m demo.made net.png` one file), where the code that draws it has changed.
"""

from __future__ import annotations

import functools
import sys
from collections.abc import Callable
from pathlib import Path

from demo import adornments, material, solids
from demo.lookups import lookups
from demo.wearing import RINGS
from sunglaze.core.material.files import encode_png
from sunglaze.core.material.glb import write_glb
from sunglaze.core.material.reels import write_sequence

SHELF = Path(__file__).parent / "shelf"
_lookups, _reel = functools.cache(lookups), functools.cache(material.worn_reel)


def _makers() -> dict[str, Callable[[], bytes]]:
    """What draws each file, by its name."""
    stills = {
        "late-sky": material.sky, "five-kites": material.kites, "lighthouse": material.lighthouse, "shoal": material.shoal,
        "tide-mask": adornments.tide_mask, "net": adornments.net, "scallop": adornments.shell,
        "sunday-glasses": adornments.glasses, "lantern": adornments.lantern, "boathouse": adornments.boathouse,
    }  # fmt: skip
    loops = {
        "old-reel": lambda: material.dust_loop(_reel()), "lost-signal": material.lost_signal, "fog-bank": material.fog,
        "salt": adornments.salt,
        **{f"compass-ring-{n}": functools.partial(adornments.ring, *how) for n, how in enumerate(RINGS, 1)},
    }  # fmt: skip
    meshes = {"lighthouse": solids.lighthouse, "gull": solids.gull}
    return {
        **{name: lambda name=name: _lookups()[name] for name in ("amber-shore.png", "sea-fog.png", "window-poster.png")},  # type: ignore[misc]
        "old-reel.mp4": _reel,
        **{f"{name}.png": lambda draw=draw: encode_png(draw()) for name, draw in stills.items()},  # type: ignore[misc]
        **{f"{name}.zip": lambda draw=draw: write_sequence(draw()) for name, draw in loops.items()},  # type: ignore[misc]
        **{f"{name}.glb": lambda draw=draw: write_glb(draw()) for name, draw in meshes.items()},  # type: ignore[misc]
    }


def file(name: str) -> bytes:
    """A file of the demo's material."""
    return (SHELF / name).read_bytes()


def draw(name: str) -> bytes:
    """The same, drawn now."""
    return _makers()[name]()


def names() -> list[str]:
    """All files of the demo's material."""
    return sorted(_makers())


if __name__ == "__main__":
    SHELF.mkdir(exist_ok=True)
    for chosen in sys.argv[1:] or names():
        (SHELF / chosen).write_bytes(draw(chosen))
        print(f"{chosen}: {(SHELF / chosen).stat().st_size} bytes", flush=True)
