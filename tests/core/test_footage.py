"""The artist's own pictures and clips: when which picture is shown, how it is turned, and what was tracked in it."""

from __future__ import annotations

import io
import zipfile

import av
import cv2
import numpy as np
import pytest

from sunglaze.core.camera.cameras import Own, colours
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.camera.tracks import Track, read_tracks, write_tracks
from sunglaze.core.camera.truth import heads
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer, LayerMask
from sunglaze.core.effect.literals import Material
from sunglaze.core.errors import BadFile
from sunglaze.core.face.model import RINGS
from sunglaze.core.face.regions import region
from sunglaze.core.material.files import encode_png
from sunglaze.core.material.footage import Footage
from sunglaze.core.material.matroska import EBML, MOST_ELEMENTS, damaged_from
from tests import engines
from tests.footage import clip, turned

SPARE = LayerMask(kind="region", values={"region": "person", "over": True, "soft": 0.0})
GREYS = (30, 80, 130, 180, 230)


def greys(height: int = 64, width: int = 96) -> list[np.ndarray]:
    return [np.full((height, width, 3), grey, np.uint8) for grey in GREYS]


def shown(camera: Own, number: int) -> int:
    return int(np.median(colours(camera.frame(number), camera.width)))


@pytest.mark.parametrize(("codec", "form"), [("libx264", "mp4"), ("libvpx-vp9", "webm"), ("mpeg4", "avi"), ("mjpeg", "mov")])
def test_every_picture_of_a_clip_is_found_in_any_order(codec: str, form: str) -> None:
    pictures = [np.full((64, 96, 3), 20 + 9 * n, np.uint8) for n in range(24)]
    try:
        footage = Footage(clip(pictures, codec=codec, form=form))
    except ValueError as error:
        pytest.skip(f"this FFmpeg writes no {codec}: {error}")
    assert (footage.width, footage.height, len(footage.times)) == (96, 64, 24)
    for number in (0, 1, 2, 17, 3, 23, 0, 11):
        assert abs(int(np.median(footage.picture(number))) - (20 + 9 * number)) <= 3


def test_a_variable_rate_is_kept_right() -> None:
    """Pictures at 0, 0.1, 0.5, 0.6 and 1.2 s: each is shown until the next begins, at 30 frames a second."""
    begins = (0.0, 0.1, 0.5, 0.6, 1.2)
    camera = Own(Footage(clip(greys(), begins)), 96, 64)
    assert camera.length == 37
    for number in range(37):
        last = max(n for n, second in enumerate(begins) if second <= number / 30 + 1e-6)
        assert abs(shown(camera, number) - GREYS[last]) <= 4
    assert camera.footage.seconds > 1.2


def test_a_clip_begins_anew() -> None:
    camera = Own(Footage(clip(greys())), 96, 64)
    assert camera.length == 5
    assert [abs(shown(camera, 5 + n) - GREYS[n]) <= 4 for n in range(5)] == [True] * 5


def test_a_clip_is_turned_as_its_file_says() -> None:
    picture = np.zeros((64, 96, 3), np.uint8)
    picture[:, :48] = [220, 30, 30]
    footage = Footage(turned(clip([picture] * 3)))
    assert (footage.width, footage.height) == (64, 96)
    upright = footage.picture(1).astype(int)
    # A quarter to the right: what was left is above.
    assert upright[20, 32, 0] - upright[20, 32, 1] > 120
    assert upright[76, 32].max() < 40


