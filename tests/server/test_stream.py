"""The stream's manners: acknowledged frames, moves, nonsense, and a rendering process that crashes or hangs."""

from __future__ import annotations

import contextlib
import json
import os
import re
import signal
import time
from pathlib import Path

import numpy as np

from sunglaze.server.rendering.messages import TELLS
from tests.server.streaming import FILL, frame, opened, read, still
from tests.serving import Served, rendering_process, serve


def test_no_more_than_two_frames_without_an_answer(served: Served) -> None:
    with opened(served) as socket:
        socket.send(json.dumps(still()))
        kinds: list[object] = []
        # The first ones take as long as the machine takes to begin.
        while not {"frame", "tiles"} <= {*kinds}:
            kinds.append(read(socket)[0]["type"])
        with contextlib.suppress(TimeoutError):
            while True:
                kinds.append(read(socket, patience=1.5)[0]["type"])
        assert kinds.count("frame") == 2
        assert kinds.count("tiles") == 1
        # It had waited for an answer, not stopped: with each one a frame comes.
        for _ in range(3):
            socket.send(json.dumps({"type": "ack", "kind": "frame"}))
            assert read(socket)[0]["type"] == "frame"


def test_moves_show_and_paused_frames_are_lossless(served: Served) -> None:
    with opened(served) as socket:
        socket.send(json.dumps(still()))
        socket.send(json.dumps({"type": "view", "playing": False, "frame": 7}))
        assert (frame(socket, lossless=True, frame=7) == [255, 0, 0]).all()
        for n, colour in enumerate(["#00ff00", "#123456"], 1):
            socket.send(
                json.dumps(
                    {"type": "move", "at": {"layer": "a", "part": "control", "name": "colour"}, "value": colour, "serial": n}
                )
            )
        assert (frame(socket, lossless=True, serial=2) == [0x12, 0x34, 0x56]).all()


def test_a_view_comes_back_by_its_number_with_the_frame_that_shows_it(served: Served) -> None:
    with opened(served) as socket:
        socket.send(json.dumps(still()))
        socket.send(json.dumps({"type": "view", "playing": False, "frame": 7, "look": 1}))
        assert (frame(socket, lossless=True, look=1) == [255, 0, 0]).all()
        socket.send(json.dumps({"type": "view", "wipe": 0.5, "look": 2}))
        wiped = frame(socket, look=2)
        half = wiped.shape[1] // 2
        assert np.abs(wiped[:, half + 16 :].astype(int) - [255, 0, 0]).max() < 20
        assert (np.abs(wiped[:, : half - 16].astype(int) - [255, 0, 0]).max(axis=2) > 60).mean() > 0.9


def test_nonsense_is_answered_and_the_stream_goes_on(served: Served) -> None:
    with opened(served) as socket:
        socket.send(json.dumps(still()))
        frame(socket)
        for nonsense in ("{", '{"type":"show"}', '{"type":"fly"}', '{"type":"view","wipe":9}', "[]"):
            socket.send(nonsense)
        missing = still()
        missing["effect"]["layers"] = [  # type: ignore[index]
            {"kind": "lookup-grade", "id": "g", "name": "Grade", "values": {"lookup": {"asset": "a" * 64}}}
        ]
        socket.send(json.dumps(missing))
        socket.send(
            json.dumps({"type": "move", "at": {"layer": "gone", "part": "layer", "name": "opacity"}, "value": 1, "serial": 1})
        )
        socket.send(b"no text")
        troubles = 0
        while troubles < 7:
            header, _ = read(socket)
            troubles += header["type"] == "trouble"
            if header["type"] in ("frame", "tiles"):
                socket.send(json.dumps({"type": "ack", "kind": header["type"]}))
        assert (frame(socket)[::97, ::97] > [250, -1, -1]).all()


def test_a_crash_of_the_rendering_process_costs_a_moment(served: Served) -> None:
    with opened(served) as socket:
        socket.send(json.dumps(still()))
        frame(socket)
        os.kill(rendering_process(served), signal.SIGKILL)
        header = {}
        while header.get("type") != "restarted":
            header, _ = read(socket)
        socket.send(json.dumps({"type": "ack", "kind": "frame"}))
        assert (frame(socket)[::97, ::97] > [250, -1, -1]).all()


