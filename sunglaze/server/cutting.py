"""Clips become sequences in processes of low priority: with progress, cancelled when asked or when another draft is wanted."""

from __future__ import annotations

import multiprocessing
import os
import secrets
import threading
from dataclasses import dataclass, replace
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, Literal

from sqlalchemy.orm import Session, sessionmaker

from sunglaze.core.errors import BadFile, GlazeError
from sunglaze.core.material.cutting import USUAL_QUALITY, Clip, Cut, Shown, cut_clip, planned, shaped
from sunglaze.core.material.footage import Footage
from sunglaze.core.material.reels import write_sequence
from sunglaze.core.material.weighing import Weighed, weigh
from sunglaze.store import files
from sunglaze.store.database import engine_for
from sunglaze.store.effects import NotThere
from sunglaze.store.files import DRAFT

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
    """A clip that becomes a sequence. `weight`: bytes so far; `asset`: its hash when it is done; `words`: why it failed,
    or what is to be said of it; `weights`: of a draft, what the whole would weigh in each form."""

    id: str
    draft: bool
    done: int = 0
    of: int = 0
    weight: int = 0
    state: State = "running"
    asset: str | None = None
    words: str = ""
    weights: tuple[Weighed, ...] = ()


def drafted(cut: Cut, shape: tuple[int, int]) -> Cut:
    """A cut made small, to be looked at soon. `shape`: columns and rows of the clip."""
    size = cut.size or (shape if cut.turn in (0, 180) else shape[::-1])
    scale = min(1.0, DRAFT_SIDE / max(size))
    return replace(cut, size=(max(1, round(size[0] * scale)), max(1, round(size[1] * scale))), quality=DRAFT_QUALITY)


def weighed(clip: Clip, cut: Cut) -> tuple[Weighed, ...]:
    """What the whole of a cut would weigh, by some of its pictures."""
    plan = planned(clip, cut)
    some = sorted({plan.numbers[round(n * (plan.frames - 1) / max(1, SAMPLES - 1))] for n in range(SAMPLES)})
    pictures = [shaped(clip.picture(number), cut) for number in some]
    return tuple(weigh(pictures, plan.frames, cut.quality or USUAL_QUALITY))


def main(pipe: Connection, folder: Path, key: str, cut: Cut, draft: bool) -> None:
    """The process: reads the clip from the database, and sends how far it is, then the sequence's file."""
    os.nice(_NICE)
    try:
        with sessionmaker(engine_for(folder))() as session:
            row = files.asset(session, key)
            clip: Clip = Footage(row.data) if "footage" in row.facts else Shown(files.read_sequence(session, key))
        if draft:
            shape = clip.picture(0).shape
            reel = cut_clip(clip, drafted(cut, (shape[1], shape[0])), lambda *at: pipe.send(("at", *at)))
            pipe.send(("draft", write_sequence(reel.sequence), files.sequence_facts(reel)))
            pipe.send(("weights", weighed(clip, cut)))
            return
        reel = cut_clip(clip, cut, lambda done, of, weight: pipe.send(("at", done, of, weight)))
        pipe.send(("done", write_sequence(reel.sequence), files.sequence_facts(reel)))
    except GlazeError as error:
        pipe.send(("failed", str(error)))
    except (BrokenPipeError, KeyboardInterrupt):
        return


class Cutter:
    """Threads share it. `folder` holds the database; `writing` makes sessions that write."""

    def __init__(self, folder: Path, writing: sessionmaker[Session]) -> None:
        self._folder, self._writing = folder, writing
        self._lock = threading.Lock()
        self._jobs: dict[str, Job] = {}
        self._processes: dict[str, Any] = {}

    def start(self, key: str, cut: Cut, name: str, draft: bool) -> Job:
        """Begin; a draft ends the one before. Raises BadFile where too many are at work."""
        with self._lock:
            if draft:
                for one in self._jobs.values():
                    if one.draft and one.state == "running":
                        self._cancel(one)
            if sum(one.state == "running" for one in self._jobs.values()) >= MOST_JOBS:
                raise BadFile(f"{MOST_JOBS} clips are being cut already; wait for one of them, or cancel it")
            for old in list(self._jobs)[:-MOST_REMEMBERED]:
                if self._jobs[old].state != "running":
                    del self._jobs[old]
            job = Job(secrets.token_hex(6), draft)
            self._jobs[job.id] = job
        context = multiprocessing.get_context("spawn")
        ours, theirs = context.Pipe(duplex=False)
        process = context.Process(target=main, args=(theirs, self._folder, key, cut, draft), name="cut", daemon=True)
        self._processes[job.id] = process
        process.start()
        theirs.close()
        threading.Thread(target=self._follow, args=(job, ours, process, name), daemon=True, name="cut").start()
        return job

    def _follow(self, job: Job, pipe: Connection, process: Any, name: str) -> None:
        try:
            while job.state == "running":
                said, *rest = pipe.recv()
                if said == "at":
                    job.done, job.of, job.weight = rest
                elif said in ("done", "draft"):
                    self._keep(job, rest[0], rest[1], name)
                elif said == "weights":
                    job.weights, job.state = rest[0], "done"
                else:
                    job.words, job.state = rest[0], "failed"
        except (EOFError, OSError):
            if job.state == "running":
                job.words, job.state = "cutting ended before its time; the clip may be damaged", "failed"
        finally:
            pipe.close()
            process.join(3)
            self._processes.pop(job.id, None)

    def _keep(self, job: Job, data: bytes, facts: files.Facts, name: str) -> None:
        try:
            with self._writing.begin() as session:
                row = files.add(session, "sequence", name, data, facts)
                if job.draft:
                    row.facts = {**row.facts, DRAFT: True}
                key = row.hash
        except Exception as error:
            job.words, job.state = f"it could not be kept: {error}", "failed"
            raise
        job.weight, job.words = len(data), " ".join(facts["notes"])
        # The asset first: whoever sees that it is done asks for it. A draft is seen before it is weighed.
        job.asset = key
        if not job.draft:
            job.state = "done"

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
        """End all work."""
        for job in list(self._jobs.values()):
            self._cancel(job)
