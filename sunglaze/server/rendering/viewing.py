"""One viewer inside the rendering process: its clock, what it looks at, and the frames it is owed."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any, cast

import cv2
import numpy as np

from sunglaze.core.camera.cameras import Camera, Own, Shrunk, screen_size
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.effect.compiling import Compiled, has_same_form, inputs_of_effect
from sunglaze.core.effect.document import OPACITY, Effect, moved
from sunglaze.core.effect.literals import Material
from sunglaze.core.engine.playback import Playback
from sunglaze.core.engine.running import is_quick, is_ready
from sunglaze.core.errors import BadEffect
from sunglaze.core.material.files import Bytes, encode_jpeg_bgra, encode_png
from sunglaze.core.moment.moment import RATE, Moment, Source
from sunglaze.core.review.scopes import Scope, scope
from sunglaze.core.targets.memory import Words, blank, parts_of
from sunglaze.server.rendering.messages import FRAME, SCOPE, TILES, Move, Reply, SetEffects, View

WIDTH, HEIGHT = 540, 960
TILE_SHORT = 108
GALLERY_TILE = 162, 288
AHEAD = 2
SOONEST, SOONEST_IN_GESTURE = 0.6 / RATE, 1.1 / RATE
"""Least seconds between frames."""
GESTURE_SECONDS = 0.1
QUALITY, TILE_QUALITY = 85, 80
TILE_SECONDS, TILE_SECONDS_IN_GESTURE = 0.2, 0.4
TILE_PATIENCE = 0.4
"""Seconds that tiles wait, once they are due, for a time in which they do not hold up the next frame."""
STEPS = (1.0, 2 / 3, 1 / 2, 1 / 3)
"""Sizes of the moving picture, as parts of the screen's; an effect that takes too long shows smaller, a paused one never."""
SCOPE_SECONDS = 1 / 7
SCOPE_COLUMNS = 270
OVER, UNDER = (110, 0, 255), (255, 110, 0)
"""Blue, green, red of what marks values that are cut off above and below."""
TOO_LONG, TOO_LONG_BY_STEPS, SHORT_ENOUGH, ALWAYS = 0.030, 0.020, 0.6, 0.004
"""Seconds a frame takes from which the next smaller size is taken, by machine code and by steps: beside these, machine code is
being made. The part of them at which the next larger size may be tried. Seconds that a frame takes at any size."""
HELD_SECONDS = 0.02
"""A viewer that owes answers is looked after so often: answers come by themselves, tiles and scopes may be due meanwhile."""
REST_SECONDS = 0.12
"""A paused picture that nobody has moved for so long is sent once more, losslessly."""


def bare_of(moment: Moment) -> Bytes:
    """The camera's picture (height, width, 4), red first; shares memory."""
    assert moment.picture is not None
    return parts_of(moment.picture, moment.screen.columns)


@dataclass(frozen=True)
class Shown:
    """An effect ready to run: its kernels are built."""

    effect: Effect
    compiled: Compiled
    material: Material
    own: Camera | None


@dataclass
class Pace:
    """The place of a size among STEPS, and seconds that a frame takes at it."""

    size: int = 0
    most: float = TOO_LONG
    seconds: float = 0.0

    def took(self, seconds: float) -> None:
        """Choose the size of the next moving frames by how long the last ones took."""
        self.seconds = seconds if not self.seconds else 0.8 * self.seconds + 0.2 * seconds
        to = self.size
        if self.seconds > self.most:
            to = min(to + 1, len(STEPS) - 1)
        elif to and self._expected(to - 1) < SHORT_ENOUGH * self.most:
            to -= 1
        self.seconds, self.size = self._expected(to), to

    def _expected(self, size: int) -> float:
        """What a frame of another size will take, until it was measured."""
        return ALWAYS + max(0.0, self.seconds - ALWAYS) * (STEPS[size] / STEPS[self.size]) ** 2


