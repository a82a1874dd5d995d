"""Clips of effects, from a shell and by the server: what is in them, progress, cancel that leaves nothing, dials and
rehearsals."""

from __future__ import annotations

import io
import json
import signal
import subprocess
import sys
import time
import zipfile
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import httpx
import numpy as np
import pytest
from PIL import Image

from sunglaze.cli.render import dials_of, sitting_of
from sunglaze.core.camera.cast import Sitting
from sunglaze.core.errors import BadFile
from sunglaze.core.material.filming import Film, shown_at
from sunglaze.core.moment.rehearsal import Finger, Rehearsal, Step, write_rehearsal
from tests.serving import Served, ended
from tests.shell import sunglaze

RAMP = {"kind": "time-ramp", "values": {"start": 0.0, "end": 1.0, "seconds": 2.0, "easing": "linear"}}
WHITE = {"id": "w", "name": "White", "kind": "fill", "values": {"colour": "#ffffff"}}


def effect(folder: Path, layers: list[dict[str, Any]], **more: Any) -> Path:
    plain = {"format": "sun-glaze/effect", "version": 8, "name": "t", "layers": layers, **more}
    (folder / "e.json").write_text(json.dumps(plain))
    return folder / "e.json"


def grey(folder: Path) -> Path:
    cv2.imwrite(str(folder / "grey.png"), np.zeros((96, 64, 3), np.uint8))
    return folder / "grey.png"


def frames(path: Path) -> list[np.ndarray]:
    with av.open(str(path)) as room:
        return [frame.to_ndarray(format="rgb24") for frame in room.decode(video=0)]


@pytest.mark.parametrize("ending", ["mp4", "webm", "gif"])
def test_a_clip_shows_each_frame_when_it_is_due(tmp_path: Path, ending: str) -> None:
    """A fill whose opacity grows evenly over 2 s, on black: frame n of the clock is n / 60 of white."""
    effect(tmp_path, [{**WHITE, "drives": {"layer:opacity": RAMP}}])
    grey(tmp_path)
    out = f"out.{ending}"
    done = sunglaze(
        "render", "e.json", "--clip", out, "--image", "grey.png", "--seconds", "1.5", "--from", "0.5", "--fps", "20", cwd=tmp_path
    )
    assert done.returncode == 0, done.stderr
    assert "30 pictures of 64x96, 20 a second" in done.stdout
    seen = frames(tmp_path / out)
    assert len(seen) == 30
    levels = np.array([picture.mean() for picture in seen])
    due = np.array(list(shown_at(20, 30, 15, 30))) / 60 * 255
    assert np.abs(levels - due).max() < 6
    assert not [one for one in tmp_path.iterdir() if ".part" in one.name]


def test_a_folder_gets_lossless_frames_with_dials_and_a_rehearsal(tmp_path: Path) -> None:
    tap = Rehearsal(steps=(Step(frame=5, touch=Finger(down=True)), Step(frame=6, touch=Finger(down=False))))
    (tmp_path / "r.json").write_text(write_rehearsal(tap))
    switch = {"kind": "cued-switch", "values": {"cue": "tap", "low": 0.0, "high": 1.0, "how": "each time"}}
    dial = {"kind": "dial", "values": {"dial": "much", "low": 0.0, "high": 1.0, "seconds": 0.0}}
    dials = [{"id": "much", "title": "How much", "start": 0.0, "low": 0, "high": 10, "unit": "x"}]
    effect(tmp_path, [{**WHITE, "drives": {"layer:on": switch, "layer:opacity": dial}}], dials=dials)
    grey(tmp_path)
    given = ["--image", "grey.png", "--rehearsal", "r.json", "--dial", "How much=4"]
    done = sunglaze("render", "e.json", "--clip", "frames", "--seconds", "0.3", *given, cwd=tmp_path)
    assert done.returncode == 0, done.stderr
    pictures = [cv2.imread(str(one)) for one in sorted((tmp_path / "frames").iterdir())]
    assert len(pictures) == 9
    assert [int(one.min()) for one in pictures] == [0] * 5 + [102] * 4
    again = sunglaze("render", "e.json", "--clip", "frames", "--seconds", "0.3", *given, cwd=tmp_path)
    assert again.returncode == 2
    assert "holds files already" in again.stderr


def test_ctrl_c_leaves_nothing_half_written(tmp_path: Path) -> None:
    effect(tmp_path, [WHITE])
    order = [sys.executable, "-m", "sunglaze", "render", "e.json", "--clip", "out.mp4", "--seconds", "300", "--size", "540x960"]
    # What runs in the background of a shell ignores Ctrl+C, and so would what it starts.
    heard = {"preexec_fn": lambda: signal.signal(signal.SIGINT, signal.SIG_DFL)}
    with subprocess.Popen(order, cwd=tmp_path, stdout=subprocess.PIPE, stderr=subprocess.PIPE, **heard) as running:
        end = time.monotonic() + 90
        while not list(tmp_path.glob(".out.*")):
            assert time.monotonic() < end
            time.sleep(0.1)
        time.sleep(1.0)
        running.send_signal(signal.SIGINT)
        assert running.wait(60) == 130
    assert [one.name for one in tmp_path.iterdir()] == ["e.json"]


