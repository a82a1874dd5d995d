"""The rendering process: takes requests from a pipe, sends frames. A crash or hang here costs a second, and no edit.

One thread renders; a second one reads files and builds kernels, so that a running stream never waits for either. A third takes
requests as they come, so that an edit is not built later for a frame that is being rendered; a fourth waits for the process that
makes machine code.
"""

from __future__ import annotations

import contextlib
import gc
import os
import queue
import signal
import sys
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from multiprocessing.connection import Connection
from typing import Any

from numpy.typing import NDArray

from sunglaze.core.camera.cameras import Camera, Own, screen_size
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.camera.footage import Footage
from sunglaze.core.camera.kept import KEPT_BYTES
from sunglaze.core.camera.tracks import Track
from sunglaze.core.colour.lut import Lut
from sunglaze.core.colour.open_lut import open_lut
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.literals import LookupRef, Material
from sunglaze.core.effect.recipe import BadRecipe
from sunglaze.core.errors import GlazeError
from sunglaze.core.picture.files import eight_bits, read_picture
from sunglaze.core.render.frames import prepare, prepare_stages, unoptimised
from sunglaze.core.render.kernel import put_optimised, text_to_optimise
from sunglaze.core.render.stepping import machine
from sunglaze.server.rendering.messages import FRAME, Acknowledge, Files, Leave, Move, Ping, Reply, SetEffects, View
from sunglaze.server.rendering.optimising import NICE, Optimiser
from sunglaze.server.rendering.viewing import HEIGHT, WIDTH, Shown, Viewer

LONGEST_SLEEP = 0.05
REST_BEFORE_OPTIMISING = 0.25
TURN_SECONDS, LONGEST_TURN_OUT = 0.005, 0.1
"""What has time takes turns with the frames of a playing picture: so much at a time, then the next frame."""
SWITCH_INTERVAL = 0.0002


@dataclass(frozen=True)
class Built:
    """What the building thread has made of a request, and what it tells the browser where that went wrong."""

    request: SetEffects
    shown: dict[str, Shown]
    trouble: Reply | None


Waiting = SetEffects | View | Move | Acknowledge | Leave | Ping | Built


