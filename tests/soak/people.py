"""Those who take part: viewers, editors of one effect, who brings files, who proofs, who publishes, who asks for everything."""

from __future__ import annotations

import contextlib
import io
import itertools
import json
import random
import time
import zipfile
from typing import Any

import httpx
import numpy as np
from PIL import Image
from playwright.sync_api import sync_playwright
from websockets.exceptions import WebSocketException
from websockets.sync.client import connect

from sunglaze.core.colour.cube_file import write_cube
from sunglaze.core.material.files import encode_jpeg, encode_png
from tests.conftest import CHROMIUM, FLAGS
from tests.footage import clip
from tests.grades import random_cube
from tests.server.streaming import read
from tests.soak.field import PATIENCE, Field
from tests.solids import box_and_ball

LONG = 180.0
"""Seconds for what computes for long by its nature, and says how far it is."""
PLAIN = ("demo-low-tide", "demo-storm-warning", "demo-old-reel", "demo-signal-lost")
FACES = ("demo-soft-morning", "demo-heron", "demo-sunday-glasses", "demo-keeper-of-the-light", "demo-harbour-master")
PEOPLE, LIGHTS = ("beekeeper", "lamp-tender", "oyster-cook"), ("noon", "dusk")


def view(field: Field, name: str, effects: tuple[str, ...]) -> None:
    """Look at effects as a browser does, one after the other, before changing people and lights."""
    rng = random.Random(name)
    with httpx.Client(timeout=60) as http:
        while field.goes_on:
            answer = field.ask(http, "GET", f"/api/effects/{rng.choice(effects)}")
            if answer is None or answer.status_code != 200:
                field.wait(1)
                continue
            show = {"type": "show", "effect": answer.json()["effect"]}
            sitting = {"who": rng.choice(PEOPLE), "script": "talk", "light": rng.choice(LIGHTS), "back": False, "tracked": False}
            try:
                _watch(field, name, show, {"type": "view", "short": 270, "sitting": sitting}, rng.uniform(10, 30))
            except (WebSocketException, OSError, TimeoutError) as error:
                # As where the server is killed, be it in the middle of greeting.
                if not field.is_excused(time.monotonic()):
                    field.say(f"the stream of '{name}' ended by {error!r}")
            field.wait(0.5)


def _watch(field: Field, name: str, show: dict[str, Any], look: dict[str, Any], seconds: float) -> None:
    until, last = time.monotonic() + seconds, time.monotonic()
    with connect(field.served.address.replace("http", "ws") + "/api/stream", max_size=1 << 24) as socket:
        socket.send(json.dumps(show))
        socket.send(json.dumps(look))
        while field.goes_on and time.monotonic() < until:
            with contextlib.suppress(TimeoutError):
                header, _ = read(socket, patience=PATIENCE)
                if header["type"] in ("frame", "tiles"):
                    socket.send(json.dumps({"type": "ack", "kind": header["type"]}))
                if header["type"] == "frame":
                    with field.lock:
                        field.frames[name] += 1
                    last = time.monotonic()
            if time.monotonic() - last > PATIENCE:
                if not field.is_excused(last):
                    field.say(
                        f"the picture of '{name}' stood still for {time.monotonic() - last:.0f} s: {show['effect']['name']}"
                    )
                last = time.monotonic()


def wear(field: Field) -> None:
    """A phone's page, which draws what is published by its own GPU."""
    with httpx.Client(timeout=60) as http, sync_playwright() as started:
        browser = started.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        while field.goes_on:
            shown = field.ask(http, "GET", "/api/showcase")
            if shown is None or shown.status_code != 200 or not shown.json():
                field.wait(2)
                continue
            page = browser.new_page(viewport={"width": 390, "height": 800})
            with contextlib.suppress(Exception):
                page.goto(field.served.address + random.choice(shown.json())["phone"], timeout=60_000)
                before, until = 0, time.monotonic() + 30
                while field.goes_on and time.monotonic() < until:
                    field.wait(1)
                    number = int(page.locator("canvas").first.get_attribute("data-frame", timeout=30_000) or 0)
                    with field.lock:
                        field.frames["GPU"] += max(0, number - before) if before else 0
                    before = number
            page.close()
        browser.close()


def edit(field: Field, name: str, effect: str) -> None:
    """Change an effect again and again beside somebody else who does: what was acknowledged is kept in its history."""
    with httpx.Client(timeout=60) as http:
        for n in itertools.count():
            if not field.goes_on:
                return
            state = field.ask(http, "GET", f"/api/effects/{effect}")
            if state is None or state.status_code != 200:
                continue
            now = state.json()
            now["effect"]["layers"][0]["opacity"] = opacity = (n % 100) / 100
            change = {"base": now["revision"], "gesture": f"{name} {n}", "effect": now["effect"]}
            answer = field.ask(http, "POST", f"/api/effects/{effect}/revisions", json=change)
            if answer is not None and answer.status_code == 201:
                with field.lock:
                    field.saved[answer.json()["kept_as"]] = (effect, opacity)
            field.wait(0.3)


