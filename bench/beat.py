"""The beat of the stream at its socket, with nobody drawing on the same cores, while blend modes are changed."""

from __future__ import annotations

import itertools
import json
import statistics
import time

import httpx
from websockets.sync.client import ClientConnection, connect

from bench.timing import percentile
from sunglaze.core.nodes.blend import MODES

WARM_SECONDS, EDIT_SECONDS = 8.0, 1.2


class Listener:
    """Acknowledges what comes, and keeps when frames came and when each change was first seen."""

    def __init__(self, socket: ClientConnection) -> None:
        self._socket = socket
        self.frames: list[float] = []
        self.seen: dict[int, float] = {}

    def listen(self, seconds: float) -> None:
        until = time.perf_counter() + seconds
        while (left := until - time.perf_counter()) > 0:
            try:
                data = self._socket.recv(timeout=left)
            except TimeoutError:
                return
            assert isinstance(data, bytes)
            now = time.perf_counter()
            header = json.loads(data[4 : 4 + int.from_bytes(data[:4], "big")])
            if header["type"] == "frame":
                self.frames.append(now)
                self.seen.setdefault(header["serial"], now)
            if header["type"] in ("frame", "tiles"):
                self._socket.send(json.dumps({"type": "ack", "kind": header["type"]}))


def measure(address: str, identity: str) -> list[str]:
    """Lines of a table, for an effect that a server has: its first layer's blend mode through all of them."""
    effect = httpx.get(f"{address}/api/effects/{identity}").json()["effect"]
    asked: dict[int, float] = {}
    with connect(address.replace("http", "ws") + "/api/stream", max_size=1 << 24, compression=None) as socket:
        listener = Listener(socket)
        socket.send(json.dumps({"type": "show", "effect": effect, "serial": 0}))
        listener.listen(WARM_SECONDS)
        listener.frames.clear()
        for number, mode in enumerate([*MODES[1:], *MODES[:1]], 1):
            effect["layers"][0]["blend"] = mode
            asked[number] = time.perf_counter()
            socket.send(json.dumps({"type": "show", "effect": effect, "serial": number}))
            listener.listen(EDIT_SECONDS)
    edits = [(listener.seen[number] - began) * 1000 for number, began in asked.items() if number in listener.seen]
    gaps = [(after - before) * 1000 for before, after in itertools.pairwise(listener.frames)]
    return [
        f"| at the socket, no browser: blend mode to picture, median of {len(edits)} | {statistics.median(edits):.0f} ms |",
        f"| the same, 95th percentile | {percentile(edits, 0.95):.0f} ms |",
        f"| gap between frames meanwhile, 95th percentile | {percentile(gaps, 0.95):.0f} ms |",
        f"| gaps above 60 ms; the largest | {sum(gap > 60 for gap in gaps)} of {len(gaps)}; {max(gaps):.0f} ms |",
    ]
