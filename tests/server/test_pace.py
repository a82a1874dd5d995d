"""The size at which a picture moves follows from how long its frames take."""

from __future__ import annotations

import pytest

from sunglaze.server.rendering.viewing import STEPS, TOO_LONG, Pace, Viewer


def played(pace: Pace, whole: float, frames: int, always: float = 0.004) -> list[int]:
    """Places of the sizes of so many frames of an effect that takes `whole` seconds at the full size, `always` of it at any."""
    sizes = []
    for _ in range(frames):
        sizes.append(pace.size)
        pace.took(always + (whole - always) * STEPS[pace.size] ** 2)
    return sizes


@pytest.mark.parametrize("whole", [0.005, 0.02, 0.029, 0.035, 0.05, 0.08, 0.15, 0.4])
def test_it_settles_at_a_size_that_keeps_up(whole: float) -> None:
    sizes = played(Pace(), whole, 300)
    assert len(set(sizes[100:])) == 1, "the size goes to and fro"
    taken = 0.004 + (whole - 0.004) * STEPS[sizes[-1]] ** 2
    assert taken <= TOO_LONG or sizes[-1] == len(STEPS) - 1
    if sizes[-1]:
        larger = 0.004 + (whole - 0.004) * STEPS[sizes[-1] - 1] ** 2
        assert larger > 0.8 * TOO_LONG, "it could be larger"


def test_it_comes_back_when_the_processor_is_free_again() -> None:
    """Within a second of a light effect after a heavy one, and of a heavy hour after a light one."""
    pace = Pace()
    played(pace, 0.3, 100)
    assert pace.size == len(STEPS) - 1
    played(pace, 0.02, 30)
    assert pace.size == 0
    played(pace, 0.3, 15)
    assert pace.size == len(STEPS) - 1


def test_one_late_frame_changes_nothing() -> None:
    pace = Pace()
    played(pace, 0.018, 50)
    pace.took(0.07)
    assert pace.size == 0


@pytest.mark.parametrize(("by_code", "by_steps"), [(0, 2), (1, 3), (3, 2), (2, 2)])
def test_while_an_edit_is_built_frames_are_as_small_as_the_edit_will_be(by_code: int, by_steps: int) -> None:
    viewer = Viewer(1)
    viewer.paces = {False: Pace(by_code), True: Pace(by_steps)}
    assert viewer._size(quick=False) == by_code
    viewer.building = True
    assert viewer._size(quick=False) == max(by_code, by_steps)
