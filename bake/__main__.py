"""Bake the cast: trace what is missing, then make the films. `python -m bake [--only WHO] [--take NAME] [--workers N]`.

Stopped by Ctrl+C it loses at most the frames being traced, and goes on with the next run. Frames are kept in .bake, films go to
the camera's assets.
"""

from __future__ import annotations

import argparse
import os
from concurrent.futures import ProcessPoolExecutor, as_completed
from multiprocessing import get_context
from pathlib import Path

from bake.films import kept, make, trace_some
from bake.motion import TAKES
from bake.people import CAST
from sunglaze.core.camera.takes import ASSETS

FRAMES = Path(".bake/frames")
CHUNK = 28


def main() -> None:
    """Trace and make what is missing."""
    told = argparse.ArgumentParser(description=__doc__)
    told.add_argument("--only", choices=[one.key for one in CAST])
    told.add_argument("--take", choices=TAKES)
    told.add_argument("--workers", type=int, default=os.cpu_count() or 1)
    chosen = told.parse_args()
    # Embree keeps Python's lock while it works, so each frame has a process.
    os.environ["NUMBA_NUM_THREADS"] = "1"
    whos = [one.key for one in CAST if chosen.only in (None, one.key)]
    takes = [take for take in TAKES if chosen.take in (None, take)]
    work = []
    for take in takes:
        for who in whos:
            missing = [n for n in range(TAKES[take]) if not kept(FRAMES, who, take, n).exists()]
            work += [(who, take, missing[n : n + CHUNK]) for n in range(0, len(missing), CHUNK)]
    total, done, spent = sum(len(frames) for *_, frames in work), 0, 0.0
    print(f"{total} frames to trace", flush=True)
    pool = ProcessPoolExecutor(chosen.workers, mp_context=get_context("spawn"))
    try:
        for one in as_completed([pool.submit(trace_some, FRAMES, *part) for part in work]):
            count, seconds = one.result()
            done, spent = done + count, spent + seconds
            left = (total - done) * spent / done / chosen.workers / 60
            print(f"{done} of {total} frames, {spent / done:.1f} s each, {left:.0f} min left", flush=True)
    except KeyboardInterrupt:
        print("stopped; the next run goes on from here")
        pool.shutdown(wait=False, cancel_futures=True)
        return
    pool.shutdown()
    for who in whos:
        for take in takes:
            traced = [kept(FRAMES, who, take, n) for n in range(TAKES[take])]
            film = ASSETS / who / take / "take.json"
            if not film.exists() or film.stat().st_mtime < max(path.stat().st_mtime for path in traced):
                make(FRAMES, ASSETS / who / take, who, take)
                print(f"{who} {take}: film made", flush=True)


if __name__ == "__main__":
    main()
