"""./run mutants [PART ...] [--count N] [--minutes N] [--seed N]: change a place, run the tests that pass it; do they notice?

Each of two workers has the project in a folder of its own. A change that lets a test fail, end the process or run five times as
long was noticed; what survives is listed, with the line as it was changed, and written to docs/testing.md.
"""

from __future__ import annotations

import argparse
import difflib
import json
import os
import random
import shutil
import subprocess
import sys
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import SimpleQueue

from tests.mutants.places import Place, places
from tests.mutants.table import write
from tests.mutants.tracing import passing

ROOT = Path(__file__).parents[2]
FOLDER = ROOT / ".mutants"
WORKERS = 2
STARTS_SECONDS = 40
MOST_SECONDS, MOST_TESTS = 20.0, 200
"""Of the tests that pass a place those are run that take least time, up to so many seconds."""


@dataclass(frozen=True)
class Part:
    """What is changed, and the tests that are to notice. `all_of_them`: some pass it in a process of their own; all are run."""

    modules: tuple[str, ...]
    tests: tuple[str, ...]
    all_of_them: bool = False


def core(*names: str) -> tuple[str, ...]:
    return tuple(f"tests/core/test_{name}.py" for name in names)


PARTS = {
    "colour": Part(
        ("sunglaze/core/colour/*.py",),
        (
            *core("cube_file", "lookup", "lut_picture", "hues", "colour_nodes", "flashing", "judging", "baking"),
            "tests/test_cli.py",
        ),
    ),
    "passes": Part(
        ("sunglaze/core/passes/*.py",),
        core(
            *("planning", "gating", "splitting", "kernels", "steps", "boxes", "filling", "meshes", "solids", "smaller", "effect"),
            *("signals", "scheduling", "functions", "weighing", "recording", "models"),
        ),
    ),
    "moment": Part(
        ("sunglaze/core/moment/*.py",),
        core("moments", "rehearsing", "keeping", "signals", "cues", "time_nodes", "previews", "sequences", "face_nodes"),
    ),
    "saving": Part(
        ("sunglaze/store/effects.py", "sunglaze/server/effects.py"),
        ("tests/store", *(f"tests/server/test_{name}.py" for name in ("routes", "takes_and_recipes", "arriving"))),
        all_of_them=True,
    ),
}


@dataclass(frozen=True)
class Mutant:
    """`code`: the whole module as it was changed; `difference`: its changed lines alone."""

    part: str
    place: Place
    code: str
    difference: str

    @classmethod
    def of(cls, part: str, place: Place, change: tuple[str, int]) -> Mutant:
        before, code = place.path.read_text(), place.changed(change)
        lines = difflib.unified_diff(before.splitlines(), code.splitlines(), n=0, lineterm="")
        changed = [line[1:].strip() for line in lines if line[:1] == "+" and line[:3] != "+++"]
        return cls(part, place, code, " / ".join(changed))

    @property
    def module(self) -> str:
        return str(self.place.path.relative_to(ROOT))


