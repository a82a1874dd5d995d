"""The shelf: files of every kind come in, are named, used, replaced, taken off and brought back; clips become sequences."""

from __future__ import annotations

import asyncio
import base64
import io
import json
import os
import signal
import threading
import zipfile
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import pytest
from PIL import Image

from sunglaze.core.colour.cube_file import write_cube
from sunglaze.core.errors import BadFile
from sunglaze.core.material.files import encode_png, encode_webp, material_pixels
from sunglaze.core.material.reels import read_zip
from sunglaze.core.review.profiles import profiles
from sunglaze.server.reading import Reader, ReadingProcess, Task
from sunglaze.store.shelf import clean_name
from tests.core.test_numbered import locked
from tests.core.test_sequences import animated, dots, packed, plain, sheet, walking
from tests.coroutines import finished
from tests.footage import clip
from tests.grades import random_cube
from tests.server.test_routes import made
from tests.serving import ended
from tests.solids import box_and_ball, moving, painted_obj

GROUP = {
    "format": "sun-glaze/recipe", "version": 1, "name": "Twice", "nodes": [{"id": "m", "kind": "multiply", "set": {"b": 2.0}}],
    "inputs": [{"id": "a", "to": ["m.a"]}], "outputs": [{"id": "out", "from": "m.out"}],
}  # fmt: skip


def put(http: httpx.Client, name: str, data: bytes) -> httpx.Response:
    return http.post("/api/shelf", files={"file": (name, data)})


def piece(http: httpx.Client, key: str) -> dict[str, Any]:
    return next(one for one in http.get("/api/shelf").json() if one["asset"]["hash"] == key)


def test_every_kind_is_recognised(http: httpx.Client) -> None:
    rng = np.random.default_rng(0)
    photo = encode_png(rng.integers(0, 255, (60, 90, 3)).astype(np.uint8))
    come = {
        "grade.cube": (write_cube(random_cube(3, 9)), "lookup"),
        "photo.png": (photo, "picture"),
        "dots.gif": (animated("GIF", dots(3), [100, 100, 100]), "sequence"),
        "dots.apng": (animated("PNG", dots(3), [100, 50, 100]), "sequence"),
        "frames.zip": (packed({f"a{n}.png": encode_png(plain(n)) for n in range(5)}), "sequence"),
        "reel.mp4": (clip(walking()), "footage"),
        "twice.json": (json.dumps(GROUP).encode(), "group"),
        "pier.json": (profiles()["web"].model_dump_json().encode(), "profile"),
        "bob.glb": (box_and_ball(), "mesh"),
        "sign.zip": (painted_obj(), "mesh"),
        "sign.obj": (b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n", "mesh"),
    }
    for name, (data, kind) in come.items():
        answer = put(http, name, data)
        assert answer.status_code == 201, answer.text
        found = answer.json()["piece"]
        assert (found["kind"], found["asset"]["name"]) == (kind, name)
        assert found["asset"]["bytes"] > 0
        assert found["used"] == []
        if kind not in ("group", "recipe", "profile"):
            printed = http.get(f"/api/assets/{found['asset']['hash']}/print")
            assert Image.open(io.BytesIO(printed.content)).format == "WEBP"
    listed = {one["asset"]["name"]: one for one in http.get("/api/shelf").json()}
    assert set(come) <= set(listed)
    assert listed["dots.apng"]["asset"]["sequence"] | {"notes": []} == {
        "width": 60, "height": 40, "frames": 3, "rate": 12.0, "seconds": 0.25, "even": False, "notes": [],
    }  # fmt: skip
    again = put(http, "another name.png", photo).json()["piece"]
    assert again["asset"]["hash"] == listed["photo.png"]["asset"]["hash"]


def test_a_sheet_says_its_cells(http: httpx.Client) -> None:
    facts = put(http, "glints.png", encode_png(sheet(12, 12, 0))).json()["piece"]["asset"]["picture"]
    assert (facts["columns"], facts["rows"], facts["cut"]) == (12, 12, [])
    facts = put(http, "cut.png", encode_png(sheet(4, 4, 0, cut=True))).json()["piece"]["asset"]["picture"]
    assert facts["cut"] == [[2, 1]]


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("sun.svg", b"<?xml version='1.0'?><svg xmlns='http://www.w3.org/2000/svg'><script>1</script></svg>", "PNG"),
        ("sun.png", b"<svg onload='x()'/>", "PNG"),
        ("page.pdf", b"%PDF-1.7 ...", "PNG"),
        ("secret.zip", locked(), "password"),
        ("broken.zip", b"PK\x03\x04" + bytes(200), "damaged"),
        ("none.bin", bytes(range(256)) * 40, "no picture"),
        ("broken.json", b"{ not json", "JSON"),
        ("limits.json", b'{"format": "sun-glaze/profile", "name": "pier"}', "title: field required"),
        ("effect.json", b'{"format": "sun-glaze/effect", "version": 7}', "list of effects"),
        ("bad.cube", b"LUT_3D_SIZE 3\n0 0 x\n", "line"),
    ],
)
def test_what_is_not_read_is_refused_in_words(http: httpx.Client, name: str, data: bytes, words: str) -> None:
    answer = put(http, name, data)
    assert answer.status_code == 422
    assert name in answer.json()["message"]
    assert words in answer.json()["message"]