def files(n: int) -> dict[str, bytes]:
    """A file of every kind that is read, and some that are none, different for every `n`."""
    rng = np.random.default_rng(n)
    pixels = rng.integers(0, 255, (90, 120, 3)).astype(np.uint8)
    moving = [Image.fromarray(np.roll(pixels, k, 1)) for k in range(4)]
    gif, apng, row = io.BytesIO(), io.BytesIO(), io.BytesIO()
    moving[0].save(gif, "GIF", save_all=True, append_images=moving[1:], duration=80)
    moving[0].save(apng, "PNG", save_all=True, append_images=moving[1:], duration=80)
    with zipfile.ZipFile(row, "w") as archive:
        for k, one in enumerate(moving):
            archive.writestr(f"{k}.png", encode_png(np.asarray(one)))
    return {
        "grade.cube": write_cube(random_cube(n, 5)),
        "photo.png": encode_png(pixels),
        "large.jpg": encode_jpeg(rng.integers(0, 255, (1500, 2000, 3)).astype(np.uint8)),
        "turning.gif": gif.getvalue(),
        "turning.png": apng.getvalue(),
        "row.zip": row.getvalue(),
        "clip.mp4": clip([np.roll(pixels, 4 * k, 0) for k in range(20)]),
        "ball.glb": box_and_ball(),
        "cut.png": encode_png(pixels)[:-200],
        "nothing.mp4": rng.bytes(3000),
    }


def bring(field: Field) -> None:
    """Bring in files of every kind; what was taken is on the shelf from then on."""
    with httpx.Client(timeout=90) as http:
        for n in itertools.count():
            for name, data in files(n).items():
                if not field.goes_on:
                    return
                answer = field.ask(http, "POST", "/api/shelf", files={"file": (f"{n} {name}", data)})
                if answer is not None and answer.status_code == 201:
                    with field.lock:
                        field.kept.add(answer.json()["piece"]["asset"]["hash"])
                field.wait(1)


def prove(field: Field, effects: tuple[str, ...]) -> None:
    """Look at effects on people in lights, ask for layers' previews, and check effects before they leave."""
    rng = random.Random(5)
    with httpx.Client(timeout=LONG + 20) as http:
        while field.goes_on:
            effect, place = rng.choice(effects), {"who": rng.choice(PEOPLE), "light": rng.choice(LIGHTS)}
            field.ask(http, "POST", f"/api/effects/{effect}/proof/cell", LONG, json={"place": place, "state": {}})
            field.wait(2)
            if rng.random() < 0.2:
                field.ask(http, "GET", f"/api/effects/{effect}/preflight", LONG)


def publish(field: Field, effects: tuple[str, ...]) -> None:
    """Publish effects anew and take them into the showcase; every version is there from then on."""
    rng = random.Random(6)
    with httpx.Client(timeout=LONG + 20) as http:
        while field.goes_on:
            answer = field.ask(http, "POST", f"/api/effects/{rng.choice(effects)}/publish", LONG)
            if answer is not None and answer.status_code == 201:
                made = answer.json()
                with field.lock:
                    field.published[made["code"]] = max(made["number"], field.published[made["code"]])
                for state in ("in review", "taken"):
                    field.ask(http, "POST", f"/api/packages/{made['code']}/review", json={"state": state})
            field.wait(20)


QUESTIONS = (
    *("/api/effects", "/api/shelf", "/api/catalogue", "/api/cast", "/api/showcase", "/api/packages", "/api/proof"),
    *("/api/openapi.json", "/api/camera/facts", "/api/cast/faces/beekeeper.jpg?light=dusk", "/api/sessions", "/"),
)


def ask_for_everything(field: Field) -> None:
    """What a browser and phones ask for, above all pictures of everybody in every light."""
    rng = random.Random(7)
    with httpx.Client(timeout=60) as http:
        while field.goes_on:
            sitting = f"who={rng.choice(PEOPLE)}&light={rng.choice(LIGHTS)}&script={rng.choice(('talk', 'two', 'hands'))}"
            camera = f"/api/camera/frames/{rng.randrange(600)}.jpg?{sitting}"
            for path in (rng.choice(QUESTIONS), camera):
                field.ask(http, "GET", path)
                field.wait(0.5)
