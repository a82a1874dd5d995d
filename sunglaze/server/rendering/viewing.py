"""One viewer inside the rendering process: what it looks at, and the pictures that it is sent. Clock, pacing and aids are modules
of their own; one thread, the worker's, owns all of it."""

from __future__ import annotations

import json
import time
from collections.abc import Callable
from dataclasses import dataclass, field, replace

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
from sunglaze.core.face.held import hold
from sunglaze.core.material.files import Bytes, encode_jpeg_bgra, encode_png
from sunglaze.core.moment.moment import Moment, Source
from sunglaze.core.moment.rehearsal import Recorder, Rehearsed, write_rehearsal
from sunglaze.core.passes.program import State
from sunglaze.core.targets.memory import Words, blank, parts_of
from sunglaze.server.rendering.aids import mark_clipping, probed, scope_of
from sunglaze.server.rendering.clock import ViewClock
from sunglaze.server.rendering.driving import Driving, Scoring, hangs
from sunglaze.server.rendering.messages import FRAME, SCOPE, TILES, Done, Move, Reply, SetEffects, View
from sunglaze.server.rendering.pacing import STEPS, Pacing

WIDTH, HEIGHT = 540, 960
TILE_SHORT = 108
PRINT = 162, 288
"""Columns and rows of a moving print in the list."""
AHEAD = 2
QUALITY, TILE_QUALITY = 85, 80
SCOPE_SECONDS = 1 / 7
HELD_SECONDS = 0.02
"""A viewer that gets no frames is looked after so often, as one that owes answers: these come by themselves, tiles and scopes may
be due meanwhile."""
MUCH_LEFT_OUT = 30
"""Frames that were not stepped through, of which is told: a second."""
CATCHING_UP = 0.15
"""Seconds for which a playing picture steps through frames that it missed, as where the clock jumped."""
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
class Viewer:
    """`serial`: of the effect that is shown; `moved`: of the last move. `goes_on`: told of each frame that is stepped through to
    catch up."""

    number: int
    shown: dict[str, Shown] = field(default_factory=dict)
    small: bool = False
    clock: ViewClock = field(default_factory=ViewClock)
    pacing: Pacing = field(default_factory=Pacing)
    bare: bool = False
    wipe: float = 0.0
    muted: tuple[str, ...] = ()
    screen: str = "9:16"
    short: int = WIDTH
    sitting: Sitting = field(default_factory=Sitting)
    scope: str = "none"
    region: tuple[float, float, float, float] = (0.0, 0.0, 1.0, 1.0)
    clipping: bool = False
    probe: tuple[float, float] = (-1.0, -1.0)
    watched: str = ""
    driving: Driving = field(default_factory=Driving)
    scored: bool = False
    scoring: Scoring = field(default_factory=Scoring)
    rehearsing: bool = False
    recorder: Recorder = field(default_factory=Recorder)
    serial: int = 0
    moved: int = 0
    goes_on: Callable[[], None] = lambda: None
    look: int = 0
    moves_since: list[Move] = field(default_factory=list)
    playbacks: dict[tuple[str, bool], Playback] = field(default_factory=dict)
    unacknowledged: dict[str, int] = field(default_factory=lambda: {FRAME: 0, TILES: 0, SCOPE: 0})
    dirty: bool = True
    coarse: bool = False
    tiles_dirty: bool = True
    last_frame: int = -1
    last_scope: float = 0.0
    last_picture: Bytes | None = None
    stopped: bool = False
    told: tuple[str, tuple[str, ...]] = "", ()

    def next_due(self, now: float) -> float:
        """Seconds until this viewer wants something, if it says nothing before."""
        if self.stopped or self.small or not self.shown or self.unacknowledged[FRAME] >= AHEAD:
            return HELD_SECONDS
        if self.dirty:
            return 0.0
        if self.clock.playing:
            frame = self.clock.frame(now)
            tick = self.clock.tick(frame if frame != self.last_frame else frame + 1)
            return max(0.001, tick - now, self.pacing.last_frame + self.pacing.soonest(now) - now)
        return REST_SECONDS / 2

    def set_view(self, view: View, now: float) -> None:
        if (view.playing is not None and view.playing != self.clock.playing) or view.speed or view.frame is not None:
            self.clock.set(now, view.playing, view.speed, view.frame)
        for name in ("muted", "screen", "short", "scope", "region", "clipping", "probe", "sitting", "look", "watched",
                     "scored", "rehearsing"):  # fmt: skip
            if getattr(view, name) is not None:
                setattr(self, name, getattr(view, name))
        if view.rehearsing is not None or view.scored:
            self.scoring.anew()
        self._loop(now)
        self.bare = self.bare if view.bare is None else view.bare
        self.wipe = self.wipe if view.wipe is None else min(1.0, max(0.0, view.wipe))
        self.touch(now)

    def _loop(self, now: float) -> None:
        """The clock goes round with the effect's rehearsal, where that is played."""
        kept = next((shown.effect.rehearsal for shown in self.shown.values()), None) if self.rehearsing else None
        loop = kept.frames if kept is not None else 0
        if loop != self.clock.loop:
            self.clock.loop = loop
            self.clock.set(now, None, None, 0)

    def do(self, done: Done, now: float, send: Callable[[Reply], None]) -> None:
        """Take what a hand does; it counts from the next frame on."""
        if done.asks:
            rehearsal = self.recorder.made(self.last_frame + 1)
            send(Reply(self.number, {"type": "rehearsal", "rehearsal": json.loads(write_rehearsal(rehearsal))}))
            return
        if done.anew:
            self.recorder = Recorder()
            self.clock.set(now, True, None, 0)
            self.last_frame = -1
            self.scoring.anew()
        if done.touch is not None or done.cue is not None or done.dials:
            self.recorder.record(self.last_frame + 1, done.touch, done.cue, done.dials)
        self.touch(now)

    def _source(self, shown: Shown, whole: tuple[int, int], width: int, height: int) -> Source:
        """The camera at a size, with the effect's rehearsal before it, or what was done by hand."""
        kept = shown.effect.rehearsal if self.rehearsing else None
        return Rehearsed(Shrunk(self._camera(shown, whole), width, height), kept or self.recorder.made())

    def stop(self) -> None:
        """Draw nothing more until something changes: what is shown cannot be drawn."""
        self.stopped = True

    def touch(self, now: float) -> None:
        self.stopped = False
        self.dirty = self.tiles_dirty = True
        self.pacing.last_change = now

    def show(self, shown: dict[str, Shown], request: SetEffects, now: float) -> None:
        """Swap in what was built. Moves that came while it was being built are made once more."""
        self.shown, self.small = shown, request.small
        self.playbacks = {place: playback for place, playback in self.playbacks.items() if place[0] in self.shown}
        self.serial = max(self.serial, request.serial)
        self._loop(now)
        for move in list(self.moves_since):
            self.move(move, now)
        if not self.pacing.building:
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
        self.moved = move.serial
        self.touch(now)

    @property
    def seen(self) -> int:
        """Up to which serial all is in the picture: a move that came after an effect does not say that this is built."""
        return self.serial if self.pacing.building else max(self.serial, self.moved)

    def produce(self, now: float, send: Callable[[Reply], None]) -> None:
        """Send what is due and wanted: the frame first, then the scope, then the tiles."""
        if self.stopped:
            return
        entered = time.perf_counter()
        number, pacing = self.clock.frame(now), self.pacing
        # A frame rendered for a move a moment ago stands for this tick, too; otherwise moves would double the rate.
        fresh = number != self.last_frame and now - pacing.last_frame > pacing.soonest(now)
        if self.shown and not self.small and self.unacknowledged[FRAME] < AHEAD:
            resting = not self.clock.playing and now - pacing.last_change > REST_SECONDS
            if self.dirty or fresh or (self.coarse and resting):
                pacing.last_frame = now
                self._send_frame(number, lossless=resting, send=send)
                now += time.perf_counter() - entered
        due = self.scope != "none" and now - self.last_scope > SCOPE_SECONDS
        if due and self.last_picture is not None and not self.unacknowledged[SCOPE]:
            self.last_scope = now
            self._send_scope(send)
        tiles_due = pacing.tiles_due(now, self.clock, self.tiles_dirty, self.small)
        if not self.shown or self.unacknowledged[TILES] or not tiles_due:
            return
        ready = self.small or all(is_ready(shown.compiled.program, "bytes") for shown in self.shown.values())
        if ready and not pacing.building:
            began = time.perf_counter()
            (self._send_print if self.small else self._send_tiles)(number, send)
            pacing.last_tiles, pacing.tiles_took = now, time.perf_counter() - began

    def _send_frame(self, number: int, lossless: bool, send: Callable[[Reply], None]) -> None:
        key, shown = next(iter(self.shown.items()))
        began = time.perf_counter()
        quick = not self.bare and is_quick(shown.compiled.program.final, "bytes")
        whole = screen_size(self.screen, self.short)
        step = STEPS[0 if lossless else self.pacing.size(quick)]
        width, height = round(whole[0] * step), round(whole[1] * step)
        if number < self.last_frame and not self.rehearsing:
            self.recorder.rewind(number)
        source = self._source(shown, whole, width, height)
        moment = source.moment(number, shown.compiled.program.final.reads)
        seen = time.perf_counter()
        picture = self._picture(key, shown, source, moment)
        rendered = time.perf_counter()
        if not lossless:
            # Of the effect alone: a camera's frame is made whole at any size, and kept once it was made.
            self.pacing.took(quick, rendered - seen)
        pixels = parts_of(picture, width)
        probe = probed(self.probe, pixels, bare_of(moment))
        if self.scope != "none":
            self.last_picture = pixels[:, :, 2::-1].copy()
        if self.clipping:
            mark_clipping(pixels)
        if lossless:
            payload = encode_png(np.ascontiguousarray(pixels[:, :, 2::-1]), 1)
        else:
            payload = encode_jpeg_bgra(pixels, QUALITY, full_chroma=False)
        self.dirty, self.coarse, self.last_frame = False, not lossless, number
        self.unacknowledged[FRAME] += 1
        header = {
            "type": FRAME,
            "frame": number,
            "serial": self.seen,
            "look": self.look,
            "lossless": lossless,
            "playing": self.clock.playing,
            "width": width,
            "height": height,
            "full": lossless or step == STEPS[0],
            "render_ms": round((rendered - began) * 1000, 2),
            **probe,
            **self._driven(key, shown, moment),
            **self._scored(shown, source, number, send),
            "encode_ms": round((time.perf_counter() - rendered) * 1000, 2),
        }
        send(Reply(self.number, header, payload))
        self._note(key, shown, send)

    def _note(self, key: str, shown: Shown, send: Callable[[Reply], None]) -> None:
        """Tell what is to be known of the picture though it goes on: what is wrong with own footage, which layers look for faces
        there in vain, and that what it keeps from earlier ones is not all there."""
        told: tuple[str, tuple[str, ...]] = "", ()
        if isinstance(shown.own, Own):
            told = shown.own.words, () if shown.own.knows_faces else shown.compiled.program.of_faces
        short = shown.compiled.program.final.keeps and self.playback(key, False).left_out >= MUCH_LEFT_OUT
        if short and not told[0]:
            told = "pictures before this one were left out for want of time; what it keeps of them is missing", told[1]
        if told != self.told:
            self.told = told
            send(Reply(self.number, {"type": "note", "message": told[0], "faceless": told[1]}))

    def _scored(self, shown: Shown, source: Source, number: int, send: Callable[[Reply], None]) -> dict[str, list[float]]:
        """What the effect listens to, after it was told what that is."""
        if not self.scored:
            return {}
        told = self.scoring.told(shown.effect, shown.material.known)
        if told is not None:
            send(Reply(self.number, {"type": "score", **told}))
        return {"score": self.scoring.values(shown.compiled.inputs, source, number)}

    def _driven(self, key: str, shown: Shown, moment: Moment) -> dict[str, dict[str, float]]:
        """Where the controls of the watched layer are that something drives, and what its handles hang on."""
        layer = next((one for one in shown.effect.layers if one.id == self.watched), None)
        if layer is None or not (layer.drives or hangs(layer)):
            return {}
        state = self.playback(key, False).state
        if self.bare:
            # What is drawn elsewhere, as on a device's GPU, takes no state on here.
            state = State(dict(state.cells), faces={"": hold(None, moment, 0.0)})
        known, inputs = shown.material.known, shown.compiled.inputs
        return {"driven": self.driving.values(shown.effect, layer, known, inputs, moment, state)}

    def playback(self, key: str, small: bool) -> Playback:
        """The memory of an effect from frame to frame, large or as tiles."""
        return self.playbacks.setdefault((key, small), Playback(goes_on=self.goes_on))

    def _send_scope(self, send: Callable[[Reply], None]) -> None:
        assert self.last_picture is not None
        drawn = scope_of(self.scope, self.last_picture, self.region)
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
        # Who looks at a frame looks at it as it is; who watches does not wait for what was missed.
        most = CATCHING_UP if self.clock.playing else None
        picture = self.playback(key, False).at(program, inputs, source, moment, most)
        border = round(self.wipe * bare.shape[1])
        if border:
            parts_of(picture, bare.shape[1])[:, :border, :3] = bare[:, :border, 2::-1]
        return picture

    def _send_print(self, number: int, send: Callable[[Reply], None]) -> None:
        """What moves in the list."""
        key, shown = next(iter(self.shown.items()))
        source = self._source(shown, (WIDTH, HEIGHT), *PRINT)
        program, inputs = shown.compiled.program.final, shown.compiled.inputs
        picture = self.playback(key, True).at(program, inputs, source, source.moment(number, program.reads), CATCHING_UP)
        self._send_strip([parts_of(picture, PRINT[0])], [key], PRINT, send)

    def _send_tiles(self, number: int, send: Callable[[Reply], None]) -> None:
        """The picture after each stage of an effect."""
        whole, size = (screen_size(self.screen, short) for short in (self.short, TILE_SHORT))
        tiles: list[Bytes] = []
        ids: list[str] = []
        for key, shown in self.shown.items():
            source = self._source(shown, whole, *size)
            program, inputs = shown.compiled.program, shown.compiled.inputs
            large = self.playback(key, False).state
            pictures = self.playback(key, True).stages_at(program, inputs, source.moment(number, program.reads), large)
            tiles += [parts_of(picture, size[0]) for picture in pictures]
            ids += ["camera", *(layer.id for layer in shown.effect.layers)]
        self._send_strip(tiles, ids, size, send)

    def _send_strip(self, tiles: list[Bytes], ids: list[str], size: tuple[int, int], send: Callable[[Reply], None]) -> None:
        """Small pictures, one below the other."""
        self.tiles_dirty = False
        payload = encode_jpeg_bgra(np.ascontiguousarray(cv2.vconcat(tiles)), TILE_QUALITY)
        self.unacknowledged[TILES] += 1
        header = {"type": TILES, "ids": ids, "width": size[0], "height": size[1]}
        send(Reply(self.number, header, payload))
