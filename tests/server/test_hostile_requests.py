"""Requests that once got a bare 500, held all others up, or told other sites what is here."""

from __future__ import annotations

import base64
import contextlib
import io
import json
import socket as sockets
import sqlite3
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import av
import cv2
import httpx
import numpy as np
import pytest
from fastapi import FastAPI
from PIL import Image
from sqlalchemy import event

from sunglaze.server.app import create_app
from sunglaze.server.drawing.drawer import WAITING
from sunglaze.server.drawing.messages import WORKERS
from sunglaze.server.limits import MEGABYTE, MOST_JSON_BYTES
from sunglaze.store.database import FILE
from tests.coroutines import finished
from tests.footage import clip
from tests.server.streaming import FILL, frame, opened, read, still
from tests.serving import Served

RNG = np.random.default_rng(5)
NOISE = RNG.integers(0, 255, (60, 80, 3), np.uint8)


def png(pixels: np.ndarray) -> bytes:
    return cv2.imencode(".png", pixels)[1].tobytes()


def sent(http: httpx.Client, route: str, data: bytes, name: str = "file") -> httpx.Response:
    return http.post(f"/api/{route}", files={"file": (name, data)})


def pillow(form: str) -> bytes:
    room = io.BytesIO()
    Image.fromarray(NOISE).save(room, form)
    return room.getvalue()


SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><image href="file:///etc/passwd"/></svg>"""
EPS = b"%!PS\n%%BoundingBox: 0 0 9 9\nshowpage\n"
SDP = b"v=0\no=- 0 0 IN IP4 127.0.0.1\ns=x\nc=IN IP4 127.0.0.1\nt=0 0\nm=video 45454 RTP/AVP 96\na=rtpmap:96 H264/90000\n"
PLAYLIST = b"#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXTINF:9,\nfile:///etc/passwd\n#EXT-X-ENDLIST\n"
LIES = b"\x89PNG\r\n\x1a\n" + b"\0\0\0\rIHDR" + (30_000).to_bytes(4, "big") * 2 + b"\x08\x02\0\0\0"
FILES = {
    **{f"cut off {form}": pillow(form)[:-2000] for form in ("PNG", "TIFF", "BMP")},
    "a picture of 30,000 by 30,000": LIES,
    "a picture 40,000 wide": png(np.zeros((1, 40_000, 3), np.uint8)),
    "SVG": SVG,
    "EPS": EPS,
    "a stream's description": SDP,
    "a play list": PLAYLIST,
    "nothing": b"",
    "an archive": b"PK\x03\x04" + b"\0" * 60,
    "text": b"hello",
}


@pytest.mark.parametrize("what", FILES)
@pytest.mark.parametrize("route", ["footage", "pictures", "lookups"])
def test_files_that_are_none_are_refused_in_words(http: httpx.Client, what: str, route: str) -> None:
    refused = sent(http, route, FILES[what], "odd.bin")
    assert refused.status_code == 422
    assert refused.json()["message"].startswith("odd.bin: ")


def listens(port: int) -> bool:
    """Whether some process of this machine has a UDP port open (proc(5): the local address is the second field)."""
    rows = Path("/proc/net/udp").read_text().splitlines()[1:]
    return any(row.split()[1].endswith(f":{port:04X}") for row in rows)


def seen_listening(port: int, work: Callable[[], object]) -> bool:
    """Whether the port was open at any time while something was done."""
    with ThreadPoolExecutor(1) as pool:
        doing, seen = pool.submit(work), False
        while not doing.done():
            seen = seen or listens(port)
            time.sleep(0.001)
        doing.result()
    return seen


def test_a_description_of_a_stream_opens_nothing(http: httpx.Client, tmp_path: Path) -> None:
    """The port that it names. FFmpeg without our lists of formats opens it, so this would be seen."""

    def opened_by_ffmpeg() -> None:
        (tmp_path / "stream.sdp").write_bytes(SDP)
        with contextlib.suppress(av.FFmpegError):
            av.open(str(tmp_path / "stream.sdp"), options={"protocol_whitelist": "file,udp,rtp"}, timeout=1.0).close()

    assert seen_listening(45454, opened_by_ffmpeg)
    assert not listens(45454)
    assert not seen_listening(45454, lambda: sent(http, "footage", SDP))


def test_pictures_are_limited_by_what_decoding_needs(http: httpx.Client) -> None:
    """381 KB that took two processes to 2 GB each: 7,000 by 7,000 pixels of 16 bits."""
    large = png(np.zeros((7000, 7000, 3), np.uint16))
    assert len(large) < 1_000_000
    assert "25 million are the most" in sent(http, "pictures", large).json()["message"]


@pytest.mark.parametrize("route", ["effects", "recipes/preview", "layers/judging", "programs", "recipes/check"])
def test_json_is_limited_before_it_is_read(http: httpx.Client, route: str) -> None:
    refused = http.post(f"/api/{route}", content=b" " * (MOST_JSON_BYTES + 1), headers={"Content-Type": "application/json"})
    assert (refused.status_code, "4 MB" in refused.json()["message"]) == (413, True)


def test_a_body_of_no_stated_length_is_refused_as_soon_as_it_is_too_large(served: Served) -> None:
    """800 MB lay in the temporary folder before they were refused."""
    came = 0
    host, port = served.address.removeprefix("http://").split(":")
    with sockets.create_connection((host, int(port)), 20) as socket:
        head = f"POST /api/pictures HTTP/1.1\r\nHost: {host}:{port}\r\nTransfer-Encoding: chunked\r\n"
        socket.sendall((head + "Content-Type: multipart/form-data; boundary=x\r\n\r\n").encode())
        part = b'--x\r\nContent-Disposition: form-data; name="file"; filename="f"\r\n\r\n'
        chunk = b"0" * MEGABYTE
        try:
            socket.sendall(f"{len(part):x}\r\n".encode() + part + b"\r\n")
            while came < 200 * MEGABYTE:
                socket.sendall(f"{len(chunk):x}\r\n".encode() + chunk + b"\r\n")
                came += len(chunk)
                socket.settimeout(0.001)
                try:
                    if socket.recv(10).startswith(b"HTTP/1.1 4"):
                        break
                except TimeoutError:
                    socket.settimeout(20)
        except (ConnectionResetError, BrokenPipeError):
            pass
    assert came < 150 * MEGABYTE


@pytest.mark.parametrize(
    ("method", "path", "status"),
    [
        ("GET", "/%00", 404),
        ("GET", "/" + "a" * 300, 404),
        ("GET", "/" + "a/" * 900, 404),
        ("GET", "/api/nothing", 404),
        ("PATCH", "/api/effects", 405),
        ("GET", f"/api/effects/demo-low-tide/revisions/{2**70}", 422),
        ("GET", "/api/effects/%00", 404),
        ("GET", "/api/phones/code.png?path=/" + "x" * 3000, 422),
        ("GET", "/api/camera/frames/99999999999999999999.jpg", 422),
        ("POST", "/api/effects", 422),
    ],
)
def test_odd_addresses_have_one_shape_of_answer(http: httpx.Client, method: str, path: str, status: int) -> None:
    refused = http.request(method, path)
    assert refused.status_code == status
    assert list(refused.json()) == ["message"]


@pytest.mark.parametrize("origin", ["http://[", "null", "http://elsewhere.example", "http://[::1", "//"])
def test_odd_origins_are_refused(http: httpx.Client, origin: str) -> None:
    assert http.get("/api/effects", headers={"Origin": origin}).status_code == 403


def test_entities_in_a_recipe_file_are_refused(http: httpx.Client) -> None:
    bomb = b'<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]><materialx version="1.39">&b;</materialx>'
    refused = sent(http, "recipes/import", bomb, "bomb.mtlx")
    assert (refused.status_code, "entities" in refused.json()["message"]) == (422, True)


@pytest.mark.parametrize(("rows", "columns"), [(0, 0), (33_000, 33_000), (30_000, 30_000)])
def test_masks_of_tracks_have_a_size(http: httpx.Client, rows: int, columns: int) -> None:
    key = sent(http, "footage", png(NOISE)).json()["hash"]
    head = bytearray(png(np.zeros((8, 8), np.uint8)))
    head[16:24] = columns.to_bytes(4, "big") + rows.to_bytes(4, "big")
    mask = base64.b64encode(bytes(head) if rows else b"").decode()
    refused = http.put(f"/api/footage/{key}/tracks/0", json={"mask": mask, "faces": []})
    assert refused.status_code == 422
    whole = base64.b64encode(png(np.zeros((8, 8), np.uint8))).decode()
    assert http.put(f"/api/footage/{key}/tracks/0", json={"mask": whole, "faces": []}).status_code == 204


def test_one_file_sent_several_times_at_once_is_kept_once(http: httpx.Client) -> None:
    """Seven of 24 had been answered with 500."""
    for _ in range(4):
        data = png(RNG.integers(0, 255, (20, 30, 3), np.uint8))
        with ThreadPoolExecutor(4) as pool:
            answers = list(pool.map(lambda _: sent(http, "pictures", data), range(4)))  # noqa: B023
        assert [one.status_code for one in answers] == [201] * 4
        assert len({one.json()["hash"] for one in answers}) == 1


def test_saves_beside_undo_and_rename_are_all_in_the_history(http: httpx.Client) -> None:
    """13 of 14 saves could not be reached by redo; 14 of 40 renamed effects did not have the new name."""
    for turn in range(6):
        state = http.post("/api/effects", json={"name": "Before"}).json()
        where = f"/api/effects/{state['id']}"
        for n in range(2):
            effect = {**state["effect"], "layers": [{**FILL, "id": f"f{n}"}]}
            change = {"base": state["revision"], "gesture": f"step {n}", "effect": effect}
            state = http.post(f"{where}/revisions", json=change).json()["state"]
        change = {"base": state["revision"], "gesture": "late", "effect": {**state["effect"], "seed": turn}}
        with ThreadPoolExecutor(2) as pool:
            saving = pool.submit(http.post, f"{where}/revisions", json=change)
            undone = pool.submit(http.post, f"{where}/undo").result().json()
            saved = saving.result().json()
        if saved["stale"]:
            # Undo came first: the save stays beside, the head is what undo led to, and redo leads to what was undone.
            assert http.get(where).json()["revision"] == undone["revision"]
            assert http.post(f"{where}/redo").json()["revision"] == state["revision"]
        else:
            assert undone["revision"] == state["revision"]
            assert http.post(f"{where}/redo").json()["revision"] == saved["kept_as"]
        state = http.get(where).json()
        change = {"base": state["revision"], "gesture": "beside", "effect": {**state["effect"], "seed": 99}}
        with ThreadPoolExecutor(2) as pool:
            saving = pool.submit(http.post, f"{where}/revisions", json=change)
            renamed = pool.submit(http.post, f"{where}/name", json={"name": "After"}).result()
            saved = saving.result().json()
        assert renamed.json()["effect"]["name"] == "After"
        assert http.get(where).json()["effect"]["name"] == "After" or not saved["stale"]
        gestures = {step["gesture"] for step in http.get(f"{where}/history").json()}
        assert {"late", "beside", "Rename to After"} <= gestures


def test_previews_that_nobody_waits_for_hold_nobody_up(http: httpx.Client) -> None:
    """Previews of sixty blurs, their askers gone, had kept all threads: a save got no answer in two minutes. Here are more
    of them than there are places."""
    nodes = [{"id": f"b{n}", "kind": "blur", "set": {"radius": 40.0 + n}} for n in range(60)]
    wires = [{"from": f"b{n}.out", "to": f"b{n + 1}.picture"} for n in range(59)]
    recipe = {"nodes": nodes, "wires": wires, "result": "b59.out"}
    effect = {"format": "sun-glaze/effect", "version": 5, "name": "Blurs", "layers": []}
    effect["layers"] = [{"id": "l", "name": "L", "kind": "own", "recipe": recipe}]
    asked = {"effect": effect, "layer": "l", "short": 270}
    for _ in range(WORKERS + WAITING + 4):
        with contextlib.suppress(httpx.TimeoutException):
            http.post("/api/recipes/preview", json=asked, timeout=0.1)
    saved = http.post("/api/effects", json={"name": "Meanwhile"}, timeout=20)
    assert saved.status_code == 201
    refused = http.post("/api/recipes/preview", json=asked)
    assert refused.status_code == 503
    assert "preview" in refused.json()["message"]


def test_no_other_site_may_frame_or_embed(http: httpx.Client) -> None:
    for path in ("/", "/api/effects", "/api/camera/frames/0.jpg"):
        headers = http.get(path).headers
        assert "frame-ancestors 'none'" in headers["content-security-policy"]
        assert headers["x-content-type-options"] == "nosniff"
        assert headers["cross-origin-resource-policy"] == "same-origin"
    assert "unsafe-eval'" not in headers["content-security-policy"].replace("wasm-unsafe-eval", "")


def test_a_full_disk_is_said_and_reading_goes_on(tmp_path: Path) -> None:
    """SQLite's own limit of pages stands for the disk's end: the same error, from the same call."""

    async def whole() -> None:
        app = create_app(tmp_path)
        transport = httpx.ASGITransport(app, client=("127.0.0.1", 1))
        async with (
            app.router.lifespan_context(app),
            httpx.AsyncClient(transport=transport, base_url="http://localhost") as client,
        ):
            await filled(app, client)

    async def filled(app: FastAPI, client: httpx.AsyncClient) -> None:
        kept = (await client.post("/api/effects", json={"name": "Kept"})).json()
        engine = app.state.sessions.kw["bind"]
        # Pages that migrations left free would take some of what is refused.
        with contextlib.closing(sqlite3.connect(tmp_path / FILE)) as alone:
            alone.execute("VACUUM")

        @event.listens_for(engine, "begin", insert=True)
        def is_full(connection: object) -> None:
            raw = connection.connection.dbapi_connection  # type: ignore[attr-defined]
            pages = raw.execute("PRAGMA page_count").fetchone()[0]
            raw.execute(f"PRAGMA max_page_count = {pages}")

        refused = await client.post("/api/pictures", files={"file": ("large.png", png(NOISE))})
        assert refused.status_code == 507
        assert "the disk is full; make room" in refused.json()["message"]
        assert (await client.get(f"/api/effects/{kept['id']}")).json() == kept

    finished(whole())


def test_a_folder_that_cannot_hold_data_is_said_when_starting() -> None:
    from typer.testing import CliRunner

    from sunglaze.cli import app as command

    ended = CliRunner().invoke(command, ["serve", "--port", "0", "--data", "/dev/full/data"])
    assert "cannot be opened" in str(ended.exception)


def damaged(count: int = 60) -> bytes:
    """A clip whose middle is noise; its head, its index and both ends are whole."""
    pictures = [np.full((96, 64, 3), 40 + 3 * n, np.uint8) + RNG.integers(0, 9, (96, 64, 3), np.uint8) for n in range(count)]
    data = bytearray(clip(pictures))
    middle = slice(len(data) // 3, len(data) * 2 // 3)
    data[middle] = RNG.integers(0, 255, len(data[middle]), np.uint8).tobytes()
    return bytes(data)


def test_a_clip_that_is_damaged_in_its_middle_plays_on_with_a_word(served: Served, http: httpx.Client) -> None:
    """It had been taken and had then ended the renderer, again and again."""
    added = sent(http, "footage", damaged(), "torn.mkv")
    assert added.status_code == 201
    effect = {"format": "sun-glaze/effect", "version": 5, "name": "Torn", "still": added.json()["hash"], "layers": []}
    with opened(served) as socket:
        socket.send(json.dumps({"type": "show", "effect": effect, "serial": 1}))
        kinds: set[object] = set()
        frames = 0
        while "note" not in kinds or frames < 70:
            assert frames < 300, kinds
            header, _ = read(socket)
            kinds.add(header["type"])
            frames += header["type"] == "frame"
            if header["type"] in ("frame", "tiles"):
                socket.send(json.dumps({"type": "ack", "kind": header["type"]}))
            if header["type"] == "note":
                assert "the last good one is shown" in str(header["message"])
            assert header["type"] not in ("restarted", "trouble"), header


@pytest.mark.parametrize(
    "view",
    [
        {"frame": 10**9, "speed": 1e-300},
        {"frame": 10**9, "speed": 0.01},
        {"frame": 10**9, "playing": True, "speed": 4},
        {"region": [0.9, 0.9, 0.1, 0.1], "scope": "waveform"},
        {"region": [1, 1, 1, 1], "scope": "histogram"},
        {"probe": [0.9999999, 0.9999999]},
        {"wipe": 1.0, "clipping": True, "bare": True},
        {"muted": ["x"] * 100},
    ],
)
def test_no_view_ends_the_renderer(served: Served, view: dict[str, object]) -> None:
    with opened(served) as socket:
        socket.send(json.dumps(still()))
        frame(socket)
        socket.send(json.dumps({"type": "view", **view}))
        socket.send(json.dumps({"type": "view", "playing": False, "frame": 3, "speed": 1, "look": 7}))
        frame(socket, look=7)


def test_clips_of_other_codecs_are_named(http: httpx.Client) -> None:
    room = io.BytesIO()
    with av.open(room, "w", format="avi") as container:
        stream = container.add_stream("zmbv", rate=10)
        stream.width, stream.height, stream.pix_fmt = 32, 32, "bgr0"
        shown = av.VideoFrame.from_ndarray(np.zeros((32, 32, 3), np.uint8), "rgb24").reformat(format="bgr0")
        container.mux(stream.encode(shown))
        container.mux(stream.encode())
    assert "coded as zmbv" in sent(http, "footage", room.getvalue(), "old.avi").json()["message"]
