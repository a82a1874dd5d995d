"""The command `sunglaze` as a shell user meets it, run in this process: starting it anew takes two seconds each time."""

from __future__ import annotations

import contextlib
import io
import os
import sys
from dataclasses import dataclass
from pathlib import Path

from sunglaze.cli import run


@dataclass(frozen=True)
class Ended:
    """A command that has ended: its exit code, and what it wrote."""

    returncode: int
    stdout: str
    stderr: str


def sunglaze(*arguments: object, cwd: Path) -> Ended:
    """Run `sunglaze` with these arguments in a folder."""
    out, err, before, environment = io.StringIO(), io.StringIO(), sys.argv, dict(os.environ)
    sys.argv = ["sunglaze", *map(str, arguments)]
    try:
        with contextlib.chdir(cwd), contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            run()
    except SystemExit as ended:
        code = ended.code
    finally:
        sys.argv = before
        os.environ.clear()
        os.environ.update(environment)
    assert isinstance(code, int)
    return Ended(code, out.getvalue(), err.getvalue())