class Worker:
    """State of the process: viewers, and files as they were given."""

    def __init__(self, pipe: Connection) -> None:
        self.pipe = pipe
        self.viewers: dict[int, Viewer] = {}
        self.lookups: dict[LookupRef, bytes] = {}
        self.luts: dict[LookupRef, Lut] = {}
        self.pictures: dict[str, bytes] = {}
        self.decoded: dict[str, NDArray[Any]] = {}
        self.tracks: dict[str, dict[int, Track]] = {}
        self.own: dict[str, Own] = {}
        self.waiting: queue.SimpleQueue[Waiting | None] = queue.SimpleQueue()
        self.edited = threading.Event()
        self.sat = threading.Event()
        self.sent = threading.Event()
        self.builder = ThreadPoolExecutor(1, thread_name_prefix="build")
        self.optimising = ThreadPoolExecutor(1, thread_name_prefix="optimise")
        self.optimiser = Optimiser()
        self.swapped: list[Built] = []
        self.latest: dict[int, SetEffects] = {}
        self.newest: dict[int, SetEffects] = {}

    def run(self) -> None:
        """Serve until the pipe closes, which it does when the server ends in whatever way."""
        threading.Thread(target=self._decode_ahead, daemon=True).start()
        threading.Thread(target=self._listen, daemon=True, name="listen").start()
        # Compiled before the first edit needs it.
        self.builder.submit(machine)
        with contextlib.suppress(BrokenPipeError, ConnectionResetError):
            while True:
                now = time.monotonic()
                wait = min([LONGEST_SLEEP, *(viewer.next_due(now) for viewer in self.viewers.values())])
                # What else has come belongs to the same frame: moves are coalesced here.
                for request in self._come(wait):
                    if request is None:
                        return
                    self._take(request)
                for viewer in list(self.viewers.values()):
                    viewer.produce(time.monotonic(), self._send)
                for built in [one for one in self.swapped if not self._is_awaited(one)]:
                    self.swapped.remove(built)
                    self.builder.submit(self._finish, built.request, built.shown)

    def _send(self, reply: Reply) -> None:
        self.pipe.send(reply)
        if reply.header["type"] == FRAME:
            self.sent.set()

    def _listen(self) -> None:
        """On a thread of its own: what comes through the pipe. Building begins at once."""
        with contextlib.suppress(EOFError, OSError):
            while True:
                request = self.pipe.recv()
                if isinstance(request, Files):
                    self._keep(request)  # an effect that needs them may be next
                else:
                    self.waiting.put(request)
                if isinstance(request, SetEffects):
                    self.latest[request.viewer] = self.newest[request.viewer] = request
                    self.edited.set()
                    self.builder.submit(self._build, request)
        self.waiting.put(None)

    def _come(self, wait: float) -> Iterator[Waiting | None]:
        """What waits, or the first that comes within some seconds."""
        with contextlib.suppress(queue.Empty):
            yield self.waiting.get(timeout=wait) if wait > 0 else self.waiting.get_nowait()
            while True:
                yield self.waiting.get_nowait()

    def _decode_ahead(self) -> None:
        """Make the frames of what sits before the cameras before they are due; once made they are kept. Frames and builds that
        are due now come first: on Linux a thread has a priority of its own."""
        if sys.platform == "linux":
            os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), NICE)
        while True:
            wanted = {(viewer.sitting, screen_size(viewer.screen, viewer.short)) for viewer in list(self.viewers.values())}
            for sitting, size in wanted or {(Sitting(), (WIDTH, HEIGHT))}:
                camera = StandIn(*size, sitting)
                if camera.length * 4 * size[0] * size[1] < KEPT_BYTES * 0.9:
                    for number in range(camera.length):
                        if self.sat.is_set():
                            break  # who sits there now comes first
                        camera.frame(number)
                        time.sleep(0.004)
            self.sat.wait()
            self.sat.clear()

    def _keep(self, files: Files) -> None:
        self.lookups |= files.lookups
        self.pictures |= files.pictures
        self.tracks |= files.tracks
        for key in files.tracks:
            self.own.pop(key, None)

    def _take(self, request: Waiting) -> None:
        now = time.monotonic()
        if isinstance(request, Ping):
            self.pipe.send(Reply(0, {"type": "pong"}))
        elif isinstance(request, Built):
            self._swap(request)
        elif isinstance(request, SetEffects):
            viewer = self.viewers.setdefault(request.viewer, Viewer(request.viewer))
            viewer.moves_since.clear()
            viewer.building = request.viewer in self.latest
        elif isinstance(request, Leave):
            self.viewers.pop(request.viewer, None)
            self.newest.pop(request.viewer, None)
        elif isinstance(request, View):
            # How to look may be said before what to look at.
            self.viewers.setdefault(request.viewer, Viewer(request.viewer)).set_view(request, now)
            if request.sitting or request.screen or request.short:
                self.sat.set()
        elif request.viewer in self.viewers:
            viewer = self.viewers[request.viewer]
            if isinstance(request, Move):
                viewer.move(request, now)
            elif isinstance(request, Acknowledge):
                viewer.unacknowledged[request.kind] = max(0, viewer.unacknowledged[request.kind] - 1)

    def _build(self, request: SetEffects) -> None:
        """On the building thread. An effect that cannot be built is reported; the others are shown."""
        self.edited.clear()
        if self.latest.get(request.viewer) is not request:
            return
        shown: dict[str, Shown] = {}
        trouble: Reply | None = None
        for key, effect in request.effects.items():
            try:
                shown[key] = self._shown(effect)
            except GlazeError as error:
                trouble = Reply(request.viewer, {**_trouble(error), "effect": key, "serial": request.serial})
        self.waiting.put(Built(request, shown, trouble))

    def _finish(self, request: SetEffects, shown: dict[str, Shown]) -> None:
        """Also on the building thread, when the first picture is on its way: what the tiles need, then optimising elsewhere."""
        soonest = time.monotonic() + REST_BEFORE_OPTIMISING
        turn = 0.0
        for one in shown.values():
            for _ in () if request.gallery else prepare_stages(one.compiled):
                if time.monotonic() - turn > TURN_SECONDS:
                    self._wait_for_frame(request.viewer)
                    turn = time.monotonic()
                if not self._is_newest(request):
                    return
                if self.edited.is_set():
                    self.builder.submit(self._finish, request, shown)
                    return
        self.optimising.submit(self._optimise, request, shown, soonest)

    def _wait_for_frame(self, number: int) -> None:
        """Until the next frame is sent, if the picture of a viewer plays."""
        viewer = self.viewers.get(number)
        if viewer is not None and viewer.playing and not viewer.gallery:
            self.sent.clear()
            self.sent.wait(LONGEST_TURN_OUT)

    def _optimise(self, request: SetEffects, shown: dict[str, Shown], soonest: float) -> None:
        """On a thread that mostly waits for the process that optimises. It rests first: most edits are not the last of a row."""
        if self._is_newest(request):
            time.sleep(max(0.0, soonest - time.monotonic()))
        for one in shown.values():
            for part in unoptimised(one.compiled):
                self._wait_for_frame(request.viewer)
                if not self._is_newest(request):
                    return
                code = self.optimiser.code(text_to_optimise(part, "bytes"))
                if code is not None:
                    put_optimised(part, "bytes", code)

    def _is_newest(self, request: SetEffects) -> bool:
        return self.newest.get(request.viewer) is request

    def _shown(self, effect: Effect) -> Shown:
        material = Material(
            {ref: self._lut(ref) for ref in effect.lookups()}, {key: self._picture(key) for key in effect.pictures()}
        )
        compiled = compile_effect(effect, material)
        prepare(compiled, quick=True)
        return Shown(effect, compiled, material, self._own(effect))

    def _picture(self, key: str) -> NDArray[Any]:
        if key not in self.decoded:
            if key not in self.pictures:
                raise GlazeError(f"the picture {key[:12]} is not among the files")
            self.decoded[key] = eight_bits(read_picture(self.pictures[key]))
        return self.decoded[key]

    def _lut(self, ref: LookupRef) -> Lut:
        if ref not in self.luts:
            if ref not in self.lookups:
                raise GlazeError(f"the lookup {ref.asset[:12]} is not among the files")
            self.luts[ref] = open_lut(self.lookups[ref], ref.layout).lut
        return self.luts[ref]

    def _own(self, effect: Effect) -> Camera | None:
        """The artist's own material in the camera's place, if there is some."""
        key = effect.still
        if key is None:
            return None
        if key not in self.own:
            if key not in self.pictures:
                raise GlazeError(f"the picture or clip {key[:12]} is not among the files")
            self.own[key] = Own(Footage(self.pictures[key]), WIDTH, HEIGHT, self.tracks.get(key))
        return self.own[key]

    def _swap(self, built: Built) -> None:
        """Put what was built in its place; the last good picture has run until here."""
        request = built.request
        viewer = self.viewers.get(request.viewer)
        if self.latest.get(request.viewer) is request:
            del self.latest[request.viewer]
        if viewer is None:
            return
        viewer.building = request.viewer in self.latest
        self.pipe.send(built.trouble or Reply(request.viewer, {"type": "built"}))
        if built.shown or not request.effects:
            viewer.show(built.shown, request, time.monotonic())
        # A viewer that does not answer holds the newest alone.
        self.swapped = [one for one in self.swapped if one.request.viewer != request.viewer] + [built]

    def _is_awaited(self, built: Built) -> bool:
        """Whether what was built waits for its first picture."""
        viewer = self.viewers.get(built.request.viewer)
        return viewer is not None and viewer.dirty and bool(viewer.shown) and not viewer.gallery


def _trouble(error: GlazeError) -> dict[str, Any]:
    """What the browser is told: the words, the layer, and the faults of a recipe node by node."""
    faults = [fault.model_dump() for fault in error.faults] if isinstance(error, BadRecipe) else []
    return {"type": "trouble", "layer": getattr(error, "layer", None), "message": str(error), "faults": faults}


def main(pipe: Connection) -> None:
    """Entry of the process. Ctrl+C is the server's business; this one ends with its pipe."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    # The rendering thread gives up the lock around every pass; behind a building thread it would wait 5 ms to get it back.
    sys.setswitchinterval(SWITCH_INTERVAL)
    # What was imported stays; without this the collector walks through all of it in the middle of frames and builds.
    gc.freeze()
    gc.set_threshold(50_000, 20, 50)
    Worker(pipe).run()