def chosen(parts: list[str], count: int, seed: int) -> list[Mutant]:
    """So many of all parts together, the same number of each, the same ones for a seed."""
    dice = random.Random(seed)
    found = []
    for part in parts:
        spots = [place for glob in PARTS[part].modules for path in sorted(ROOT.glob(glob)) for place in places(path)]
        some = dice.sample(spots, min(count // len(parts), len(spots)))
        found += [Mutant.of(part, place, dice.choice(place.changes)) for place in some]
    dice.shuffle(found)
    return found


def copied(number: int) -> Path:
    """The project once more. Films and what was built are hard links; code is a copy, which is changed while work goes on."""
    copy = FOLDER / str(number)
    shutil.rmtree(copy, ignore_errors=True)
    listing = ["git", "ls-files", "--cached", "--others", "--exclude-standard"]
    tracked = subprocess.run(listing, cwd=ROOT, capture_output=True, text=True, check=True).stdout.splitlines()
    built = [str(path.relative_to(ROOT)) for path in (ROOT / "web" / "dist").rglob("*") if path.is_file()]
    for name in (*tracked, *built):
        if (ROOT / name).is_file():
            (copy / name).parent.mkdir(parents=True, exist_ok=True)
            put = shutil.copyfile if name.endswith((".py", ".json", ".toml")) else os.link
            put(ROOT / name, copy / name)
    return copy


def pytest_in(copy: Path, arguments: list[str], seconds: float, **more: str) -> int | None:
    """How pytest ended in a copy; None where it took too long."""
    told = {**os.environ, "PYTHONPATH": str(copy), **more}
    command = [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", *arguments]
    with (copy / "log.txt").open("w") as log:
        process = subprocess.Popen(command, cwd=copy, env=told, stdout=log, stderr=log, process_group=0)
        try:
            return process.wait(seconds)
        except subprocess.TimeoutExpired:
            return None
        finally:
            if process.poll() is None:
                os.killpg(process.pid, 9)
                process.wait()


class Trace:
    """The tests that pass a line, the quickest first."""

    def __init__(self, copy: Path, parts: list[str]) -> None:
        traced = FOLDER / "traced"
        shutil.rmtree(traced, ignore_errors=True)
        traced.mkdir(parents=True)
        modules = [str(path) for part in parts for glob in PARTS[part].modules for path in copy.glob(glob)]
        (traced / "modules.json").write_text(json.dumps(modules))
        tests = sorted({name for part in parts for name in PARTS[part].tests if (copy / name).exists()})
        arguments = ["-p", "tests.mutants.tracing", "-n", str(WORKERS), "--dist", "worksteal", *tests]
        if ended := pytest_in(copy, arguments, 1200, TRACED=str(traced)):
            raise SystemExit(f"the tests fail as they are ({ended}); see {copy / 'log.txt'}")
        self._lines, self._seconds = passing(traced)
        self._copy = copy

    def tests(self, mutant: Mutant) -> tuple[list[str], float]:
        """Names of tests for pytest, and how long they took."""
        part = PARTS[mutant.part]
        if part.all_of_them:
            files = [name for name in part.tests if (self._copy / name).exists()]
            return files, sum(s for test, s in self._seconds.items() if test.startswith(tuple(files)))
        of_it = self._lines.get(str(self._copy / mutant.module), {})
        # What stands outside of functions is passed when the module is imported, by whichever test comes first.
        passing = of_it.get(mutant.place.line) or set().union(*of_it.values(), ())
        picked: list[str] = []
        seconds = 0.0
        for test in sorted(passing, key=lambda name: (self._seconds.get(name, 0.0), name)):
            if picked and (seconds + self._seconds.get(test, 0.0) > MOST_SECONDS or len(picked) == MOST_TESTS):
                break
            picked.append(test)
            seconds += self._seconds.get(test, 0.0)
        return picked, seconds


def survives(mutant: Mutant, copy: Path, trace: Trace) -> bool:
    tests, seconds = trace.tests(mutant)
    if not tests:
        return True
    changed = copy / mutant.module
    assert changed.stat().st_nlink == 1, "the project itself would be changed"
    before = changed.read_text()
    changed.write_text(mutant.code)
    (copy / "tests.txt").write_text("\n".join(tests))
    try:
        return pytest_in(copy, ["-x", "-p", "no:xdist", "@tests.txt"], STARTS_SECONDS + 5 * seconds) == 0
    finally:
        changed.write_text(before)


def main() -> None:
    parser = argparse.ArgumentParser(prog="./run mutants", description="Change the code in many places; do the tests notice?")
    parser.add_argument("parts", nargs="*", choices=[*PARTS, []], help=", ".join(PARTS))
    parser.add_argument("--count", type=int, default=300)
    parser.add_argument("--minutes", type=float, default=30)
    parser.add_argument("--seed", type=int, default=2026)
    parser.add_argument("--list", action="store_true", help="show the changes and end")
    told = parser.parse_args()
    began, parts = time.monotonic(), told.parts or list(PARTS)
    mutants = chosen(parts, told.count, told.seed)
    if told.list:
        for one in mutants:
            print(f"{one.module}:{one.place.line} {one.difference}")
        return
    copies: SimpleQueue[Path] = SimpleQueue()
    for number in range(WORKERS):
        copies.put(copied(number))
    trace = Trace(FOLDER / "0", parts)
    print(f"{time.monotonic() - began:.0f} s: which test passes which line is known; {len(mutants)} changes follow", flush=True)
    ran: Counter[str] = Counter()
    survivors: list[Mutant] = []

    def one(mutant: Mutant) -> None:
        if time.monotonic() - began > told.minutes * 60:
            return
        copy = copies.get()
        try:
            lives = survives(mutant, copy, trace)
        finally:
            copies.put(copy)
        ran[mutant.part] += 1
        if lives:
            survivors.append(mutant)
            print(f"survived: {mutant.module}:{mutant.place.line} {mutant.difference}", flush=True)

    with ThreadPoolExecutor(WORKERS) as workers:
        list(workers.map(one, mutants))
    lived = Counter(mutant.part for mutant in survivors)
    minutes = (time.monotonic() - began) / 60
    listed = sorted((mutant.module, mutant.place.line, mutant.difference) for mutant in survivors)
    write([(part, ran[part], lived[part]) for part in parts], listed, minutes, told.seed, whole=parts == list(PARTS))


if __name__ == "__main__":
    main()
