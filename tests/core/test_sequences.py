"""Sequences: read from numbered files, zips and animated pictures, cut out of clips, found on sheets, played in any order.

GIFs against FFmpeg's decoder (through PyAV), APNGs against the specification, turns and flips of clips against FFmpeg."""

from __future__ import annotations

import io
import json
import struct
import zipfile
import zlib
from itertools import pairwise

import av
import numpy as np
import pytest
from PIL import Image

from sunglaze.core.camera.cast import StandIn
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.engine import running
from sunglaze.core.errors import BadEffect, BadFile
from sunglaze.core.language.expression import constant
from sunglaze.core.material.cutting import WHOLE, Cut, black_to_clear, cut_clip, cut_pictures, planned
from sunglaze.core.material.files import encode_png, encode_webp, material_pixels
from sunglaze.core.material.footage import Footage
from sunglaze.core.material.reels import made, read_animated, read_numbered, read_zip, write_sequence
from sunglaze.core.material.sequence import Sequence
from sunglaze.core.material.sheets import cells_of, count_cells
from sunglaze.core.moment.moment import Moment
from sunglaze.core.nodes.playing import ORDERS, frame_of
from sunglaze.core.package.archive import read_package, write_package
from sunglaze.core.passes.signals import SignalProgram
from sunglaze.core.targets import numpy as numpy_target
from tests.engines import shown
from tests.footage import clip

SIZE = (48, 32)


def plain(code: int, size: tuple[int, int] = SIZE) -> np.ndarray:
    return np.full((size[1], size[0], 4), (code, 255 - code, 40, 255), np.uint8)


def row(count: int) -> list[np.ndarray]:
    return [plain(10 * n) for n in range(count)]


def of(count: int, rate: float = 10.0, holds: tuple[int, ...] = ()) -> Sequence:
    return made([encode_png(one) for one in row(count)], rate, holds)


# ---- orders of playing ----
def turns(order: str, count: int, over: range, seed: int = 0) -> list[int]:
    numbers = []
    for turn in over:
        program = SignalProgram((frame_of(constant(turn, "int"), constant(count, "int"), order),))
        numbers.append(int(program.run(Moment.of(np.zeros((2, 2, 3), np.float32)), {}, {}, seed)[0]))
    return numbers


@pytest.mark.parametrize(
    ("order", "want"),
    [
        ("loop", [2, 3, 0, 1, 2, 3, 0, 1]),
        ("backward", [1, 0, 3, 2, 1, 0, 3, 2]),
        ("back and forth", [2, 1, 0, 1, 2, 3, 2, 1]),
        ("once", [0, 0, 0, 1, 2, 3, 3, 3]),
    ],
)
def test_orders(order: str, want: list[int]) -> None:
    assert turns(order, 4, range(-2, 6)) == want


@pytest.mark.parametrize("count", [1, 2, 3, 5, 12])
def test_shuffled_shows_all_and_none_twice_in_a_row(count: int) -> None:
    seen = turns("shuffled", count, range(-4, 400), seed=7)
    assert set(seen) == set(range(count))
    if count > 1:
        assert all(one != other for one, other in pairwise(seen))
    if count > 2:
        assert seen != turns("shuffled", count, range(-4, 400), seed=8)
        share = [seen.count(n) / len(seen) * count for n in range(count)]
        assert min(share) > 0.5
        assert max(share) < 1.6


def test_times_are_kept_by_ticks() -> None:
    one = of(3, 100.0, (5, 1, 12))
    assert (one.ticks, one.seconds) == (18, 0.18)
    assert [one.number_at(tick) for tick in (-1, 0, 4, 5, 6, 17, 18, 99)] == [0, 0, 0, 1, 2, 2, 2, 2]
    assert [one.each.number_at(tick) for tick in range(4)] == [0, 1, 2, 2]


