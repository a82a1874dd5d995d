"""What all who take part in a soak share: the server, until when it goes on, what was promised to them and what they met."""

from __future__ import annotations

import threading
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import httpx

from tests.serving import Served, serve

PATIENCE = 10.0
"""Seconds in which a request is answered and a picture goes on, whatever the machine does beside it."""
AFTERWARDS = 60.0
"""Seconds after a mishap of which it is excused."""


@dataclass
class Field:
    """`ends`: of `time.monotonic`. `excused`: mishaps that were made, from when to when, open ones without an end. Acknowledged
    were: `saved` revisions with their effect and its opacity, the hashes of `kept` files, and the last `published` versions."""

    folder: Path
    ends: float
    served: Served = field(init=False)
    up: threading.Event = field(default_factory=threading.Event)
    stopped: threading.Event = field(default_factory=threading.Event)
    mishaps: Counter[str] = field(default_factory=Counter)
    excused: list[list[float]] = field(default_factory=list)
    requests: int = 0
    refused: Counter[int] = field(default_factory=Counter)
    longest: Counter[str] = field(default_factory=Counter)
    frames: Counter[str] = field(default_factory=Counter)
    trouble: list[str] = field(default_factory=list)
    saved: dict[int, tuple[str, float]] = field(default_factory=dict)
    kept: set[str] = field(default_factory=set)
    published: Counter[str] = field(default_factory=Counter)
    lock: threading.Lock = field(default_factory=threading.Lock)

    def start(self) -> None:
        """Start the server, at the address where it was before."""
        port = int(self.served.address.rpartition(":")[2]) if hasattr(self, "served") else 0
        with (self.folder.parent / "server.log").open("a") as log:
            self.served = serve(self.folder, port, log, optimising=True)
        self.up.set()

    @property
    def goes_on(self) -> bool:
        """Whether there is time left."""
        return not self.stopped.is_set() and time.monotonic() < self.ends

    def wait(self, seconds: float) -> None:
        """Let time pass, less where it ends."""
        self.stopped.wait(max(0.0, min(seconds, self.ends - time.monotonic())))

    def is_excused(self, began: float) -> bool:
        """Whether what began then and ends now met a mishap that was made, or what follows from one."""
        now = time.monotonic()
        return any(first <= now and (not rest or began < rest[0] + AFTERWARDS) for first, *rest in list(self.excused))

    def mishap(self, name: str, work: Callable[[], None]) -> None:
        """Let something go wrong; what others meet meanwhile and a minute afterwards is excused."""
        span = [time.monotonic()]
        with self.lock:
            self.excused.append(span)
            self.mishaps[name] += 1
        try:
            work()
        finally:
            span.append(time.monotonic())

    def say(self, words: str) -> None:
        """Note what should not have been."""
        with self.lock:
            self.trouble.append(words)
        print(f"!! {words}", flush=True)

    def ask(self, http: httpx.Client, method: str, path: str, most: float = PATIENCE, **more: Any) -> httpx.Response | None:
        """An answer, which is there in `most` seconds; none where the server is away."""
        self.up.wait(120)
        began = time.monotonic()
        try:
            answer = http.request(method, f"{self.served.address}{path}", **more)
        except httpx.TransportError as error:
            if not self.is_excused(began) and self.goes_on:
                self.say(f"{method} {path} was not answered in {time.monotonic() - began:.0f} s: {error!r}")
            self.wait(0.5)
            return None
        took = time.monotonic() - began
        with self.lock:
            self.requests += 1
            if not self.is_excused(began):
                kind = _kind(path)
                self.longest[kind] = max(took, self.longest[kind])
            if answer.status_code >= 400:
                self.refused[answer.status_code] += 1
        if took > most and not self.is_excused(began):
            self.say(f"{method} {path} was answered after {took:.0f} s")
        if answer.status_code >= 500 and answer.status_code != 503 and not self.is_excused(began):
            self.say(f"{method} {path} was answered by {answer.status_code}: {answer.text[:200]}")
        return answer


def _kind(path: str) -> str:
    """What is asked for, without which one: the last word of the path that is no number or hash."""
    words = [word for word in path.partition("?")[0].split("/") if word.isalpha()]
    return words[-1] if words else path
