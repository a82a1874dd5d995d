"""Animated pictures as Chromium decodes them (WebCodecs, ImageDecoder): a second opinion on tests/core/test_animated.py."""

from __future__ import annotations

import base64

import numpy as np
import pytest
from playwright.sync_api import Page

from sunglaze.core.material.files import material_pixels
from sunglaze.core.material.reels import read_animated
from tests.moving import MAKERS

TYPES = {"GIF": "image/gif", "APNG": "image/png", "WebP": "image/webp"}
DECODED = """async ({ type, files }) => {
    const all = []
    for (const file of files) {
        const decoder = new ImageDecoder({ type, data: Uint8Array.from(atob(file), (c) => c.charCodeAt(0)) })
        await decoder.completed
        await decoder.tracks.ready
        const shown = []
        for (let frameIndex = 0; frameIndex < decoder.tracks.selectedTrack.frameCount; frameIndex++) {
            const { image } = await decoder.decode({ frameIndex })
            const canvas = new OffscreenCanvas(image.displayWidth, image.displayHeight)
            const context = canvas.getContext('2d')
            context.drawImage(image, 0, 0)
            shown.push([...context.getImageData(0, 0, canvas.width, canvas.height).data])
            image.close()
        }
        all.push(shown)
    }
    return all
}"""


@pytest.mark.parametrize("form", MAKERS)
def test_every_picture_is_what_chromium_shows(page: Page, address: str, form: str) -> None:
    rng = np.random.default_rng(24)
    files = [MAKERS[form](rng).data for _ in range(24)]
    page.goto(f"{address}/api/effects")
    theirs = page.evaluate(DECODED, {"type": TYPES[form], "files": [base64.b64encode(one).decode() for one in files]})
    for number, (data, shown) in enumerate(zip(files, theirs, strict=True)):
        for ours, other in zip(map(material_pixels, read_animated(data).sequence.files), shown, strict=True):
            seen = np.array(other, np.uint8).reshape(ours.shape)
            # What is clear has no colour on a canvas.
            assert np.array_equal(ours * (ours[..., 3:] > 0), seen), number
