"""Prints of effects: drawn once for a state, the last one there until the next is; and icons, which are drawn once."""

from __future__ import annotations

import secrets
from typing import Any

import cv2
import httpx
import numpy as np
from numpy.typing import NDArray

from tests.serving import Served, halted


def filled(http: httpx.Client, colour: str) -> dict[str, Any]:
    """A new effect that fills the picture."""
    state: dict[str, Any] = http.post("/api/effects", json={"name": f"Fog {secrets.token_hex(6)}"}).json()
    return coloured(http, state, colour)


def coloured(http: httpx.Client, state: dict[str, Any], colour: str) -> dict[str, Any]:
    """It with another colour."""
    state["effect"]["layers"] = [{"id": "f", "kind": "fill", "name": "Fog", "values": {"colour": colour}}]
    change = {"base": state["revision"], "gesture": "colour", "effect": state["effect"]}
    saved: dict[str, Any] = http.post(f"/api/effects/{state['id']}/revisions", json=change).raise_for_status().json()["state"]
    return saved


def seen(answer: httpx.Response) -> NDArray[np.uint8]:
    """The mean colour, red first."""
    assert answer.status_code == 200, answer.text
    pixels = cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_COLOR)
    assert pixels is not None
    assert pixels.shape == (576, 324, 3)
    return np.asarray(pixels.reshape(-1, 3).mean(axis=0)[::-1].round(), np.uint8)


def is_printed(http: httpx.Client, effect: str) -> bool:
    return bool(next(one["printed"] for one in http.get("/api/effects").json() if one["id"] == effect))


def test_the_last_print_is_there_until_the_next_is_drawn(http: httpx.Client) -> None:
    state = filled(http, "#2040c0")
    at = f"/api/effects/{state['id']}/print"
    assert not is_printed(http, state["id"])
    assert http.get(at).status_code == 404
    blue = http.get(at, params={"revision": state["revision"]})
    assert np.abs(seen(blue).astype(int) - (0x20, 0x40, 0xC0)).max() <= 2
    assert is_printed(http, state["id"])
    assert http.get(at).content == blue.content

    changed = coloured(http, state, "#c04020")
    assert not is_printed(http, state["id"])
    assert http.get(at).content == blue.content
    red = http.get(at, params={"revision": changed["revision"]})
    assert np.abs(seen(red).astype(int) - (0xC0, 0x40, 0x20)).max() <= 2
    assert http.get(at).content == red.content
    # What was undone is another revision that was drawn before.
    http.post(f"/api/effects/{state['id']}/undo").raise_for_status()
    assert is_printed(http, state["id"])
    assert http.get(at, params={"revision": state["revision"]}).content == blue.content


def test_what_cannot_be_drawn_is_refused_in_words(http: httpx.Client) -> None:
    state = filled(http, "#102030")
    state["effect"]["layers"] = [{"id": "p", "kind": "picture", "name": "Net", "values": {"picture": "0" * 64}}]
    change = {"base": state["revision"], "gesture": "lost", "effect": state["effect"]}
    saved = http.post(f"/api/effects/{state['id']}/revisions", json=change).raise_for_status().json()["state"]
    refused = http.get(f"/api/effects/{state['id']}/print", params={"revision": saved["revision"]})
    assert refused.status_code in (404, 422)
    assert "choose it again" in refused.json()["message"]
    assert http.get(f"/api/effects/{state['id']}/print", params={"revision": 10**9}).status_code == 404


def test_an_icon_is_drawn_once(http: httpx.Client, served: Served) -> None:
    """The second time it is there without the process that draws."""
    first = http.get("/api/layers/vignette/icon").content
    with halted(served, "glaze-draw"):
        assert http.get("/api/layers/vignette/icon", timeout=20).content == first