def test_a_package_is_told_from_a_zip(http: httpx.Client) -> None:
    state = made(http, [])
    package = http.get(f"/api/effects/{state['id']}/package").content
    assert "list of effects" in put(http, "fog.glaze", package).json()["message"]


@pytest.mark.parametrize(
    ("name", "want"),
    [
        ("a/b\\c: d?.png", "c d .png"),
        ("CON.png", "CON.png file"),
        ("...", "file"),
        ("x\u202egnp.exe", "x gnp.exe"),
        ("  a   b ", "a b"),
    ],
)
def test_names_are_cleaned(name: str, want: str) -> None:
    assert clean_name(name) == want


def test_use_rename_replace_take_off_and_bring_back(http: httpx.Client) -> None:
    one = put(http, "one.png", encode_png(plain(11))).json()["piece"]["asset"]["hash"]
    other = put(http, "other.png", encode_png(plain(222))).json()["piece"]["asset"]["hash"]
    layer = {"id": "p", "name": "P", "kind": "picture", "values": {"picture": one}}
    state = made(http, [layer])
    assert piece(http, one)["used"] == [{"id": state["id"], "name": "Test"}]
    assert http.patch(f"/api/assets/{one}", json={"name": "kite / tail.png"}).json()["name"] == "tail.png"
    changed = http.post(f"/api/assets/{one}/replace", json={"by": other}).json()
    mine = next(effect for effect in changed if effect["id"] == state["id"])
    assert mine["effect"]["layers"][0]["values"]["picture"] == other
    assert http.post(f"/api/effects/{state['id']}/undo").json()["effect"]["layers"][0]["values"]["picture"] == one
    sequence = put(http, "dots.gif", animated("GIF", dots(3), [100] * 3)).json()["piece"]["asset"]["hash"]
    assert http.post(f"/api/assets/{one}/replace", json={"by": sequence}).status_code == 422
    assert http.delete(f"/api/assets/{other}").status_code == 204
    assert all(found["asset"]["hash"] != other for found in http.get("/api/shelf").json())
    assert any(found["asset"]["hash"] == other for found in http.get("/api/shelf?deleted=true").json())
    assert http.post(f"/api/assets/{other}/restore").status_code == 200
    assert piece(http, other)["asset"]["name"] == "other.png"
    gone = http.post("/api/shelf/clear").json()
    assert other in gone
    assert one not in gone
    assert piece(http, one)


def test_three_hundred_files_become_one_sequence(http: httpx.Client) -> None:
    files = [("file", (f"snow_{n:04}.png", encode_png(plain(n % 250, (16, 16))))) for n in range(300) if n != 17]
    files.append(("file", ("readme.txt", b"hello")))
    answer = http.post("/api/shelf/numbered", files=files)
    assert answer.status_code == 201, answer.text
    found = answer.json()
    assert found["piece"]["asset"]["sequence"]["frames"] == 299
    assert found["piece"]["asset"]["name"] == "snow.zip"
    assert any("17 is missing" in note for note in found["notes"])
    assert any("readme.txt" in note for note in found["notes"])
    key = found["piece"]["asset"]["hash"]
    first = material_pixels(http.get(f"/api/assets/{key}/pictures/20").content)
    assert first[0, 0, 0] == 21
    assert http.get(f"/api/assets/{key}/pictures/299").status_code == 422


