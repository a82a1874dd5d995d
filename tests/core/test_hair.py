"""Hair by its colour on the cast, with the exact points and person masks: how good it is, and where there is none."""

from __future__ import annotations

import numpy as np
import pytest

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.face.hair import hair
from sunglaze.core.moment.moment import Reads


def seen(who: str, light: str, frame: int) -> tuple[np.ndarray, np.ndarray]:
    """What is taken for hair, and what is."""
    moment = StandIn(540, 960, Sitting(who, light=light)).moment(frame, Reads(True, ("hair",), True))
    assert moment.picture is not None
    person = np.ascontiguousarray(moment.picture.view(np.uint8).reshape(960, -1, 4)[:, :540, 3])
    points = [face.points * (540, 960, 540) for face in moment.faces]
    mask = hair(np.ascontiguousarray(colours(moment.picture, 540)), points, person)
    assert (mask <= person).all()
    return mask > 127, moment.regions["hair"][..., 0] > 127


@pytest.mark.parametrize("light", ["noon", "lamp", "dusk"])
@pytest.mark.parametrize("who", ["lamp-tender", "beekeeper", "stilt-walker", "net-mender", "tide-reader"])
def test_free_hair_is_found_whatever_its_colour_and_the_light(who: str, light: str) -> None:
    """Long, curled, red, grey, black on deep skin: by rings of the face alone the median of these was 0.62 of 1."""
    alike = []
    for frame in (10, 70):
        ours, exact = seen(who, light, frame)
        alike.append(float((ours & exact).sum() / (ours | exact).sum()))
    assert max(alike) > 0.78
    assert min(alike) > 0.55


def test_a_bald_head_has_none() -> None:
    for light in ("noon", "lamp", "dusk"):
        ours, exact = seen("oyster-cook", light, 10)
        assert not exact.any()
        assert ours.mean() < 0.002


def test_nobody_has_none() -> None:
    empty = np.zeros((96, 54), np.uint8)
    assert not hair(np.zeros((96, 54, 3), np.uint8), [], empty).any()
    points = [np.full((478, 3), 20.0)]
    assert not hair(np.zeros((96, 54, 3), np.uint8), points, empty).any()