@dataclass
class Viewer:
    number: int
    shown: dict[str, Shown] = field(default_factory=dict)
    gallery: bool = False
    playing: bool = True
    bare: bool = False
    wipe: float = 0.0
    speed: float = 1.0
    muted: tuple[str, ...] = ()
    screen: str = "9:16"
    short: int = WIDTH
    sitting: Sitting = field(default_factory=Sitting)
    scope: str = "none"
    region: tuple[float, float, float, float] = (0.0, 0.0, 1.0, 1.0)
    clipping: bool = False
    probe: tuple[float, float] = (-1.0, -1.0)
    serial: int = 0
    look: int = 0
    moves_since: list[Move] = field(default_factory=list)
    playbacks: dict[tuple[str, bool], Playback] = field(default_factory=dict)
    unacknowledged: dict[str, int] = field(default_factory=lambda: {FRAME: 0, TILES: 0, SCOPE: 0})
    dirty: bool = True
    coarse: bool = False
    building: bool = False
    tiles_dirty: bool = True
    last_frame: int = -1
    last_size: int = 0
    last_sent: float = 0.0
    last_tiles: float = 0.0
    tiles_took: float = 0.0
    last_change: float = 0.0
    last_scope: float = 0.0
    last_picture: Bytes | None = None
    stopped: bool = False
    told: str = ""
    # Steps take longer than machine code: they have a pace of their own.
    paces: dict[bool, Pace] = field(default_factory=lambda: {False: Pace(), True: Pace(2, TOO_LONG_BY_STEPS)})
    _start: float = field(default_factory=time.monotonic)
    _paused_at: int = 0

    def number_now(self, now: float) -> int:
        """The frame that the clock stands at."""
        return int((now - self._start) * RATE * self.speed) if self.playing else self._paused_at

    def next_due(self, now: float) -> float:
        """Seconds until this viewer wants something, if it says nothing before."""
        if self.stopped or self.unacknowledged[FRAME] >= AHEAD:
            return HELD_SECONDS
        if self.dirty:
            return 0.0
        if self.playing:
            waiting = self.number_now(now) != self.last_frame
            next_tick = self._start + (self.number_now(now) + (0 if waiting else 1)) / (RATE * self.speed)
            return max(0.001, next_tick - now, self.last_sent + self._soonest(now) - now)
        return REST_SECONDS / 2

    def _soonest(self, now: float) -> float:
        return SOONEST_IN_GESTURE if self.building or now - self.last_change < GESTURE_SECONDS else SOONEST

    def set_view(self, view: View, now: float) -> None:
        if (view.playing is not None and view.playing != self.playing) or view.speed or view.frame is not None:
            at = self.number_now(now) if view.frame is None else max(0, view.frame)
            self.speed = view.speed or self.speed
            self._paused_at, self._start = at, now - at / (RATE * self.speed)
            self.playing = self.playing if view.playing is None else view.playing
        for name in ("muted", "screen", "short", "scope", "region", "clipping", "probe", "sitting", "look"):
            if getattr(view, name) is not None:
                setattr(self, name, getattr(view, name))
        self.bare = self.bare if view.bare is None else view.bare
        self.wipe = self.wipe if view.wipe is None else min(1.0, max(0.0, view.wipe))
        self.touch(now)

    def stop(self) -> None:
        """Draw nothing more until something changes: what is shown cannot be drawn."""
        self.stopped = True

    def touch(self, now: float) -> None:
        self.stopped = False
        self.dirty = self.tiles_dirty = True
        self.last_change = now

    def show(self, shown: dict[str, Shown], request: SetEffects, now: float) -> None:
        """Swap in what was built. Moves that came while it was being built are made once more."""
        self.shown, self.gallery = shown, request.gallery
        self.playbacks = {place: playback for place, playback in self.playbacks.items() if place[0] in shown}
        self.serial = max(self.serial, request.serial)
        moves, self.moves_since = self.moves_since, []
        for move in moves:
            self.move(move, now)
        self.moves_since.clear()
        self.touch(now)

    def move(self, move: Move, now: float) -> None:
        """Turn a control without building anything. Moves of what is not there (any more) are passed over."""
        self.moves_since = [m for m in self.moves_since if m.at != move.at] + [move]
        for key, shown in self.shown.items():
            try:
                effect = moved(shown.effect, move.at, move.value)
            except BadEffect:
                continue
            if not has_same_form(shown.effect, effect):
                continue  # what changes the program's form comes as an effect of its own
            compiled = replace(shown.compiled, inputs=inputs_of_effect(effect, shown.material))
            self.shown[key] = replace(shown, effect=effect, compiled=compiled)
        self.serial = move.serial
        self.touch(now)

    def produce(self, now: float, send: Callable[[Reply], None]) -> None:
        """Send what is due and wanted: the frame first, then the tiles."""
        if self.stopped:
            return
        entered = time.perf_counter()
        number = self.number_now(now)
        # A frame rendered for a move a moment ago stands for this tick, too; otherwise moves would double the rate.
        fresh = number != self.last_frame and now - self.last_sent > self._soonest(now)
        if self.shown and not self.gallery and self.unacknowledged[FRAME] < AHEAD:
            resting = not self.playing and now - self.last_change > REST_SECONDS
            if self.dirty or fresh or (self.coarse and resting):
                self.last_sent = now
                self._send_frame(number, lossless=resting, send=send)
                now += time.perf_counter() - entered
        due = self.scope != "none" and now - self.last_scope > SCOPE_SECONDS
        if due and self.last_picture is not None and not self.unacknowledged[SCOPE]:
            self.last_scope = now
            self._send_scope(send)
        ready = self.gallery or all(is_ready(shown.compiled.program, "bytes") for shown in self.shown.values())
        if self.shown and self._tiles_due(now) and ready and not self.building and not self.unacknowledged[TILES]:
            began = time.perf_counter()
            self._send_tiles(number, send)
            self.last_tiles, self.tiles_took = now, time.perf_counter() - began

    def _tiles_due(self, now: float) -> bool:
        seldom = TILE_SECONDS_IN_GESTURE if now - self.last_change < GESTURE_SECONDS else TILE_SECONDS
        if now - self.last_tiles <= seldom or not (self.tiles_dirty or self.playing):
            return False
        if self.gallery or not self.playing or now - self.last_tiles > seldom + TILE_PATIENCE:
            return True
        next_tick = self._start + (self.number_now(now) + 1) / (RATE * self.speed)
        return now + self.tiles_took < next_tick

    def _send_frame(self, number: int, lossless: bool, send: Callable[[Reply], None]) -> None:
        key, shown = next(iter(self.shown.items()))
        began = time.perf_counter()
        quick = not self.bare and is_quick(shown.compiled.program.final, "bytes")
        whole = screen_size(self.screen, self.short)
        step = STEPS[0 if lossless else self._size(quick)]
        width, height = round(whole[0] * step), round(whole[1] * step)
        source = Shrunk(self._camera(shown, whole), width, height)
        moment = source.moment(number, shown.compiled.program.final.reads)
        seen = time.perf_counter()
        picture = self._picture(key, shown, source, moment)
        rendered = time.perf_counter()
        if not lossless and not self.building:
            # Of the effect alone: a camera's frame is made whole at any size, and kept once it was made.
            self.paces[quick].took(rendered - seen)
        pixels = parts_of(picture, width)
        probed = self._probed(pixels, bare_of(moment))
        if self.scope != "none":
            self.last_picture = pixels[:, :, 2::-1].copy()
        if self.clipping:
            pixels[..., :3][(pixels[..., :3] == 0).all(axis=2)] = UNDER
            pixels[..., :3][(pixels[..., :3] == 255).any(axis=2)] = OVER
        if lossless:
            payload = encode_png(np.ascontiguousarray(pixels[:, :, 2::-1]), 1)
        else:
            payload = encode_jpeg_bgra(pixels, QUALITY, full_chroma=False)
        self.dirty, self.coarse, self.last_frame = False, not lossless, number
        self.unacknowledged[FRAME] += 1
        header = {
            "type": FRAME,
            "frame": number,
            "serial": self.serial,
            "look": self.look,
            "lossless": lossless,
            "playing": self.playing,
            "width": width,
            "height": height,
            "full": lossless or step == STEPS[0],
            "render_ms": round((rendered - began) * 1000, 2),
            **probed,
            "encode_ms": round((time.perf_counter() - rendered) * 1000, 2),
        }
        send(Reply(self.number, header, payload))
        words = shown.own.words if isinstance(shown.own, Own) else ""
        if words != self.told:
            self.told = words
            send(Reply(self.number, {"type": "note", "message": words}))

    def _size(self, quick: bool) -> int:
        """The place among STEPS of the moving picture's size: the smallest while an edit is being built, which so has the
        processor. It grows by one step a frame, since a frame that takes much longer than the one before comes late."""
        wanted = len(STEPS) - 1 if self.building else self.paces[quick].size
        self.last_size = max(wanted, self.last_size - 1)
        return self.last_size

    def playback(self, key: str, small: bool) -> Playback:
        """The memory of an effect from frame to frame, large or as tiles."""
        return self.playbacks.setdefault((key, small), Playback())

    def _probed(self, pixels: Bytes, bare: Bytes) -> dict[str, Any]:
        """The probed place's colour before and after, red first, 0 to 255."""
        u, v = self.probe
        if not (0 <= u < 1 and 0 <= v < 1):
            return {}
        row, column = int(v * bare.shape[0]), int(u * bare.shape[1])
        return {"probe": {"before": bare[row, column, :3].tolist(), "after": pixels[row, column, 2::-1].tolist()}}

    def _send_scope(self, send: Callable[[Reply], None]) -> None:
        assert self.last_picture is not None
        rows, columns = self.last_picture.shape[:2]
        left, top, right, bottom = self.region
        part = self.last_picture[
            int(top * rows) : max(int(top * rows) + 1, int(bottom * rows)),
            int(left * columns) : max(int(left * columns) + 1, int(right * columns)),
        ]
        every = max(1, part.shape[1] // SCOPE_COLUMNS)
        drawn = scope(cast(Scope, self.scope), part[::every, ::every])
        self.unacknowledged[SCOPE] += 1
        header = {"type": SCOPE, "scope": self.scope, "width": drawn.shape[1], "height": drawn.shape[0]}
        send(Reply(self.number, header, encode_png(drawn, 1)))

    def _seen(self, compiled: Compiled) -> Compiled:
        """The effect without the layers that are left out while looking."""
        if not self.muted:
            return compiled
        off = {f"{layer}.{OPACITY.name}": 0.0 for layer in self.muted}
        return replace(compiled, inputs=replace(compiled.inputs, uniforms={**compiled.inputs.uniforms, **off}))

    def _camera(self, shown: Shown, size: tuple[int, int]) -> Camera:
        """The camera of what is shown, for a screen; the stand-in with who sits before it for this viewer."""
        return shown.own.sized(*size) if shown.own else StandIn(*size, self.sitting)

    def _picture(self, key: str, shown: Shown, source: Source, moment: Moment) -> Words:
        bare = bare_of(moment)
        if self.bare:
            out = blank(*bare.shape[:2])
            parts_of(out, bare.shape[1])[...] = bare[:, :, [2, 1, 0, 3]]
            return out
        program, inputs = shown.compiled.program.final, self._seen(shown.compiled).inputs
        picture = self.playback(key, False).at(program, inputs, source, moment)
        border = round(self.wipe * bare.shape[1])
        if border:
            parts_of(picture, bare.shape[1])[:, :border, :3] = bare[:, :border, 2::-1]
        return picture

    def _send_tiles(self, number: int, send: Callable[[Reply], None]) -> None:
        whole = (WIDTH, HEIGHT) if self.gallery else screen_size(self.screen, self.short)
        size = GALLERY_TILE if self.gallery else screen_size(self.screen, TILE_SHORT)
        tiles: list[Bytes] = []
        ids: list[str] = []
        for key, shown in self.shown.items():
            source = Shrunk(self._camera(shown, whole), *size)
            program, inputs = shown.compiled.program, shown.compiled.inputs
            if self.gallery:
                moment = source.moment(number, program.final.reads)
                tiles.append(parts_of(self.playback(key, True).at(program.final, inputs, source, moment), size[0]))
                ids.append(key)
            else:
                cells = self.playback(key, False).state.cells
                pictures = self.playback(key, True).stages_at(program, inputs, source.moment(number, program.reads), cells)
                tiles += [parts_of(picture, size[0]) for picture in pictures]
                ids += ["camera", *(layer.id for layer in shown.effect.layers)]
        payload = encode_jpeg_bgra(np.ascontiguousarray(cv2.vconcat(tiles)), TILE_QUALITY)
        self.tiles_dirty = False
        self.unacknowledged[TILES] += 1
        header = {"type": TILES, "ids": ids, "width": size[0], "height": size[1]}
        send(Reply(self.number, header, payload))