def test_a_clip_becomes_a_sequence(http: httpx.Client) -> None:
    key = put(http, "reel.mp4", clip(walking(24))).json()["piece"]["asset"]["hash"]
    strip = Image.open(io.BytesIO(http.get(f"/api/clips/{key}/strip?count=6&height=32").content))
    assert strip.size == (6 * 48, 32)
    how = {"turn": 90, "size": [72, 128], "rate": 10, "span": [0.1, 0.7], "black": True}
    draft = ended(http, http.post(f"/api/clips/{key}/cut", json={**how, "draft": True}).json())
    assert draft["state"] == "done", draft
    assert all(one["asset"]["hash"] != draft["asset"] for one in http.get("/api/shelf").json())
    job = ended(http, http.post(f"/api/clips/{key}/cut", json={**how, "name": "dust.zip"}).json())
    assert (job["state"], job["done"], job["of"]) == ("done", 6, 6)
    found = piece(http, job["asset"])
    assert found["asset"]["sequence"]["frames"] == 6
    reel = read_zip(http.get(f"/api/assets/{job['asset']}/file").content)
    assert reel.size == (72, 128)
    assert reel.sequence.rate == 10
    wrong = http.post(f"/api/clips/{key}/cut", json={"crop": [0.6, 0, 0.5, 1]})
    assert wrong.status_code == 422
    late = ended(http, http.post(f"/api/clips/{key}/cut", json={"span": [50, 60]}).json())
    assert late["state"] == "failed"
    assert "span" in late["words"]
    assert http.get("/api/cuts/nothing").status_code == 404
    picture = put(http, "p.png", encode_png(plain(3))).json()["piece"]["asset"]["hash"]
    assert http.post(f"/api/clips/{picture}/cut", json={}).status_code == 422


def test_cutting_is_cancelled(http: httpx.Client) -> None:
    rng = np.random.default_rng(1)
    noise = [rng.integers(0, 255, (360, 640, 3)).astype(np.uint8) for _ in range(40)]
    key = put(http, "noise.mp4", clip(noise)).json()["piece"]["asset"]["hash"]
    job = http.post(f"/api/clips/{key}/cut", json={"size": [1440, 2560], "quality": None}).json()
    assert http.delete(f"/api/cuts/{job['id']}").status_code == 204
    assert ended(http, job)["state"] == "cancelled"
    # Another draft ends the one before.
    one = http.post(f"/api/clips/{key}/cut", json={"size": [1440, 2560], "draft": True}).json()
    two = http.post(f"/api/clips/{key}/cut", json={"size": [20, 20], "rate": 5, "draft": True}).json()
    assert ended(http, two)["state"] == "done"
    assert http.get(f"/api/cuts/{one['id']}").json()["state"] == "cancelled"


def test_groups_are_kept_for_other_effects(http: httpx.Client) -> None:
    kept = http.post("/api/shelf/groups", json=GROUP)
    assert kept.status_code == 201, kept.text
    key = kept.json()["hash"]
    assert kept.json()["recipe"]["title"] == "Twice"
    assert piece(http, key)["kind"] == "group"
    assert http.get(f"/api/shelf/groups/{key}").json()["outputs"] == [{"id": "out", "from": "m.out"}]
    picture = put(http, "p.png", encode_png(plain(4))).json()["piece"]["asset"]["hash"]
    assert http.get(f"/api/shelf/groups/{picture}").status_code == 404


def test_an_effect_with_a_sequence_travels(http: httpx.Client, tmp_path: Path) -> None:
    """As a package and as a page: its pictures come along; imported, it is the same."""
    key = put(http, "dots.gif", animated("GIF", dots(3), [100] * 3)).json()["piece"]["asset"]["hash"]
    layer = {"id": "p", "name": "P", "kind": "picture", "values": {"picture": {"asset": key, "rate": 10, "order": "shuffled"}}}
    state = made(http, [layer])
    package = http.get(f"/api/effects/{state['id']}/package").content
    with zipfile.ZipFile(io.BytesIO(package)) as archive:
        assert sum(name.startswith("sequences/") for name in archive.namelist()) == 3
    again = http.post("/api/effects/import", files={"file": ("p.glaze", package)}).json()
    value = again["effect"]["layers"][0]["values"]["picture"]
    assert (value["rate"], value["order"]) == (10, "shuffled")
    assert read_zip(http.get(f"/api/assets/{value['asset']}/file").content).sequence.frames == 3
    page = http.get(f"/api/effects/{state['id']}/page").content
    with zipfile.ZipFile(io.BytesIO(page)) as archive:
        program = json.loads(archive.read("program.json"))
    assert [len(one["files"]) for one in program["sequences"].values()] == [3]
    assert state["weight"] > http.get(f"/api/assets/{key}").json()["bytes"]


