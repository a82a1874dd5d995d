"""What waits to go to the rendering process: a bounded queue with a thread of its own, so that nobody waits for a pipe.

Newer words about the same thing take the place of older ones that have not gone yet.
"""

from __future__ import annotations

import itertools
import threading
from collections import OrderedDict
from collections.abc import Hashable
from dataclasses import replace
from multiprocessing.connection import Connection

from sunglaze.server.rendering.messages import Acknowledge, Done, Forget, Leave, Move, Ping, Request, SetEffects, View

MOST_WAITING = 2000
_NUMBERS = itertools.count()


class Outbox:
    """Sends until `shut`, or until the pipe breaks, which whoever watches the process sees."""

    def __init__(self, pipe: Connection) -> None:
        self._pipe = pipe
        self._waiting: OrderedDict[Hashable, Request] = OrderedDict()
        self._changed = threading.Condition()
        self._shut = False
        threading.Thread(target=self._send, daemon=True, name="send").start()

    def put(self, request: Request) -> None:
        with self._changed:
            key = _subject(request)
            before = self._waiting.pop(key, None)
            if isinstance(before, Acknowledge) and isinstance(request, Acknowledge):
                request = replace(request, count=before.count + request.count)
            elif isinstance(before, View) and isinstance(request, View):
                request = merged(before, request)
            elif isinstance(request, SetEffects | Leave):
                # What was turned before is in the effect that comes; who leaves wants nothing.
                gone = (Move, SetEffects) if isinstance(request, SetEffects) else (Move, SetEffects, View, Done, Acknowledge)
                for old in [k for k, one in self._waiting.items() if isinstance(one, gone) and one.viewer == request.viewer]:
                    del self._waiting[old]
            self._waiting[key] = request
            if len(self._waiting) > MOST_WAITING:
                # Only moves and fingers can be so many; the last of a control is with the next edit anyhow.
                oldest = next((k for k, one in self._waiting.items() if isinstance(one, Move | Done)), key)
                del self._waiting[oldest]
            self._changed.notify()

    def shut(self) -> None:
        with self._changed:
            self._shut = True
            self._changed.notify()

    def _send(self) -> None:
        while True:
            with self._changed:
                while not self._waiting and not self._shut:
                    self._changed.wait()
                if self._shut:
                    return
                _, request = self._waiting.popitem(last=False)
            try:
                self._pipe.send(request)
            except (OSError, ValueError):
                return


def merged(before: View, after: View) -> View:
    """Both, the later where they speak of the same."""
    return replace(before, **{name: value for name, value in vars(after).items() if value is not None})


def _subject(request: Request) -> Hashable:
    if isinstance(request, Move):
        return "move", request.viewer, request.at
    if isinstance(request, Acknowledge):
        return "acknowledge", request.viewer, request.kind
    if isinstance(request, Ping):
        return "ping"
    if isinstance(request, Done):
        # A tap is two of these: none takes another's place.
        return "done", request.viewer, next(_NUMBERS)
    if isinstance(request, Forget):
        return "forget", request.key
    return type(request).__name__, request.viewer
