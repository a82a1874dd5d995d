"""What is pinned to a real face lies on it in every picture: a film of a head that turns as Chromium's camera, its frames
numbered by bars, on an exported page; against the cast's truth of the very frame that is shown."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Browser, Page

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import LENGTHS, Sitting, StandIn
from sunglaze.core.camera.truth import heads
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.material.still import Still
from sunglaze.core.package.export import export_folder
from sunglaze.realism import DIST
from tests.browser.films import play
from tests.browser.workbench import pixels, until
from tests.serving import files_at

WIDTH, HEIGHT = 640, 480
SAT = Sitting("lamp-tender", "talk", "shade", back=True)
BITS, BAR, LEFT, TOP = 7, 26, 228, 446
MARK = "1" * 64
HELD_MS = 20_000


def numbered() -> Iterator[np.ndarray]:
    """Somebody who talks and turns. A picture's number in bars near its lower edge, the lowest bit first."""
    camera = StandIn(WIDTH, HEIGHT, SAT)
    for n in range(LENGTHS["talk"]):
        picture = np.ascontiguousarray(colours(camera.frame(n), WIDTH))
        for bit in range(BITS):
            left = LEFT + bit * BAR
            picture[TOP : TOP + BAR, left : left + BAR] = 255 if n >> bit & 1 else 0
        yield picture


@pytest.fixture
def seen(browser: Browser, film: Path) -> Iterator[Page]:
    # Slowly, since trackers are slow here: they see every third picture.
    play(film, numbered(), 4)
    context = browser.new_context(viewport={"width": 405, "height": 720}, permissions=["camera"])
    yield context.new_page()
    context.close()


def number_of(shown: np.ndarray) -> int:
    """The frame of the film that a picture shows (1280, 720, 3): the middle of the film, mirrored."""
    scale = shown.shape[0] / HEIGHT
    across = [shown.shape[1] / 2 - (LEFT + (bit + 0.5) * BAR - WIDTH / 2) * scale for bit in range(BITS)]
    row = round((TOP + BAR / 2) * scale)
    return sum(int(shown[row - 6 : row + 7, round(x) - 6 : round(x) + 7].mean() > 128) << bit for bit, x in enumerate(across))


@pytest.mark.slow
def test_a_mark_stays_on_the_nose_of_a_head_that_turns(seen: Page, tmp_path: Path) -> None:
    """Pictures are held back until the trackers have seen them, here without a limit. In a dozen of them the mark is within 8 %
    of the distance of the eyes of where the nose truly is, in the median; the tracker's own error is part of that."""
    mark = np.zeros((8, 8, 4), np.uint8)
    mark[...] = 0, 255, 0, 255
    layer = Layer(id="mark", name="Mark", kind="pin", values={
        "picture": MARK, "place": "nose tip", "wide": 0.7, "turned": "flat to the screen", "hides": False,
    })  # fmt: skip
    export_folder(Effect(name="Mark", layers=[layer]), Material(pictures={MARK: Still.of(mark)}), tmp_path / "mark", DIST)
    truth = [heads(StandIn(WIDTH, HEIGHT, SAT), n)[0] for n in range(LENGTHS["talk"])]
    off: dict[int, float] = {}
    with files_at(tmp_path) as address:
        seen.goto(f"{address}/mark/?hold={HELD_MS}")
        seen.wait_for_selector("canvas[data-frame]")

        def measured() -> bool:
            shown = pixels(seen, "canvas")
            green = (shown[..., 1] > 200) & (shown[..., 0] < 90) & (shown[..., 2] < 90)
            number = number_of(shown)
            if green.sum() < 20 or number >= LENGTHS["talk"]:
                return False
            down, across = np.nonzero(green)
            scale = shown.shape[0] / HEIGHT
            nose, apart = truth[number].points[4, :2], np.linalg.norm(truth[number].eyes[0] - truth[number].eyes[1]) * scale
            want = (shown.shape[1] / 2 - (nose[0] - WIDTH / 2) * scale, nose[1] * scale)
            off[number] = float(np.hypot(across.mean() + 0.5 - want[0], down.mean() + 0.5 - want[1]) / apart)
            return len(off) >= 12

        until(seen, measured)
    assert np.median(list(off.values())) < 0.08
    assert np.quantile(list(off.values()), 0.9) < 0.2
