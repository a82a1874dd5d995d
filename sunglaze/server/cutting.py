"""Long work on material, in processes of low priority: clips become sequences, files are weighed and made smaller; with progress,
cancelled when asked or when another draft is wanted."""

from __future__ import annotations

import os
import secrets
import shutil
import threading
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, Literal

from sqlalchemy.orm import Session, sessionmaker

from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect
from sunglaze.core.errors import BadFile, GlazeError
from sunglaze.core.material.cutting import USUAL_QUALITY, Clip, Cut, Shown, cut_clip, planned, shaped
from sunglaze.core.material.files import material_pixels
from sunglaze.core.material.footage import Footage
from sunglaze.core.material.reels import Reel, write_sequence
from sunglaze.core.material.sequence import Sequence as Moving
from sunglaze.core.material.weighing import Form, Weighed, encoded, sampled, saved, weigh
from sunglaze.core.moment.moment import Source
from sunglaze.core.moment.rehearsal import Rehearsed
from sunglaze.server import processes
from sunglaze.store import files
from sunglaze.store.database import engine_for
from sunglaze.store.effects import NotThere
from sunglaze.store.files import DRAFT, SAVED
from sunglaze.store.tracking import own_camera

_NICE = 10
DRAFT_SIDE, DRAFT_QUALITY = 480, 60
"""The longer side of a draft in pixels, and its quality."""
SAMPLES = 3
"""So many pictures of a cut are weighed for all of them."""
MOST_JOBS = 4
MOST_REMEMBERED = 32
State = Literal["running", "done", "failed", "cancelled"]


@dataclass
class Job:
    """Work on a file. `weight`: bytes so far; `asset`: its hash when it is done; `words`: why it failed,
    or what is to be said of it; `weights`: of a draft, what the whole would weigh in each form;
    `facts` go with what is kept; `file`: a clip that was written, which goes when the work is forgotten."""

    id: str
    draft: bool
    done: int = 0
    of: int = 0
    weight: int = 0
    state: State = "running"
    asset: str | None = None
    words: str = ""
    weights: tuple[Weighed, ...] = ()
    facts: files.Facts = field(default_factory=dict)
    file: Path | None = None


def drafted(cut: Cut, shape: tuple[int, int]) -> Cut:
    """A cut made small, to be looked at soon. `shape`: columns and rows of the clip."""
    size = cut.size or (shape if cut.turn in (0, 180) else shape[::-1])
    scale = min(1.0, DRAFT_SIDE / max(size))
    return replace(cut, size=(max(1, round(size[0] * scale)), max(1, round(size[1] * scale))), quality=DRAFT_QUALITY)


def weighed(clip: Clip, cut: Cut) -> tuple[Weighed, ...]:
    """What the whole of a cut would weigh, by some of its pictures."""
    plan = planned(clip, cut)
    some = sorted({plan.numbers[round(n * (plan.frames - 1) / max(1, SAMPLES - 1))] for n in range(SAMPLES)})
    pictures = {number: shaped(clip.picture(number), cut) for number in some}
    return tuple(weigh(pictures, plan.frames, cut.quality or USUAL_QUALITY))


@dataclass(frozen=True)
class CutTask:
    """A part of a clip becomes a sequence; of a `draft`, small, what the whole would weigh is told as well."""

    cut: Cut
    draft: bool


@dataclass(frozen=True)
class WeighTask:
    """What a picture or a sequence weighs in each form."""

    quality: int


@dataclass(frozen=True)
class SaveTask:
    """A picture or a sequence is made smaller."""

    form: Form
    quality: int


@dataclass(frozen=True)
class ClipTask:
    """An effect is filmed, as it is, on who sits there: a clip in a file `out`. `size`: columns and rows. `rehearsed`: with the
    rehearsal that is kept with it."""

    effect: Effect
    sitting: Sitting
    size: tuple[int, int]
    seconds: float
    fps: float
    rehearsed: bool
    out: Path


Task = CutTask | WeighTask | SaveTask | ClipTask


