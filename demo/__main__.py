"""The application with the demo's effects: `python -m demo [--host H] [--port N] [--data DIR]`. They are put into the data folder
first, once for each state of the demo; what takes longer (demo/behind.py) goes on while it runs."""

from __future__ import annotations

import argparse
import hashlib
import os
import subprocess
import sys
from pathlib import Path

LAST = 19
"""The niceness of what is made meanwhile."""


def edition() -> str:
    """Changes with all that the demo is made of."""
    found = hashlib.sha256()
    for file in sorted([*Path("demo").glob("*.py"), *Path("demo/shelf").rglob("*.*")]):
        found.update(file.read_bytes())
    return found.hexdigest()


def is_new(data: Path, what: str, state: str) -> bool:
    """Whether a step was not done for this state yet; it counts as done when `done` says so."""
    file = data / what
    return not (file.is_file() and file.read_text() == state)


def main() -> None:
    asked = argparse.ArgumentParser(prog="./run demo")
    asked.add_argument("--host", default="127.0.0.1", help="address to bind to; not this machine's: open to the network")
    asked.add_argument("--port", type=int, default=8765)
    asked.add_argument("--data", type=Path, default=Path(".data"), help="folder of the effects and files")
    given = asked.parse_args()
    state = edition()
    if is_new(given.data, "demo", state):
        from demo import prints
        from demo.seed import seed

        for name in seed(given.data):
            print(f"added the demo effect '{name}'")
        prints.put(given.data)
        (given.data / "demo").write_text(state)
    # Everything else on the machine comes before it, its own start included.
    behind = subprocess.Popen([sys.executable, "-m", "demo.behind", str(given.data)], preexec_fn=lambda: os.nice(LAST))
    try:
        from sunglaze.cli.serving import serve

        serve(given.host, given.port, given.data)
    finally:
        behind.terminate()


if __name__ == "__main__":
    main()
