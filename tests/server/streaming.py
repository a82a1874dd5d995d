"""Talking to the stream as a browser does."""

from __future__ import annotations

import json

import cv2
import numpy as np
from websockets.sync.client import ClientConnection, connect

from tests.serving import Served

FILL = {"kind": "fill", "id": "a", "name": "Fill", "blend": "normal", "opacity": 1.0, "values": {"colour": "#ff0000"}}


def opened(served: Served) -> ClientConnection:
    return connect(served.address.replace("http", "ws") + "/api/stream", max_size=1 << 24)


def read(socket: ClientConnection, patience: float = 90) -> tuple[dict[str, object], bytes]:
    data = socket.recv(timeout=patience)
    assert isinstance(data, bytes)
    length = int.from_bytes(data[:4], "big")
    return json.loads(data[4 : 4 + length]), data[4 + length :]


def still(colour: str = "#ff0000") -> dict[str, object]:
    return {
        "type": "show",
        "effect": {"format": "sun-glaze/effect", "version": 2, "name": "t", "layers": [{**FILL, "values": {"colour": colour}}]},
    }


def frame(socket: ClientConnection, **wanted: object) -> np.ndarray:
    """The next frame with the wanted header fields; acknowledges all on the way."""
    while True:
        header, payload = read(socket)
        if header["type"] in ("frame", "tiles"):
            socket.send(json.dumps({"type": "ack", "kind": header["type"]}))
        if header["type"] == "frame" and all(header[key] == value for key, value in wanted.items()):
            return cv2.imdecode(np.frombuffer(payload, np.uint8), cv2.IMREAD_COLOR_RGB)