def main(pipe: Connection, folder: Path, key: str, task: Task) -> None:
    """The process: reads what there is from the database, and sends how far it is, then what came of it."""
    processes.call_this("glaze-work")
    os.nice(_NICE)
    try:
        if isinstance(task, ClipTask):
            return _film(pipe, folder, task)
        with sessionmaker(engine_for(folder))() as session:
            row = files.asset(session, key)
            data, moving = row.data, files.read_sequence(session, key) if "sequence" in row.facts else None
        _DO[type(task)](pipe, data, moving, task)
    except GlazeError as error:
        pipe.send(("failed", str(error)))
    except (BrokenPipeError, KeyboardInterrupt):
        return


def _cut(pipe: Connection, data: bytes, moving: Moving | None, task: CutTask) -> None:
    clip: Clip = Shown(moving) if moving is not None else Footage(data)
    cut = task.cut
    if task.draft:
        shape = clip.picture(0).shape
        cut = drafted(cut, (shape[1], shape[0]))
    reel = cut_clip(clip, cut, lambda *at: pipe.send(("at", *at)))
    pipe.send(("kept", "sequence", write_sequence(reel.sequence), files.sequence_facts(reel)))
    # A draft is seen before it is weighed.
    pipe.send(("done", weighed(clip, task.cut) if task.draft else ()))


def _weigh(pipe: Connection, data: bytes, moving: Moving | None, task: WeighTask) -> None:
    pictures = sampled(moving, SAMPLES) if moving is not None else {0: material_pixels(data)}
    found = weigh(pictures, moving.frames if moving is not None else 1, task.quality)
    # A still has no pictures to leave out.
    pipe.send(("done", tuple(one for one in found if moving is not None or one.form != "fewer")))


def _save(pipe: Connection, data: bytes, moving: Moving | None, task: SaveTask) -> None:
    if moving is None:
        smaller = encoded(material_pixels(data), task.form, task.quality)
        pipe.send(("kept", "picture", smaller, files.picture_facts(smaller)))
    else:
        made = saved(moving, task.form, task.quality, lambda *at: pipe.send(("at", *at)))
        size = made.frame(0).shape
        pipe.send(("kept", "sequence", write_sequence(made), files.sequence_facts(Reel(made, (size[1], size[0])))))
    pipe.send(("done", ()))


def _film(pipe: Connection, folder: Path, task: ClipTask) -> None:
    # What draws is none of the server's, which imports this.
    from sunglaze.core.prints.clips import write_clip

    with sessionmaker(engine_for(folder))() as session:
        material = files.material_of(session, task.effect)
        camera = own_camera(session, task.effect, *task.size) or StandIn(*task.size, task.sitting)
    compiled = compile_effect(task.effect, material)
    kept = task.effect.rehearsal if task.rehearsed else None
    source: Source = Rehearsed(camera, kept) if kept else camera

    def told(done: int, of: int) -> None:
        pipe.send(("at", done, of, 0))

    # Pictures in a folder leave as one file.
    pictures = task.out.with_suffix("") if task.out.suffix == ".zip" else None
    write_clip(
        compiled.program, compiled.inputs, source, pictures or task.out, task.size, task.seconds, fps=task.fps, progress=told
    )
    if pictures is not None:
        shutil.make_archive(str(pictures), "zip", pictures)
        shutil.rmtree(pictures)
    pipe.send(("filmed", str(task.out)))


_DO: dict[type, Callable[[Connection, bytes, Moving | None, Any], None]] = {CutTask: _cut, WeighTask: _weigh, SaveTask: _save}