@pytest.mark.parametrize(
    ("more", "words"),
    [
        (["--clip", "x.avi"], "written as .mp4, .webm, .gif"),
        (["--clip", "x.mp4", "--seconds", "0"], "up to 600 seconds"),
        (["--clip", "x.gif", "--fps", "60"], "up to 50 pictures a second"),
        (["--clip", "x.mp4", "--fps", "0.5"], "1 to 60 pictures a second"),
        (["--clip", "x.mp4", "--camera", "nobody"], "no performer 'nobody'"),
        (["--clip", "x.mp4", "--dial", "Dust=1"], "dials are none"),
        (["--clip", "x.mp4", "--out", "y.png"], "say --out FILE for one frame"),
        ([], "say --out FILE for one frame"),
    ],
)
def test_what_cannot_be_filmed_is_said(tmp_path: Path, more: list[str], words: str) -> None:
    effect(tmp_path, [WHITE])
    done = sunglaze("render", "e.json", *more, "--size", "64x96", cwd=tmp_path)
    assert done.returncode == 2
    assert words in done.stderr
    assert [one.name for one in tmp_path.iterdir()] == ["e.json"]


def test_who_is_before_the_camera_and_where_dials_stand_in_words() -> None:
    from sunglaze.core.effect.document import parse_effect

    assert sitting_of("oyster-cook:near:dusk:back") == Sitting("oyster-cook", "near", "dusk", True)
    assert sitting_of("kite-flyer:tracked") == Sitting("kite-flyer", tracked=True)
    dials = [
        {"id": "look", "title": "Look", "kind": "choice", "start": 0, "choices": ["Dawn", "Noon", "Dusk"]},
        {"id": "on", "title": "On", "kind": "switch", "start": 0},
        {"id": "hue", "title": "Hue", "kind": "colour", "start": "#000000"},
    ]  # fmt: skip
    found = parse_effect({"format": "sun-glaze/effect", "version": 8, "name": "t", "dials": dials})
    assert dials_of(found, ["Look=Dusk", "on=on", "Hue=#ff0000"]) == {
        "look": 1.0,
        "on": 1.0,
        "hue-r": 1.0,
        "hue-g": 0.0,
        "hue-b": 0.0,
    }
    for wrong, words in (("Look=Night", "choices are Dawn"), ("On=yes", "on or off"), ("Much=1", "'Look', 'On', 'Hue'")):
        with pytest.raises(BadFile, match=words):
            dials_of(found, [wrong])


def test_a_film_that_fails_takes_nothing_away(tmp_path: Path) -> None:
    """A clip that was there before stays until the new one is whole."""
    out = tmp_path / "a.mp4"
    out.write_bytes(b"before")

    def fails() -> None:
        with Film(out, (32, 32), Fraction(30)) as film:
            film.add(np.zeros((32, 32, 3), np.uint8))
            raise ZeroDivisionError

    with pytest.raises(ZeroDivisionError):
        fails()
    assert out.read_bytes() == b"before"
    with Film(out, (32, 32), Fraction(30)) as film:
        film.add(np.zeros((32, 32, 3), np.uint8))
    assert len(frames(out)) == 1


def test_the_server_films_follows_and_cancels(served: Served) -> None:
    with httpx.Client(base_url=served.address) as http:
        state = http.post("/api/effects", json={"name": "Filmed"}).json()
        state["effect"]["layers"] = [WHITE]
        change = {"base": state["revision"], "gesture": "g", "effect": state["effect"]}
        http.post(f"/api/effects/{state['id']}/revisions", json=change).raise_for_status()
        asked = {"seconds": 0.4, "form": "frames", "short": 270, "screen": "1:1"}
        job = ended(http, http.post(f"/api/effects/{state['id']}/clips", json=asked).json())
        assert (job["state"], job["done"], job["of"]) == ("done", 12, 12)
        answer = http.get(f"/api/clips/{job['id']}/file", params={"name": "Filmed: now"})
        assert 'filename="Filmed' in answer.headers["content-disposition"]
        with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
            names = archive.namelist()
            assert len([name for name in names if name.endswith(".png")]) == 12
            picture = np.asarray(Image.open(io.BytesIO(archive.read("00001.png"))))
        assert picture.shape == (270, 270, 3)
        assert picture.min() == 255
        long = http.post(f"/api/effects/{state['id']}/clips", json={"seconds": 120, "short": 1080}).json()
        http.delete(f"/api/cuts/{long['id']}").raise_for_status()
        assert http.get(f"/api/cuts/{long['id']}").json()["state"] == "cancelled"
        assert http.get(f"/api/clips/{long['id']}/file").status_code == 404
        assert http.post("/api/effects/nope/clips", json={}).status_code == 404
        refused = http.post(f"/api/effects/{state['id']}/clips", json={"form": "gif", "fps": 60})
        assert "50 pictures" in refused.json()["message"]