def test_the_reading_process_comes_back() -> None:
    """It is ended while it reads, and between two files: the next file is read."""
    process = ReadingProcess()
    try:
        good = encode_png(plain(1))
        assert process.read("picture", "a.png", good)["width"] == 48
        assert process.pid is not None
        os.kill(process.pid, signal.SIGKILL)
        assert process.end() == -signal.SIGKILL
        assert process.read("picture", "a.png", good)["width"] == 48
        slow = clip([np.random.default_rng(n).integers(0, 255, (720, 1280, 3)).astype(np.uint8) for n in range(30)])
        threading.Timer(0.15, os.kill, (process.pid, signal.SIGKILL)).start()
        with pytest.raises(BadFile, match="ended the process"):  # noqa: PT012
            for _ in range(200):
                process.read("footage", "long.mp4", slow)
        assert process.read("picture", "a.png", good)["width"] == 48
        with pytest.raises(BadFile):
            process.read("picture", "a.png", b"nothing")
    finally:
        process.end()


def slow_to_read() -> list[tuple[str, bytes]]:
    """Numbered pictures that take some seconds of a processor, of three megabytes."""
    coarse = np.random.default_rng(3).integers(0, 255, (125, 125, 3)).astype(np.uint8)
    one = encode_webp(coarse.repeat(16, 0).repeat(16, 1), 1, 0)
    return [(f"{n:02}.webp", one) for n in range(49)]


def test_a_file_that_takes_too_long_is_stopped_and_said() -> None:
    process = ReadingProcess(least=0.2)
    try:
        with pytest.raises(BadFile, match="s of processor time that a file of its size has"):
            process.read("numbered", "", slow_to_read())
        assert process.read("picture", "a.png", encode_png(plain(1)))["width"] == 48
    finally:
        process.end()


def test_small_files_do_not_wait_for_a_large_one() -> None:
    async def both() -> list[str]:
        reader, order = Reader(), list[str]()

        async def read(name: str, task: Task, data: Any) -> None:
            await reader.run(task, name, data)
            order.append(name)

        try:
            await reader.start()
            large = asyncio.create_task(read("large", "numbered", slow_to_read()))
            await asyncio.sleep(0)
            await asyncio.gather(*[read("small", "picture", encode_png(plain(n))) for n in range(20)])
            await large
        finally:
            reader.shut()
        return order

    assert finished(both()) == [*["small"] * 20, "large"]


def test_a_piece_is_weighed_and_made_smaller(http: httpx.Client) -> None:
    rng = np.random.default_rng(3)
    frames = [rng.integers(0, 255, (64, 48, 3)).astype(np.uint8) for _ in range(6)]
    key = put(http, "n.zip", packed({f"{n}.png": encode_png(one) for n, one in enumerate(frames)})).json()["piece"]["asset"][
        "hash"
    ]
    weighed = ended(http, http.post(f"/api/assets/{key}/weigh").json())
    forms = {one["form"]: one for one in weighed["weights"]}
    assert set(forms) == {"png", "lossless", "webp", "half", "fewer"}
    assert forms["half"]["bytes"] < forms["png"]["bytes"]
    job = ended(http, http.post(f"/api/assets/{key}/save", json={"form": "half", "quality": 50}).json())
    asset = http.get(f"/api/assets/{job['asset']}").json()
    assert asset["saved"] == {"of": key, "form": "half"}
    assert (asset["sequence"]["width"], asset["sequence"]["frames"]) == (24, 6)
    assert asset["name"] == "n (half 50).zip"
    picture = put(http, "p.png", encode_png(frames[0])).json()["piece"]["asset"]["hash"]
    assert len(ended(http, http.post(f"/api/assets/{picture}/weigh").json())["weights"]) == 4
    smaller = ended(http, http.post(f"/api/assets/{picture}/save", json={"form": "webp"}).json())
    layer = {"id": "p", "name": "P", "kind": "picture", "values": {"picture": smaller["asset"]}}
    package = http.get(f"/api/effects/{made(http, [layer])['id']}/package").content
    with zipfile.ZipFile(io.BytesIO(package)) as archive:
        assert any(name.endswith(".webp") for name in archive.namelist())
    asked = {"effect": made(http, [layer])["effect"], "used": smaller["asset"], "form": "half", "quality": 5}
    seen = http.post(f"/api/assets/{picture}/beside", json=asked).json()
    was, saved = (
        np.asarray(Image.open(io.BytesIO(base64.b64decode(seen[name].partition(",")[2]))), float) for name in ("was", "saved")
    )
    assert was.shape == saved.shape == (960, 540, 3)
    assert was.std() > saved.std() + 10
    lookup = put(http, "g.cube", write_cube(random_cube(3, 9))).json()["piece"]["asset"]["hash"]
    assert http.post(f"/api/assets/{lookup}/beside", json=asked).status_code == 422
    refused = http.post(f"/api/assets/{lookup}/weigh")
    assert refused.status_code == 422
    assert "never made smaller" in refused.json()["message"]
    asked = {"pieces": [{"asset": key, "bytes": 5_000_000, "forms": weighed["weights"]}], "room": 100_000}
    assert http.post("/api/fit", json=asked).json() == {"fits": True, "forms": {key: "lossless"}}
    assert http.post("/api/fit", json={**asked, "room": 10}).json()["fits"] is False