class Cutter:
    """Threads share it. `folder` holds the database; `writing` makes sessions that write."""

    def __init__(self, folder: Path, writing: sessionmaker[Session]) -> None:
        self._folder, self._writing = folder, writing
        self.clips = folder / "clips"
        shutil.rmtree(self.clips, ignore_errors=True)
        self._lock = threading.Lock()
        self._jobs: dict[str, Job] = {}
        self._processes: dict[str, Any] = {}

    def start(self, key: str, task: Task, name: str) -> Job:
        """Begin; a draft ends the one before. Raises BadFile where too many are at work."""
        draft = isinstance(task, CutTask) and task.draft
        with self._lock:
            if draft:
                for one in self._jobs.values():
                    if one.draft and one.state == "running":
                        self._cancel(one)
            if sum(one.state == "running" for one in self._jobs.values()) >= MOST_JOBS:
                raise BadFile(f"{MOST_JOBS} files are being worked on already; wait for one of them, or cancel it")
            for old in list(self._jobs)[:-MOST_REMEMBERED]:
                if self._jobs[old].state != "running" and (gone := self._jobs.pop(old).file) is not None:
                    gone.unlink(missing_ok=True)
            job = Job(secrets.token_hex(6), draft, facts=self._extra(key, task))
            self._jobs[job.id] = job
        context = processes.context()
        ours, theirs = context.Pipe(duplex=False)
        process = context.Process(target=main, args=(theirs, self._folder, key, task), name="cut", daemon=True)
        self._processes[job.id] = process
        process.start()
        theirs.close()
        with self._lock:
            # Given up before there was a process to end.
            if job.state == "cancelled":
                process.kill()
        threading.Thread(target=self._follow, args=(job, ours, process, name, task), daemon=True, name="cut").start()
        return job

    def _follow(self, job: Job, pipe: Connection, process: Any, name: str, task: Task) -> None:
        try:
            while job.state == "running":
                said, *rest = pipe.recv()
                if said == "at":
                    job.done, job.of, job.weight = rest
                elif said == "kept":
                    self._keep(job, name, *rest)
                elif said == "filmed":
                    job.file, job.state = Path(rest[0]), "done"
                    job.weight = job.file.stat().st_size
                elif said == "done":
                    job.weights, job.state = rest[0], "done"
                else:
                    job.words, job.state = rest[0], "failed"
        except (EOFError, OSError):
            if job.state == "running":
                job.words, job.state = "the work ended before its time; what it was given may be damaged", "failed"
        finally:
            pipe.close()
            process.join(3)
            self._processes.pop(job.id, None)
            for left in self.clips.glob(f"*{task.out.stem}*") if isinstance(task, ClipTask) and job.state != "done" else ():
                shutil.rmtree(left, ignore_errors=True) if left.is_dir() else left.unlink(missing_ok=True)

    @staticmethod
    def _extra(key: str, task: Task) -> files.Facts:
        if isinstance(task, SaveTask):
            return {SAVED: {"of": key, "form": task.form}}
        return {DRAFT: True} if isinstance(task, CutTask) and task.draft else {}

    def _keep(self, job: Job, name: str, kind: str, data: bytes, facts: files.Facts) -> None:
        try:
            with self._writing.begin() as session:
                known = files.known(session, data)
                # What lies on the shelf already stays what it is, whatever came to the same bytes.
                extra = {} if known is not None and not set(job.facts) <= set(known.facts) else job.facts
                row = files.add(session, kind, known.name if known is not None and not extra else name, data, facts)
                row.facts = {**row.facts, **extra}
                key = row.hash
        except Exception as error:
            job.words, job.state = f"it could not be kept: {error}", "failed"
            raise
        job.weight, job.words, job.asset = len(data), " ".join(facts.get("notes", ())), key

    def look(self, job: str) -> Job:
        """Raises NotThere."""
        found = self._jobs.get(job)
        if found is None:
            raise NotThere("there is no such work (any more)")
        return found

    def cancel(self, job: str) -> None:
        """Raises NotThere."""
        with self._lock:
            self._cancel(self.look(job))

    def _cancel(self, job: Job) -> None:
        if job.state != "running":
            return
        job.state = "cancelled"
        process = self._processes.get(job.id)
        if process is not None and process.pid is not None:
            process.kill()

    def shut(self) -> None:
        """End all work, and take its files away."""
        for job in list(self._jobs.values()):
            self._cancel(job)
        shutil.rmtree(self.clips, ignore_errors=True)