# ---- reading ----
def test_numbered_files_go_by_number_and_what_is_odd_is_named() -> None:
    files = [(f"dust_{n}.png", encode_png(plain(n))) for n in (10, 9, 2, 1, 4)]
    files += [("notes.txt", b"hello"), ("dust_5.png", encode_png(plain(5, (20, 20)))), ("poster.png", encode_png(plain(1)))]
    reel = read_numbered(files, 12.0)
    codes = [int(material_pixels(one)[0, 0, 0]) for one in reel.sequence.files]
    assert codes == [1, 2, 4, 9, 10]
    said = " / ".join(reel.notes)
    assert "3, 5, 6, 7, 8 are missing" in said
    assert all(name in said for name in ("notes.txt", "dust_5.png (20 by 20)", "poster.png"))


def test_a_sequence_file_comes_back_to_the_byte() -> None:
    one = made([encode_webp(plain(n), None) for n in range(4)], 1000 / 30, (3, 1, 1, 7))
    again = read_zip(write_sequence(one))
    assert again.sequence == one
    assert again.size == SIZE
    assert not again.notes
    assert write_sequence(one) == write_sequence(again.sequence)


def packed(files: dict[str, bytes], **how: int) -> bytes:
    room = io.BytesIO()
    with zipfile.ZipFile(room, "w", **how) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return room.getvalue()


def animated(form: str, pictures: list[np.ndarray], times: list[int], **how: object) -> bytes:
    room = io.BytesIO()
    first, *rest = (Image.fromarray(one) for one in pictures)
    first.save(room, form, save_all=True, append_images=rest, duration=times, loop=0, **how)
    return room.getvalue()


def dots(count: int) -> list[np.ndarray]:
    """A clear picture with a square that walks and changes its colour: later pictures differ in parts."""
    found = []
    for n in range(count):
        one = np.zeros((40, 60, 4), np.uint8)
        one[8 + 3 * n : 20 + 3 * n, 5 * n : 5 * n + 14] = (250 - 40 * n, 30 + 40 * n, 90, 255)
        one[30:36] = (20, 90, 200, 255)
        found.append(one)
    return found


def by_ffmpeg(data: bytes, form: str) -> list[np.ndarray]:
    with av.open(io.BytesIO(data), format=form) as container:
        return [frame.to_ndarray(format="rgba") for frame in container.decode(video=0)]


@pytest.mark.parametrize("disposal", [0, 1, 2, 3])
def test_gifs_are_what_ffmpeg_decodes(disposal: int) -> None:
    """The four ways in which a GIF leaves a picture behind (GIF89a, 23: disposal method)."""
    data = animated("GIF", dots(4), [100, 40, 250, 100], disposal=disposal)
    reel = read_animated(data)
    theirs = by_ffmpeg(data, "gif")
    ours = [material_pixels(one) for one in reel.sequence.files]
    assert len(ours) == len(theirs) == 4
    for one, other in zip(ours, theirs, strict=True):
        np.testing.assert_array_equal(one[..., 3] > 127, other[..., 3] > 127)
        opaque = one[..., 3] > 127
        np.testing.assert_array_equal(one[opaque], other[opaque])
    assert (reel.sequence.rate, reel.sequence.holds) == (100.0, (10, 4, 25, 10))


def test_a_gif_of_partial_pictures_with_palettes_of_their_own() -> None:
    """Pictures that cover a part of the whole, each with other colours; FFmpeg is the second opinion."""
    rng = np.random.default_rng(4)
    base = rng.integers(0, 255, (40, 60, 3)).astype(np.uint8)
    pictures = [base.copy() for _ in range(4)]
    for n, one in enumerate(pictures[1:], 1):
        one[4 * n : 4 * n + 12, 6 * n : 6 * n + 20] = rng.integers(0, 255, (12, 20, 3))
    data = animated("GIF", [np.dstack([p, np.full(p.shape[:2], 255, np.uint8)]) for p in pictures], [80] * 4)
    reel, theirs = read_animated(data), by_ffmpeg(data, "gif")
    for one, other in zip(reel.sequence.files, theirs, strict=True):
        np.testing.assert_array_equal(material_pixels(one)[..., :3], other[..., :3])
    assert reel.sequence.holds == ()
    assert reel.sequence.rate == 12.5


