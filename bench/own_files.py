"""What a person waits for with files of their own, and where the clock jumps: rows of bench/felt.py."""

from __future__ import annotations

import io
import time
from pathlib import Path
from typing import Any

import cv2
import httpx
import numpy as np
from numpy.typing import NDArray
from playwright.sync_api import Page

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.engine.playback import FARTHEST_BACK, Playback
from sunglaze.core.engine.running import prepare
from sunglaze.server.rendering.viewing import CATCHING_UP
from sunglaze.store import effects
from sunglaze.store.database import open_database
from sunglaze.store.files import material_of
from tests.footage import clip

SECONDS, RATE = 5, 30
JUMPS = 7


def _seen(number: int) -> NDArray[np.uint8]:
    """A picture (960, 540, 3)."""
    camera = StandIn(540, 960, Sitting("oyster-cook", "talk"))
    return np.ascontiguousarray(colours(camera.frame(number % camera.length), 540))


def _given(http: httpx.Client, path: str, name: str, data: bytes) -> Any:
    return http.post(path, files={"file": (name, data)}).raise_for_status().json()


def loop_seconds(http: httpx.Client) -> float:
    """From asking for a loop of a clip of five seconds, 540 by 960, with its ends softened, to its sequence on the shelf."""
    key = _given(http, "/api/footage", "walk.mp4", clip([_seen(n) for n in range(SECONDS * RATE)]))["hash"]
    began = time.perf_counter()
    job = http.post(f"/api/clips/{key}/cut", json={"soften": 0.3}).raise_for_status().json()
    while job["state"] == "running":
        time.sleep(0.05)
        job = http.get(f"/api/cuts/{job['id']}").json()
    assert job["state"] == "done", job
    return time.perf_counter() - began


def photo_seconds(page: Page, http: httpx.Client, number: int) -> tuple[float, float]:
    """From opening an effect on a photo that is new to the server to its picture, and until all people in it are found."""
    room = io.BytesIO(cv2.imencode(".png", _seen(number)[..., ::-1])[1].tobytes())
    key = _given(http, "/api/footage", f"photo-{number}.png", room.getvalue())["hash"]
    state = http.post("/api/effects", json={"name": "Photo"}).json()
    change = {"base": state["revision"], "gesture": "photo", "effect": state["effect"] | {"still": key}}
    http.post(f"/api/effects/{state['id']}/revisions", json=change).raise_for_status()
    # Within the page, as a person goes: what looks for people stays there.
    away = page.get_by_role("link", name="Effects", exact=True)
    if away.count():
        away.click()
    began = time.perf_counter()
    page.locator(f'[data-effect="{state["id"]}"] a').first.click()
    page.wait_for_selector("canvas.picture[data-serial]")
    shown = time.perf_counter() - began
    while http.get(f"/api/footage/{key}/tracking").json()["next"] is not None:
        page.wait_for_timeout(100)
    return shown, time.perf_counter() - began


def jump_seconds(folder: Path, effect: str) -> float:
    """The longest of some jumps of the clock by ten seconds, to the next picture at 360 by 640."""
    with open_database(folder)() as session:
        found = effects.get(session, effect).effect
        compiled = compile_effect(found, material_of(session, found))
    program, camera, playback, taken = compiled.program.final, StandIn(360, 640), Playback(), []
    prepare(program, "bytes")
    for jump in range(JUMPS):
        moment = camera.moment(jump * FARTHEST_BACK, program.reads)
        began = time.perf_counter()
        playback.at(program, compiled.inputs, camera, moment, CATCHING_UP)
        taken.append(time.perf_counter() - began)
    # Frames of the stand-in are made once, and kept.
    return max(taken[2:])
