"""./run soak [--minutes N] [--graphs N] [--seed N] [--write] [--alone]: everybody works at once on a busy machine, and things go
wrong; then random graphs are compared in every way that they are drawn, and the tests run that take minutes.

Ends with a table, which goes to docs/reliability.md with --write, and with exit code 1 where something was lost, was not answered
for ten seconds, or grew after the first fifth.
"""

from __future__ import annotations

import argparse
import random
import shutil
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path

import httpx

from demo.seed import seed
from tests.soak import mishaps, people
from tests.soak.field import Field
from tests.soak.table import Outcome, table, write
from tests.soak.watching import Sample, growth, watch

SHOWN_BY = "tests/server/test_soak.py"
"""The test of all this, which would do it again."""


def check_kept(field: Field) -> list[str]:
    """What was acknowledged and is not there."""
    lost: list[str] = []
    with httpx.Client(base_url=field.served.address, timeout=120) as http:
        for revision, (effect, opacity) in field.saved.items():
            found = http.get(f"/api/effects/{effect}/revisions/{revision}")
            if found.status_code != 200 or found.json()["layers"][0]["opacity"] != opacity:
                lost.append(f"revision {revision}, which was acknowledged with an opacity of {opacity}")
        lost += [f"file {key[:12]}" for key in sorted(field.kept) if http.get(f"/api/assets/{key}").status_code != 200]
        for code, number in field.published.items():
            if http.get(f"/api/packages/{code}/files/program.json?number={number}").status_code != 200:
                lost.append(f"version {number} of {code}")
    return lost


def soak(folder: Path, minutes: float, mishap_every: float) -> Outcome:
    """Let everybody work for so many minutes."""
    data = folder / "data"
    seed(data)
    field = Field(data, time.monotonic() + minutes * 60)
    field.start()
    with httpx.Client(base_url=field.served.address, timeout=60) as http:
        demos = [one["id"] for one in http.get("/api/effects").raise_for_status().json()]
        shared = http.post("/api/effects", json={"name": "Two hands"}).raise_for_status().json()
        layer = {"id": "a", "name": "Fog", "kind": "fill", "values": {"colour": "#ffffff"}, "opacity": 0.5}
        shared["effect"]["layers"] = [layer]
        change = {"base": shared["revision"], "gesture": "set up", "effect": shared["effect"]}
        http.post(f"/api/effects/{shared['id']}/revisions", json=change).raise_for_status()
    every = tuple(demos)
    field.ends = time.monotonic() + minutes * 60
    samples: list[Sample] = []
    work: list[Callable[[], None]] = [
        *[lambda n=n: people.view(field, f"plain {n}", (*people.PLAIN, shared["id"])) for n in range(3)],
        *[lambda n=n: people.view(field, f"faces {n}", people.FACES) for n in range(3)],
        lambda: people.view(field, "any", every),
        lambda: people.wear(field),
        *[lambda n=n: people.edit(field, n, shared["id"]) for n in ("first", "second")],
        lambda: people.bring(field),
        lambda: people.prove(field, every),
        lambda: people.publish(field, people.PLAIN),
        lambda: people.ask_for_everything(field),
        lambda: mishaps.in_turn(field, mishap_every),
        lambda: watch(field, samples),
    ]
    threads = [threading.Thread(target=_said(field, one), daemon=True) for one in work]
    loops = mishaps.busy_loops()
    try:
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join(max(0.0, field.ends - time.monotonic()) + 240)
        left = sum(thread.is_alive() for thread in threads)
        if left:
            field.say(f"{left} of {len(threads)} who took part did not come to an end")
        lost = check_kept(field)
    finally:
        field.stopped.set()
        for loop in loops:
            loop.kill()
        field.served.stop()
    return Outcome(field, samples, lost, growth(samples), minutes)


def _said(field: Field, work: Callable[[], None]) -> Callable[[], None]:
    def run() -> None:
        try:
            work()
        except Exception as error:
            field.say(f"who took part ended by {error!r}")

    return run


def parity(graphs: int, given: int) -> int:
    """Random graphs in every way that they are drawn; the exit code of the command that compares them."""
    print(f"== Parity over {graphs} graphs with the seed {given}", flush=True)
    command = [str(Path(sys.executable).parent / "sunglaze"), "parity", "--graphs", str(graphs), "--seed", str(given)]
    return subprocess.run(command, check=False).returncode


def slow_tests() -> int:
    """Those that take minutes; pytest's exit code."""
    command = [sys.executable, "-m", "pytest", "-n", "auto", "--dist", "worksteal", "-m", "slow", "--deselect", SHOWN_BY]
    return subprocess.run(command, check=False).returncode


def main() -> None:
    asked = argparse.ArgumentParser(prog="./run soak")
    asked.add_argument("--minutes", type=float, default=120)
    asked.add_argument("--mishap-every", type=float, default=100, metavar="SECONDS")
    asked.add_argument("--graphs", type=int, default=10_000)
    asked.add_argument("--seed", type=int, default=random.randrange(2**31))
    asked.add_argument("--alone", action="store_true", help="neither graphs nor tests afterwards")
    asked.add_argument("--write", action="store_true", help="put the table into docs/reliability.md")
    given = asked.parse_args()
    folder = Path(tempfile.mkdtemp(prefix="soak-"))
    outcome = soak(folder, given.minutes, given.mishap_every)
    print(text := table(outcome), flush=True)
    if given.write:
        write(text)
    differs = 0 if given.alone else parity(given.graphs, given.seed) + slow_tests()
    if outcome.is_good:
        shutil.rmtree(folder, ignore_errors=True)
    else:
        print(f"What the server wrote: {folder}/server.log")
    sys.exit(0 if outcome.is_good and not differs else 1)


if __name__ == "__main__":
    main()