def by_the_specification(data: bytes) -> list[np.ndarray]:
    """The pictures of an APNG put together here, chunk by chunk: what each leaves behind, and how the next is laid on (PNG
    specification, third edition, 11.3.6.2 and 4.9)."""
    chunks, at = [], 8
    while at < len(data):
        length, name = struct.unpack(">I4s", data[at : at + 8])
        chunks.append((name, data[at + 8 : at + 8 + length]))
        at += 12 + length
    head = dict(chunks)[b"IHDR"]
    width, height = struct.unpack(">II", head[:8])
    frames: list[tuple[tuple[int, ...], bytes]] = []
    for name, body in chunks:
        if name == b"fcTL":
            frames.append((struct.unpack(">5I2H2B", body), b""))
        elif name in (b"IDAT", b"fdAT") and frames:
            frames[-1] = (frames[-1][0], frames[-1][1] + (body[4:] if name == b"fdAT" else body))
    canvas, found = np.zeros((height, width, 4)), []
    for n, ((_, wide, high, left, top, _, _, disposal, blend), packed_rows) in enumerate(frames):
        parts = [(b"IHDR", struct.pack(">II", wide, high) + head[8:]), (b"IDAT", packed_rows), (b"IEND", b"")]
        png = b"\x89PNG\r\n\x1a\n" + b"".join(
            struct.pack(">I", len(b)) + t + b + struct.pack(">I", zlib.crc32(t + b)) for t, b in parts
        )
        picture = np.asarray(Image.open(io.BytesIO(png)).convert("RGBA"), float)
        place = slice(top, top + high), slice(left, left + wide)
        before, below = canvas.copy(), canvas[place]
        if blend:
            a, under = picture[..., 3:] / 255, below[..., 3:] / 255
            alpha = a + under * (1 - a)
            colour = (picture[..., :3] * a + below[..., :3] * under * (1 - a)) / np.maximum(alpha, 1e-9)
            picture = np.concatenate([colour, alpha * 255], axis=2)
        canvas[place] = picture
        found.append(np.rint(canvas).astype(np.uint8))
        if disposal == 1 or (disposal == 2 and n == 0):
            canvas[place] = 0
        elif disposal == 2:
            canvas = before
    return found


@pytest.mark.parametrize(("disposal", "blend"), [(0, 0), (0, 1), (1, 0), (1, 1), (2, 0), (2, 1)])
def test_apngs_are_what_the_specification_says(disposal: int, blend: int) -> None:
    data = animated("PNG", dots(4), [100, 50, 100, 30], disposal=disposal, blend=blend)
    reel = read_animated(data)
    ours = [material_pixels(one) for one in reel.sequence.files]
    theirs = by_the_specification(data)
    assert len(ours) == len(theirs) == 4
    for one, other in zip(ours, theirs, strict=True):
        visible = one[..., 3] > 0
        np.testing.assert_array_equal(visible, other[..., 3] > 0)
        assert np.abs(one[visible].astype(int) - other[visible].astype(int)).max() <= 1
    assert reel.sequence.rate == 100.0
    assert reel.sequence.holds == (10, 5, 10, 3)


def test_a_webp_that_moves_is_read_with_its_times() -> None:
    reel = read_animated(animated("WEBP", dots(3), [33, 66, 33], lossless=True))
    assert reel.sequence.holds == (1, 2, 1)
    assert abs(reel.sequence.rate - 1000 / 33) < 1e-9
    for one, want in zip(reel.sequence.files, dots(3), strict=True):
        got = material_pixels(one)
        np.testing.assert_array_equal(got[want[..., 3] > 0], want[want[..., 3] > 0])


