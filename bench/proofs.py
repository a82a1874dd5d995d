"""Proof sheets: cells a second with one and two worker processes of this machine."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

from demo.seed import seed
from sunglaze.core.package.archive import write_package
from sunglaze.core.proof.crew import Crew, Task
from sunglaze.core.proof.sheet import PRESETS
from sunglaze.store import effects
from sunglaze.store.database import open_database
from sunglaze.store.files import material_of

NAMES = {"demo-low-tide": "a grade", "demo-old-reel": "a loop, grain, dials", "demo-tide-mask": "painted faces"}


def measure() -> list[str]:
    """Lines of a table."""
    lines = ["| *Everybody in every light*, 40 cells | 1 worker | 2 workers | 2 / 1 |", "| --- | --- | --- | --- |"]
    with tempfile.TemporaryDirectory() as folder:
        seed(Path(folder))
        packages = {}
        with open_database(Path(folder))() as session:
            for key in NAMES:
                effect = effects.get(session, key).effect
                packages[key] = write_package(effect, material_of(session, effect))
    rates: dict[tuple[str, int], float] = {}
    for workers in (1, 2):
        crew = Crew(workers)
        # Once for starting and for the takes of the cast, which are read when they are first seen.
        list(crew.made([Task(packages["demo-low-tide"], place) for place in PRESETS["open"].sheet.places]))
        for key, package in packages.items():
            began = time.perf_counter()
            count = len(list(crew.made([Task(package, place) for place in PRESETS["lights"].sheet.places])))
            rates[key, workers] = count / (time.perf_counter() - began)
        crew.shut()
    for key, what in NAMES.items():
        one, two = rates[key, 1], rates[key, 2]
        name = key.removeprefix("demo-").replace("-", " ")
        lines.append(f"| {name}: {what} | {one:.1f} a second | {two:.1f} a second | {two / one:.2f} |")
    return lines
