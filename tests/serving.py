"""Start the real application as a process on a free port of loopback, and end it again."""

from __future__ import annotations

import contextlib
import functools
import os
import re
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from dataclasses import dataclass
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import IO, Any

import httpx

from sunglaze.core.disk_cache import CODE, FRAMES, PICTURES
from sunglaze.server.rendering.optimising import VARIABLE as OPTIMISING


@dataclass
class Served:
    """`process` is the server; `address` ends without a slash."""

    process: subprocess.Popen[str]
    address: str
    folder: Path

    def stop(self) -> None:
        self.process.terminate()
        try:
            self.process.wait(15)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()


_ROOT = Path(__file__).parents[1]
KEPT = {CODE: str(_ROOT / ".code"), PICTURES: str(_ROOT / ".pictures"), FRAMES: str(_ROOT / ".frames")}
"""Passes are compiled, icons drawn and frames of the cast composed once for the servers of all tests."""


def serve(folder: Path, port: int = 0, log: IO[str] | None = None, optimising: bool = False) -> Served:
    """A server on a data folder; returns when it answers. Port 0: a free one. `log`: where it writes what goes wrong.
    `optimising`: it compiles what it draws; else that is drawn by steps, which gives the same picture and leaves the processor to
    the tests."""
    command = [sys.executable, "-m", "sunglaze", "serve", "--port", str(port), "--data", str(folder)]
    told = {**os.environ, **KEPT, OPTIMISING: "on" if optimising else "off"}
    process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=log, text=True, env=told)
    assert process.stdout is not None
    for line in process.stdout:
        found = re.search(r"http://localhost:\d+", line)
        if found:
            return Served(process, found[0], folder)
    raise RuntimeError(f"the server ended with {process.wait()} before it gave an address")


def rendering_process(served: Served) -> int:
    """The process id of the server's one rendering process."""
    found = processes_called(served, "glaze-render")
    assert len(found) == 1
    return found[0]


def processes_called(served: Served, name: str) -> list[int]:
    """The process ids of those of this name, among all that the server has started."""
    found, looked_at = list[int](), [served.process.pid]
    while looked_at:
        pid = looked_at.pop()
        with contextlib.suppress(FileNotFoundError, ProcessLookupError):
            found += [pid] if Path(f"/proc/{pid}/comm").read_text() == f"{name}\n" else []
            tasks = Path(f"/proc/{pid}/task").glob("*/children")
            looked_at += [int(child) for task in tasks for child in task.read_text().split()]
    return found


@contextlib.contextmanager
def halted(served: Served, name: str) -> Iterator[None]:
    """Meanwhile the processes of this name do nothing."""
    halted = processes_called(served, name)
    for pid in halted:
        os.kill(pid, signal.SIGSTOP)
    try:
        yield
    finally:
        for pid in halted:
            os.kill(pid, signal.SIGCONT)


@contextlib.contextmanager
def files_at(folder: Path) -> Iterator[str]:
    """The standard library's file server on a folder, which knows nothing of ours; its address, without a slash at the end."""
    handler = functools.partial(SimpleHTTPRequestHandler, directory=str(folder))
    with ThreadingHTTPServer(("127.0.0.1", 0), handler) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        try:
            yield f"http://localhost:{server.server_address[1]}"
        finally:
            server.shutdown()


def previewed(http: httpx.Client, asked: dict[str, Any]) -> httpx.Response:
    """The answer to a preview, which is asked for again where the machine had no time for it, as pages do."""
    until = time.monotonic() + 180
    while (answer := http.post("/api/recipes/preview", json=asked)).status_code == 503:
        assert time.monotonic() < until, answer.text
        time.sleep(0.5)
    return answer


def ended(http: httpx.Client, job: dict[str, Any]) -> dict[str, Any]:
    """A cut, or another job of the same list, when it has ended."""
    until = time.monotonic() + 120
    while job["state"] == "running":
        assert time.monotonic() < until
        time.sleep(0.05)
        job = http.get(f"/api/cuts/{job['id']}").json()
    return job


def free_port() -> int:
    """A port of loopback that nothing listens at."""
    with socket.socket() as one:
        one.bind(("127.0.0.1", 0))
        return int(one.getsockname()[1])
