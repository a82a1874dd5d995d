"""Optimising in a process of its own, of low priority: LLVM lets one thread of a process in at a time, and an edit's quick build
must not wait behind the optimising of the last one. A crash or a hang there costs only speed.

The environment variable SUNGLAZE_OPTIMISE=off leaves it out: passes run by steps then, unless their code is on disk already.
Tests of other things do so."""

from __future__ import annotations

import contextlib
import os
import select
import struct
import subprocess
import sys
from typing import IO

from sunglaze.core.engine.machine import machine_code

VARIABLE = "SUNGLAZE_OPTIMISE"
_LENGTH = struct.Struct(">I")
PATIENCE = 60.0
NICE = 10


def is_on() -> bool:
    """Whether passes that run by steps are compiled behind them."""
    return os.environ.get(VARIABLE) != "off"


class Optimiser:
    """Holds the process, started at the first need. For one thread."""

    def __init__(self) -> None:
        self._process: subprocess.Popen[bytes] | None = None

    def code(self, text: str) -> bytes | None:
        """Optimised machine code, or none where the process crashed or hung; the next call starts another."""
        try:
            if self._process is None or self._process.poll() is not None:
                command = [sys.executable, "-m", "sunglaze.server.rendering.optimising"]
                self._process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE)
            asked, answers = self._process.stdin, self._process.stdout
            assert asked is not None
            assert answers is not None
            _write(asked, text.encode())
            if select.select([answers], [], [], PATIENCE)[0]:
                return _read(answers) or None
        except OSError:
            pass
        self.shut()
        return None

    def shut(self) -> None:
        if self._process is not None:
            self._process.kill()
            self._process.wait()
            self._process = None


def _write(to: IO[bytes], data: bytes) -> None:
    to.write(_LENGTH.pack(len(data)) + data)
    to.flush()


def _read(source: IO[bytes]) -> bytes | None:
    head = source.read(_LENGTH.size)
    return source.read(_LENGTH.unpack(head)[0]) if len(head) == _LENGTH.size else None


def main() -> None:
    """Answer texts with machine code until the other end closes, which it does however it ends. Nothing: it cannot be made."""
    os.nice(NICE)
    answers = os.fdopen(os.dup(sys.stdout.fileno()), "wb")
    os.dup2(sys.stderr.fileno(), sys.stdout.fileno())
    with contextlib.suppress(BrokenPipeError, KeyboardInterrupt):
        while (text := _read(sys.stdin.buffer)) is not None:
            try:
                code = machine_code(text.decode())
            except RuntimeError:
                code = b""
            _write(answers, code)


if __name__ == "__main__":
    main()
