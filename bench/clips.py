"""How quickly `sunglaze render --clip` writes clips of the demo's effects, 720 by 1280, MP4, two seconds each."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

from demo.seed import seed
from sunglaze.core.camera.cast import StandIn
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.moment.moment import Source
from sunglaze.core.moment.rehearsal import Rehearsed
from sunglaze.core.prints.clips import write_clip
from sunglaze.store import effects, files
from sunglaze.store.database import open_database

SIZE = 720, 1280


def measure() -> list[str]:
    lines = ["| effect | pictures a second |", "|---|---|"]
    with tempfile.TemporaryDirectory() as folder:
        seed(Path(folder))
        with open_database(Path(folder))() as session:
            for kept in sorted(effects.every(session), key=lambda one: one.effect.name):
                effect, material = kept.effect, files.material_of(session, kept.effect)
                compiled = compile_effect(effect, material)
                camera = StandIn(*SIZE)
                source: Source = Rehearsed(camera, effect.rehearsal) if effect.rehearsal else camera
                write_clip(compiled.program, compiled.inputs, source, Path(folder) / "warm.mp4", SIZE, 0.2)
                began = time.perf_counter()
                count = write_clip(compiled.program, compiled.inputs, source, Path(folder) / "clip.mp4", SIZE, 2.0)
                lines.append(f"| {effect.name} | {count / (time.perf_counter() - began):.1f} |")
    return lines
