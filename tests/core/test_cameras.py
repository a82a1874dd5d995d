"""A camera's picture at a smaller size, and the memory of pictures."""

from __future__ import annotations

import os
import subprocess
import sys

import cv2
import numpy as np
import pytest

from sunglaze.core.camera.cameras import Shrunk, shrunk
from sunglaze.core.camera.cast import StandIn
from sunglaze.core.disk_cache import FRAMES
from sunglaze.core.moment.moment import Reads
from sunglaze.core.targets.memory import blank, in_line, memory, padded, planes


def as_pixels(words: np.ndarray, width: int) -> np.ndarray:
    return words.view(np.uint8).reshape(words.shape[0], -1, 4)[:, :width].astype(float)


@pytest.mark.parametrize("size", [(270, 480), (360, 640), (180, 320), (108, 192), (90, 160), (135, 240)])
def test_a_smaller_picture_is_the_mean_of_what_its_pixels_cover(size: tuple[int, int]) -> None:
    """OpenCV's INTER_AREA. Exactly by halves; else within a few codes of it."""
    frame = StandIn(540, 960).frame(3)
    seen = as_pixels(shrunk(frame, 540, size), size[0])
    want = cv2.resize(np.ascontiguousarray(as_pixels(frame, 540)), size, interpolation=cv2.INTER_AREA)
    assert np.abs(seen - want).mean() < (0.51 if size in ((270, 480), (135, 240)) else 1.6)
    assert np.abs(seen.mean((0, 1)) - want.mean((0, 1))).max() < 0.6


def test_fine_stripes_do_not_turn_coarse() -> None:
    """Stripes a pixel wide become their mean at a third: reading single pixels would keep one of the two."""
    frame = blank(96, 192)
    frame[:, 0:192:2] = 0xFFFFFFFF
    seen = as_pixels(shrunk(frame, 192, (64, 32)), 64)
    assert np.abs(seen - 127.5).max() <= 1


def test_a_picture_of_its_own_size_is_itself() -> None:
    frame = StandIn(540, 960).frame(1)
    assert shrunk(frame, 540, (540, 960)) is frame


@pytest.mark.parametrize("shape", [(1, 1), (3, 5, 7), (4, 1280, 736)])
def test_memory_starts_at_a_whole_cache_line(shape: tuple[int, ...]) -> None:
    for kind in (np.float32, np.uint32):
        room = memory(shape, kind)
        assert room.ctypes.data % 64 == 0
        assert room.shape == shape
        assert not room.any()
        assert room.flags.writeable


def test_what_pictures_are_read_from_does_so() -> None:
    given = np.random.default_rng(1).random((9, 13, 3)).astype(np.float32)
    for surface in (planes(given, 4), blank(7, 30), in_line(given[:, ::2])):
        assert surface.ctypes.data % 64 == 0
        assert surface.flags.c_contiguous
    assert np.array_equal(planes(given, 4)[:3, :, :13], np.moveaxis(given, 2, 0))
    assert padded(13) == 32


def test_a_copy_in_line_is_a_copy() -> None:
    given = memory((4, 32), np.int32)
    copy = in_line(given)
    copy[0, 0] = 5
    assert given[0, 0] == 0


@pytest.mark.skipif(sys.platform != "linux", reason="threads have a priority of their own on Linux")
def test_frames_are_made_at_the_priority_of_who_began_not_of_who_asks_first() -> None:
    """In a process of its own, whose first frame is asked for by a thread of low priority, as the one that decodes ahead."""
    code = """
import os, threading
from sunglaze.core.camera.cast import StandIn
from sunglaze.core.camera.laying import start_threads
start_threads()
def low():
    os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), 15)
    StandIn(90, 160).frame(0)
one = threading.Thread(target=low)
one.start()
one.join()
tasks = {int(task) for task in os.listdir('/proc/self/task')} - {one.native_id}
print(sorted({os.getpriority(os.PRIO_PROCESS, task) for task in tasks}))
"""
    # Made, not read from the disk; what writes them there is waited for by nobody.
    without = {name: value for name, value in os.environ.items() if name != FRAMES}
    told = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True, env=without)
    assert told.stdout.strip() == f"[{os.getpriority(os.PRIO_PROCESS, 0)}]"


def test_a_smaller_screen_has_smaller_masks_of_the_same_regions() -> None:
    """Each the mean of what its pixels cover (OpenCV's area), as often as it is asked for; at the camera's own size its own."""
    camera, reads = StandIn(180, 320), Reads(True, ("hair", "face skin", "nowhere"), False)
    small = Shrunk(camera, 60, 106).moment(4, reads).regions
    assert small.keys() == {"hair", "face skin"}
    for name, mask in camera.regions(4, small).items():
        assert 0 < mask.mean() < 255
        want = cv2.resize(mask, (60, 106), interpolation=cv2.INTER_AREA)
        np.testing.assert_array_equal(small[name], want[..., None])
        assert Shrunk(camera, 60, 106).moment(4, reads).regions[name].shape == (106, 60, 1)
        np.testing.assert_array_equal(Shrunk(camera, 180, 320).moment(4, reads).regions[name], mask)