def test_a_damaged_gif_is_told() -> None:
    data = animated("GIF", dots(4), [100] * 4)
    with pytest.raises(BadFile):
        read_animated(data[: len(data) // 3])


# ---- cutting ----
def walking(count: int = 12) -> list[np.ndarray]:
    """Pictures whose corners differ, so that turns and flips show."""
    found = []
    for n in range(count):
        one = np.zeros((64, 96, 3), np.uint8)
        one[:32, :48], one[:32, 48:], one[32:, :48], one[32:, 48:] = (
            (220, 40, 40),
            (40, 200, 40),
            (40, 40, 220),
            (10 * n, 200, 200),
        )
        found.append(one)
    return found


FILTERS = {(0, "none"): "null", (90, "none"): "transpose=clock", (180, "none"): "hflip,vflip", (270, "none"): "transpose=cclock"}
FILTERS |= {
    (0, "across"): "hflip",
    (0, "down"): "vflip",
    (90, "across"): "transpose=clock,hflip",
    (270, "down"): "transpose=cclock,vflip",
}


@pytest.mark.parametrize(("turn", "flip"), list(FILTERS))
def test_turns_and_flips_are_ffmpegs(turn: int, flip: str) -> None:
    from av.filter import Graph

    data = clip(walking())
    ours = next(iter(cut_pictures(Footage(data), Cut(turn=turn, flip=flip))))  # type: ignore[arg-type]
    with av.open(io.BytesIO(data)) as container:
        graph = Graph()
        last = graph.add_buffer(template=container.streams.video[0])
        for one in FILTERS[turn, flip].split(","):
            name, _, how = one.partition("=")
            step = graph.add(name, *([how] if how else []))
            last.link_to(step)
            last = step
        last.link_to(sink := graph.add("buffersink"))
        graph.configure()
        graph.push(next(container.decode(video=0)))
        theirs = graph.pull().to_ndarray(format="rgb24")
    assert sink is not None
    assert ours.shape == theirs.shape
    assert np.abs(ours.astype(int) - theirs.astype(int)).mean() < 4


def test_a_span_a_rate_and_a_size() -> None:
    pictures = [np.full((64, 96, 3), 8 * n, np.uint8) for n in range(30)]
    footage = Footage(clip(pictures))
    reel = cut_clip(footage, Cut(span=(0.2, 0.8), rate=10.0, size=(30, 40), quality=None))
    assert reel.size == (30, 40)
    assert reel.sequence.rate == 10.0
    greys = [int(np.median(material_pixels(one)[..., 0])) for one in reel.sequence.files]
    assert [round(grey / 8) for grey in greys] == [6, 9, 12, 15, 18, 21]


def test_contain_leaves_clear_bars_and_a_crop_is_cut_first() -> None:
    footage = Footage(clip(walking()))
    seen = next(iter(cut_pictures(footage, Cut(crop=(0.0, 0.0, 0.5, 0.5), size=(100, 20), fit="contain"))))
    assert seen.shape == (20, 100, 4)
    assert seen[:, :34, 3].max() == 0
    assert seen[:, 66:, 3].max() == 0
    middle = seen[:, 40:60].reshape(-1, 4)
    assert (middle[:, 3] == 255).all()
    assert np.abs(np.median(middle, axis=0)[:3] - (220, 40, 40)).max() < 14


def test_black_becomes_clear_and_lies_over_black_as_it_was() -> None:
    rng = np.random.default_rng(0)
    picture = rng.integers(0, 256, (40, 40, 3)).astype(np.uint8)
    picture[:10] = 0
    light = black_to_clear(picture)
    assert (light[:10, :, 3] == 0).all()
    over = light[..., :3].astype(float) * light[..., 3:] / 255
    assert np.abs(over - picture).max() <= 1


def test_a_soft_loop_goes_from_its_end_into_its_beginning() -> None:
    pictures = [np.full((64, 96, 3), 8 * n, np.uint8) for n in range(30)]
    footage = Footage(clip(pictures))
    cut = Cut(rate=30.0, soften=0.2, quality=None)
    assert planned(footage, cut).frames == 24
    greys = [float(np.median(one[..., 0])) for one in cut_pictures(footage, cut)]
    hard = abs(greys[-1] - 8 * 0)
    steps = np.abs(np.diff([*greys, greys[0]]))
    # From the last picture to the first it is no step such as a loop without softening has.
    assert steps[-1] < 0.25 * hard
    assert np.abs(np.array(greys[6:]) - 8 * np.arange(6, 24)).max() <= 3


@pytest.mark.parametrize(
    ("how", "words"),
    [
        ({"crop": (0.6, 0.0, 0.5, 1.0)}, "crop"),
        ({"rate": 500.0}, "pictures a second"),
        ({"size": (0, 4)}, "pixels a side"),
        ({"span": (5.0, 9.0)}, "span"),
        ({"quality": 0}, "quality"),
    ],
)
def test_what_cannot_be_cut_is_told(how: dict[str, object], words: str) -> None:
    footage = Footage(clip(walking(4)))
    with pytest.raises(BadFile, match=words):
        cut_clip(footage, Cut(**how))  # type: ignore[arg-type]


def test_progress_is_told_and_ends_the_work() -> None:
    class Enough(Exception):
        pass

    told: list[tuple[int, int]] = []

    def progress(done: int, of: int, weight: int) -> None:
        assert weight > 0
        told.append((done, of))
        if done == 3:
            raise Enough

    with pytest.raises(Enough):
        cut_clip(Footage(clip(walking())), Cut(crop=WHOLE), progress)
    assert told == [(1, 12), (2, 12), (3, 12)]


# ---- sheets ----
def sheet(columns: int, rows: int, ground: int, cut: bool = False) -> np.ndarray:
    cell = 40
    out = np.zeros((rows * cell, columns * cell, 4), np.uint8)
    out[..., 3] = ground
    rng = np.random.default_rng(columns * 100 + rows)
    y, x = np.mgrid[0:cell, 0:cell] - cell / 2
    for r in range(rows):
        for c in range(columns):
            wide = rng.uniform(6, 15)
            shape = (x / wide) ** 2 + (y / 12) ** 2 < 1
            if cut and (c, r) == (1, 0):
                shape = (x / 26) ** 2 + (y / 12) ** 2 < 1
            out[r * cell : (r + 1) * cell, c * cell : (c + 1) * cell][shape] = (250, 220, 120, 255)
    return out


@pytest.mark.parametrize("ground", [0, 255])
@pytest.mark.parametrize(("columns", "rows"), [(1, 1), (4, 4), (12, 12), (5, 3), (8, 1), (18, 18), (2, 7)])
def test_the_cells_of_a_sheet_are_counted(columns: int, rows: int, ground: int) -> None:
    found = count_cells(sheet(columns, rows, ground))
    assert (found.columns, found.rows, found.cut) == (columns, rows, ())


def test_a_photograph_is_one_cell_and_a_cell_that_is_cut_off_is_named() -> None:
    photo = np.random.default_rng(0).integers(60, 255, (120, 200, 4)).astype(np.uint8)
    assert count_cells(photo).columns == count_cells(photo).rows == 1
    found = count_cells(sheet(4, 4, 0, cut=True))
    assert (found.columns, found.rows, found.cut) == (4, 4, ((2, 1),))
    assert len(cells_of(sheet(4, 3, 0), 4, 3)) == 12


# ---- in effects ----
KEY = "ab" * 32


def playing(**how: object) -> Effect:
    plain_value = {"asset": KEY, "rate": 10.0, **how}
    values = {"picture": plain_value}
    return Effect(name="moving", layers=[Layer(id="m", name="m", kind="picture", values=values)])


def codes(effect: Effect, sequence: Sequence, frames: list[int]) -> list[int]:
    compiled = compile_effect(effect, Material(sequences={KEY: sequence}))
    found = []
    for frame in frames:
        moment = Moment.of(np.zeros((32, 48, 3), np.float32), frame)
        plainly = numpy_target.run(compiled.program.final, moment, compiled.inputs)[0]
        quickly = running.run(compiled.program.final, moment, compiled.inputs)[0]
        np.testing.assert_array_equal(plainly, quickly)
        found.append(round(float(plainly[16, 24, 0]) * 255 / 10))
    return found


def test_a_sequence_plays_wherever_a_picture_can_be() -> None:
    """Ten pictures a second at thirty frames: each for three frames."""
    sequence = of(5)
    assert codes(playing(), sequence, [0, 2, 3, 8, 14, 15, 18]) == [0, 0, 1, 2, 4, 0, 1]
    assert codes(playing(order="backward"), sequence, [0, 3, 6]) == [4, 3, 2]
    assert codes(playing(order="once"), sequence, [0, 12, 90]) == [0, 4, 4]
    assert codes(playing(shift=0.2), sequence, [0, 3]) == [2, 3]
    assert codes(playing(rate=20.0), sequence, [3, 6]) == [2, 4]
    uneven = of(3, 100.0, (10, 70, 20))
    # A rate of three pictures a second is its own speed.
    assert codes(playing(rate=3.0), uneven, [0, 2, 4, 23, 25, 29, 30]) == [0, 0, 1, 1, 2, 2, 0]


def test_turning_the_rate_builds_no_new_program() -> None:
    material = Material(sequences={KEY: of(5)})
    one, other = (compile_effect(playing(rate=rate), material) for rate in (10.0, 24.0))
    assert one.program.final.key == other.program.final.key
    assert one.inputs.uniforms["m.picture.rate"] == 10.0
    shuffled = compile_effect(playing(order="shuffled"), material)
    assert shuffled.program.final.key != one.program.final.key


@pytest.mark.parametrize(
    "wrong",
    [{"asset": "zz", "rate": 3}, {"asset": KEY}, {"asset": KEY, "rate": -1}, {"asset": KEY, "rate": 3, "order": "sideways"},
     {"asset": KEY, "rate": 3, "shift": 1e9}, {"asset": KEY, "rate": True}, {"asset": KEY, "rate": 3, "more": 1}],
)  # fmt: skip
def test_what_is_no_sequence_is_refused(wrong: dict[str, object]) -> None:
    with pytest.raises((BadEffect, ValueError), match="sequence"):
        Effect(name="x", layers=[Layer(id="m", name="m", kind="picture", values={"picture": wrong})])


def test_a_sequence_that_is_not_there_is_told() -> None:
    with pytest.raises(BadEffect, match="not there"):
        compile_effect(playing(), Material())


@pytest.mark.parametrize(
    "wrong",
    [
        {"rate": 0},
        {"rate": 1e-300},
        {"rate": float("nan")},
        {"rate": -3},
        {"holds": [1, 2]},
        {"holds": [1, 0, 1, 1]},
        {"files": []},
    ],
)
def test_a_package_whose_times_cannot_be_played_is_refused(wrong: dict[str, object]) -> None:
    whole = zipfile.ZipFile(io.BytesIO(write_package(playing(), Material(sequences={KEY: of(4)}))))
    manifest = json.loads(whole.read("manifest.json"))
    manifest["sequences"][KEY] |= wrong
    room = io.BytesIO()
    with zipfile.ZipFile(room, "w") as archive:
        for entry in whole.infolist():
            archive.writestr(entry, json.dumps(manifest) if entry.filename == "manifest.json" else whole.read(entry))
    with pytest.raises(BadFile, match="a rate of"):
        read_package(room.getvalue())


@pytest.mark.parametrize("order", ORDERS)
def test_a_package_carries_it_and_opens_again(order: str) -> None:
    material = Material(sequences={KEY: of(4, 50.0, (1, 2, 3, 4))})
    effect = playing(order=order)
    again, held = read_package(write_package(effect, material))
    assert again.sequences() == {KEY}
    assert held.sequences[KEY].files == material.sequences[KEY].files
    assert held.sequences[KEY].holds == (1, 2, 3, 4)
    camera = StandIn(90, 160)
    for frame in (0, 5, 20):
        one = shown(compile_effect(effect, material), camera, frame)
        np.testing.assert_array_equal(one, shown(compile_effect(again, held), camera, frame))