@pytest.mark.parametrize(("codec", "form"), [("libx264", "matroska"), ("libvpx", "webm"), ("libvpx-vp9", "webm")])
@pytest.mark.parametrize("kind", ["zeros", "noise", "cut out"])
def test_a_matroska_clip_that_lost_pictures_says_so_and_keeps_its_length(codec: str, form: str, kind: str) -> None:
    """Its reader goes over the damage: 60 pictures in become 32, or 44 with a gap of half a second."""
    rng = np.random.default_rng(7)
    ramp = np.linspace(0, 200, 96)[None, :, None]
    data = bytearray(clip([(ramp + n + rng.integers(0, 20, (64, 96, 3))).astype(np.uint8) for n in range(60)], None, codec, form))
    assert Footage(bytes(data)).words == ""
    middle = slice(len(data) // 2, len(data) // 2 + 3000)
    data[middle] = {"zeros": bytes(3000), "noise": rng.bytes(3000), "cut out": b""}[kind]
    footage = Footage(bytes(data))
    assert len(footage.times) < 60
    assert footage.seconds == pytest.approx(2.0, abs=0.05)
    for second in (0.1, 1.0, 1.9):
        assert footage.picture(footage.at(second)).mean() > 50
    assert "damaged behind 0." in footage.words or "damaged behind 1." in footage.words
    assert "the last good one is shown" in footage.words


def test_a_recording_without_sizes_is_whole() -> None:
    """Browsers record WebM whose segment and clusters have no sizes (RFC 8794, 6.2: all ones): they go to the end."""
    room = io.BytesIO()
    with av.open(room, "w", format="webm", options={"live": "1", "dash": "0"}) as container:
        stream = container.add_stream("libvpx", rate=30)
        stream.width, stream.height, stream.pix_fmt = 96, 64, "yuv420p"
        for pixels in greys() * 12:
            container.mux(stream.encode(av.VideoFrame.from_ndarray(pixels, format="rgb24").reformat(format="yuv420p")))
        container.mux(stream.encode())
    data = room.getvalue()
    assert b"\x18\x53\x80\x67\x01\xff\xff\xff\xff\xff\xff\xff" in data
    assert damaged_from(data) is None
    assert Footage(data).words == ""
    assert damaged_from(data[: len(data) * 2 // 3]) is not None


def test_a_file_of_nothing_but_small_elements_is_not_walked_to_its_end() -> None:
    """Thirty million empty elements would hold a thread for a minute: behind the most, damage is not looked for."""
    broken = b"\x00\x00"
    assert damaged_from(EBML + b"\x80" + b"\xec\x80" * 1000 + broken) == 0.0
    assert damaged_from(EBML + b"\x80" + b"\xec\x80" * MOST_ELEMENTS + broken) is None


def test_what_is_neither_picture_nor_clip_says_so(tmp_path: object) -> None:
    for data in (b"", b"not a clip", clip(greys())[:60]):
        with pytest.raises(BadFile, match="picture"):
            Footage(data)
    long = [float(60 * n) for n in range(4)]
    with pytest.raises(BadFile, match="cut it first"):
        Footage(clip(greys()[:4], long))


def stood_in(number: int = 0) -> tuple[StandIn, bytes, Track]:
    """A frame of the cast as if it were a photo, with its exact truth as a track."""
    camera = StandIn(540, 960, Sitting("beekeeper", "talk", "shade", back=True))
    words = camera.frame(number)
    person = words.view(np.uint8).reshape(960, -1, 4)[:, :540, 3:]
    face = np.zeros((478, 3))
    face[:, :2] = heads(camera, number)[0].points / (540, 960)
    return camera, encode_png(colours(words, 540)), Track(encode_png(person), [face.tolist()])


def test_tracks_are_written_and_read() -> None:
    _, _, track = stood_in()
    hand = [[0.1 + 0.02 * n, 0.4, 0.0] for n in range(21)]
    tracks = {0: track, 7: Track(track.mask, [], [hand])}
    data = write_tracks(tracks, 9)
    assert read_tracks(data) == tracks
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        assert archive.namelist() == ["tracks.json", "masks/000000.png", "masks/000007.png"]
    for damaged in (b"", b"PK", data[:200], data.replace(b"masks/000007", b"masks/00x007")):
        with pytest.raises(BadFile):
            read_tracks(damaged)


def test_a_tracked_photo_renders_by_its_masks_and_covers_another_screen() -> None:
    """A fill behind the person's mask turned over: the person stays, all else is the fill's colour; also on a square screen."""
    _, photo, track = stood_in()
    effect = Effect(
        name="t",
        layers=[Layer(id="f", name="Fill", kind="fill", values={"colour": "#00ff00"}, mask=SPARE)],
    )
    compiled = compile_effect(effect, Material({}))
    for width, height in ((540, 960), (540, 540)):
        own = Own(Footage(photo), width, height, {0: track})
        person = own.frame(0).view(np.uint8).reshape(height, -1, 4)[:, :width, 3]
        assert 0.2 < (person > 127).mean() < 0.8
        picture = engines.shown(compiled, own).astype(int)
        assert np.abs(picture[person == 0] - (0, 255, 0)).max() <= 1
        assert np.abs(picture[person == 255] - colours(own.frame(0), width)[person == 255]).max() <= 1
    # As long as nobody has looked, all is taken for the person: a cut-out shows the photo, not an empty backdrop.
    without = Own(Footage(photo), 540, 960)
    assert (without.frame(0).view(np.uint8).reshape(960, -1, 4)[:, :540, 3] == 255).all()
    unmasked = engines.shown(compiled, without).astype(int)
    assert np.abs(unmasked - colours(without.frame(0), 540)).max() <= 1
    assert without.regions(0, ["hair"]) == {}


@pytest.mark.parametrize(
    ("name", "least"), [("face skin", 0.72), ("eyes", 0.6), ("lips", 0.6), ("head", 0.85), ("hair", 0.85), ("clothes", 0.8)]
)
def test_regions_of_tracked_footage_come_near_the_exact_masks(name: str, least: float) -> None:
    """Intersection over union with the exact mask of the same frame; skin ends at the brows there."""
    camera, photo, track = stood_in()
    own = Own(Footage(photo), 540, 960, {0: track})
    drawn = own.regions(0, [name])[name][..., 0] > 127
    exact = camera.regions(0, [name])[name][..., 0] > 127
    assert (drawn & exact).sum() / (drawn | exact).sum() > least


def test_hands_of_footage_are_known_where_they_were_looked_for() -> None:
    _, photo, track = stood_in()
    hand = [[0.3 + 0.004 * n, 0.5 + 0.01 * (n % 4), 0.0] for n in range(21)]
    with_hands = Track(track.mask, track.faces, [hand])
    assert Own(Footage(photo), 540, 960, {0: track}).regions(0, ["hands"]) == {}
    mask = Own(Footage(photo), 540, 960, {0: with_hands}).regions(0, ["hands"])["hands"][..., 0]
    rows, columns = np.nonzero(mask)
    assert 0.3 * 540 - 12 < columns.min() < columns.max() < 0.384 * 540 + 12
    assert abs(rows.mean() - 0.515 * 960) < 12
    # On a square screen the middle is kept.
    square = Own(Footage(photo), 540, 540, {0: with_hands}).regions(0, ["hands"])["hands"][..., 0]
    assert np.array_equal(square, mask[210:750])


def test_a_region_is_the_polygon_of_its_ring() -> None:
    """Against OpenCV's own test of a point in a polygon."""
    _, _, track = stood_in()
    face = track.points(540, 960)[0]
    drawn = region("eyes", [face], np.zeros((960, 540), np.uint8))
    rings = [face[list(RINGS[name]), :2].astype(np.float32) for name in ("left eye", "right eye")]
    inside = outside = 0
    for row in range(400, 560):
        for column in range(150, 400):
            far = max(cv2.pointPolygonTest(ring, (column + 0.5, row + 0.5), True) for ring in rings)
            inside += far > 1 and drawn[row, column] < 250
            outside += far < -2 and drawn[row, column] > 5
    assert (inside, outside) == (0, 0)
    assert drawn.any()