def test_a_draft_that_comes_to_the_bytes_of_what_is_kept_takes_nothing_off_the_shelf(http: httpx.Client) -> None:
    """Drafts are forgotten; what was kept, and happens to be the same as one, is not."""
    key = put(http, "tiny.mp4", clip(walking(8))).json()["piece"]["asset"]["hash"]
    how = {"size": [48, 32], "rate": 10, "quality": 60}
    kept = ended(http, http.post(f"/api/clips/{key}/cut", json={**how, "name": "kept.zip"}).json())
    draft = ended(http, http.post(f"/api/clips/{key}/cut", json={**how, "draft": True}).json())
    assert draft["asset"] == kept["asset"]
    assert piece(http, kept["asset"])["asset"]["name"] == "kept.zip"
    # The other way round: what was a draft and is then kept is on the shelf.
    other = {**how, "rate": 5}
    first = ended(http, http.post(f"/api/clips/{key}/cut", json={**other, "draft": True}).json())
    assert all(one["asset"]["hash"] != first["asset"] for one in http.get("/api/shelf").json())
    second = ended(http, http.post(f"/api/clips/{key}/cut", json={**other, "name": "later.zip"}).json())
    assert second["asset"] == first["asset"]
    assert piece(http, second["asset"])


def test_a_mesh_is_kept_as_a_glb_and_worn(http: httpx.Client) -> None:
    came = put(http, "bob.glb", moving()).json()
    mesh = came["piece"]["asset"]["mesh"]
    assert mesh["motions"] == [{"name": "bob", "seconds": 1.5}]
    assert mesh["size"] == pytest.approx(15.5, abs=0.2)
    key = came["piece"]["asset"]["hash"]
    shown = http.get(f"/api/assets/{key}/print")
    assert shown.headers["content-type"] == "image/webp"
    pixels = np.asarray(Image.open(io.BytesIO(shown.content)).convert("RGB")).astype(int)
    assert ((pixels[..., 0] > 120) & (pixels[..., 1] < 90)).any(), "the red box"
    assert ((pixels[..., 1] > 90) & (pixels[..., 0] < 80)).any(), "the green ball"
    assert http.get(f"/api/assets/{key}/file").content[:4] == b"glTF"

    state = http.post("/api/effects", json={"name": "Bob"}).json()
    layer = {"id": "m", "name": "Bob", "kind": "mesh", "values": {"mesh": {"asset": key, "motion": "bob", "speed": 1.0}}}
    state["effect"] |= {"layers": [layer]}
    change = {"base": state["revision"], "gesture": "wear it", "effect": state["effect"]}
    http.post(f"/api/effects/{state['id']}/revisions", json=change).raise_for_status()
    assert state["id"] in [one["id"] for one in piece(http, key)["used"]], "and the browser's tests may wear the same file"
    package = http.get(f"/api/effects/{state['id']}/package").content
    assert f"meshes/{key[:16]}.glb" in zipfile.ZipFile(io.BytesIO(package)).namelist()
    program = http.post("/api/programs", json=state["effect"]).json()["program"]
    assert program["models"] == {key: f"/api/assets/{key}/file"}
    again = http.post("/api/effects/import", files={"file": ("bob.glaze", package)}).json()
    assert again["effect"]["layers"][0]["values"]["mesh"]["motion"] == "bob"

    other = put(http, "box.glb", box_and_ball()).json()["piece"]["asset"]["hash"]
    http.post(f"/api/assets/{key}/replace", json={"by": other}).raise_for_status()
    held = http.get(f"/api/effects/{state['id']}").json()["effect"]["layers"][0]["values"]["mesh"]
    assert held["asset"] == other