def test_a_hang_of_the_rendering_process_is_ended(served: Served) -> None:
    with opened(served) as socket:
        socket.send(json.dumps(still()))
        frame(socket)
        stuck = rendering_process(served)
        os.kill(stuck, signal.SIGSTOP)
        header = {}
        while header.get("type") != "restarted":
            header, _ = read(socket, patience=120)
        # The new process has answered before its id is read: between fork and exec it has no name of its own.
        assert (frame(socket)[::97, ::97] > [250, -1, -1]).all()
        assert rendering_process(served) != stuck


def test_a_rendering_process_tells_where_its_threads_are_and_goes_on(tmp_path: Path) -> None:
    """Its log is the server's: it is asked before a process that hangs is ended."""
    log = tmp_path / "log"
    with log.open("w") as file:
        running = serve(tmp_path / "data", log=file)
    try:
        with opened(running) as socket:
            socket.send(json.dumps(still()))
            frame(socket)
            asked = rendering_process(running)
            os.kill(asked, TELLS)
            socket.send(json.dumps({"type": "view", "frame": 6, "look": 4}))
            frame(socket, look=4)
            assert rendering_process(running) == asked
    finally:
        running.stop()
    # The system gives the signal to any thread, also to one that runs no Python; so none may be marked as the current one.
    assert re.search(r"(Current t|T)hread 0x\w+ .*\n(  File .*\n)*  File .*worker\.py\", line \d+ in run", log.read_text())


def test_moves_made_while_a_build_runs_are_not_lost(served: Served) -> None:
    modes = ("hue", "luminosity", "soft-light", "color", "saturation", "overlay", "color-dodge", "color-burn")
    below = [{**FILL, "id": f"l{n}", "blend": modes[n % 8], "opacity": 0.5} for n in range(24)]
    show = still()
    show["effect"]["layers"] = [*below, {**FILL, "id": "top"}]  # type: ignore[index]
    with opened(served) as socket:
        socket.send(json.dumps({"type": "view", "playing": False, "frame": 3}))
        socket.send(json.dumps({**show, "serial": 1}))
        socket.send(
            json.dumps(
                {"type": "move", "at": {"layer": "top", "part": "control", "name": "colour"}, "value": "#00ff00", "serial": 2}
            )
        )
        assert (frame(socket, serial=2, lossless=True) == [0, 255, 0]).all()


def test_a_print_of_the_list_moves_until_another_is_asked_for(served: Served) -> None:
    with opened(served) as socket:
        for effect in ("demo-low-tide", "demo-harbour-fog"):
            socket.send(json.dumps({"type": "print", "id": effect}))
            seen: set[bytes] = set()
            deadline = time.monotonic() + 150
            while len(seen) < 3 and time.monotonic() < deadline:
                header, payload = read(socket)
                assert header["type"] in ("tiles", "built"), header
                if header["type"] == "tiles":
                    socket.send(json.dumps({"type": "ack", "kind": "tiles"}))
                    if header["ids"] == [effect]:
                        seen.add(payload)
            assert len(seen) == 3, "it moves"
        socket.send(json.dumps({"type": "print", "id": "gone"}))
        while (header := read(socket)[0])["type"] != "trouble":
            socket.send(json.dumps({"type": "ack", "kind": "tiles"}))
        assert "there is no effect 'gone'" in str(header["message"])


def test_still_viewers_cost_nothing(served: Served) -> None:
    """Messages come in their order: what was drawn while nothing changed comes before what answers the next word."""
    with opened(served) as socket:
        socket.send(json.dumps(still()))
        socket.send(json.dumps({"type": "view", "playing": False, "frame": 5}))
        frame(socket, lossless=True, frame=5)
        time.sleep(1.0)
        socket.send(json.dumps({"type": "view", "frame": 6, "look": 4}))
        drawn = []
        while 6 not in drawn:
            header, _ = read(socket)
            if header["type"] in ("frame", "tiles"):
                socket.send(json.dumps({"type": "ack", "kind": header["type"]}))
            if header["type"] == "frame":
                drawn.append(header["frame"])
        assert drawn == [6]
