"""Routes of proof sheets: cells as they are made by the crew of worker processes, the sheet in words, and as a file."""

from __future__ import annotations

import asyncio
import base64
import json
import threading
from concurrent.futures import ThreadPoolExecutor
from typing import Annotated, Literal

from anyio import to_thread
from cachetools import LRUCache
from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from sunglaze.core.camera.cameras import SCREENS
from sunglaze.core.camera.lighting import LIGHTS
from sunglaze.core.camera.people import PEOPLE
from sunglaze.core.effect.document import Effect
from sunglaze.core.errors import BadEffect
from sunglaze.core.moment.moment import RATE
from sunglaze.core.proof.cells import Cell, Figures, Footing
from sunglaze.core.proof.crew import Crew, Task
from sunglaze.core.proof.pages import Proof, pages_of, write_pdf, write_png
from sunglaze.core.proof.sheet import MOMENTS, OWN, PRESETS, Place, Sheet
from sunglaze.core.proof.standing import Said, outliers, said
from sunglaze.server.camera import Choice
from sunglaze.server.drawing.drawer import LONG_SECONDS, drawer
from sunglaze.server.drawing.messages import Gone
from sunglaze.server.requests import body, describes
from sunglaze.store import effects, files, tracking

routes = APIRouter(prefix="/api", tags=["proof"])
KEPT_CELLS, KEPT_PACKAGES = 800, 6
_LOOK_SECONDS = 0.2


class Instant(BaseModel):
    """A moment that is looked at often."""

    key: str
    title: str
    script: str
    frame: int


class PresetSheet(BaseModel):
    """A sheet that ships."""

    key: str
    title: str
    sheet: Sheet


class ProofChoices(BaseModel):
    """All that may stand on a sheet."""

    who: list[Choice]
    light: list[Choice]
    screen: list[Choice]
    moment: list[Instant]
    presets: list[PresetSheet]


class State(BaseModel):
    """Which state of an effect is looked at: a revision, by default its head; `without` a layer; or the bare camera."""

    revision: int | None = Field(default=None, ge=0, le=2**63 - 1)
    without: str | None = None
    bare: bool = False


class CellRequest(BaseModel):
    """A cell that is wanted."""

    place: Place
    state: State = State()


class CellMade(BaseModel):
    """A cell: `print` a JPEG as a data address."""

    revision: int
    print: str
    figures: Figures


class SheetRequest(BaseModel):
    """A sheet of which cells were made already. `form` is asked for as a file."""

    sheet: Sheet
    state: State = State()


class SheetWords(BaseModel):
    """What a sheet says, and the figures that stand out, by the keys of the places."""

    said: list[Said]
    outliers: dict[str, list[str]]


class Proofs:
    """The crew, and what it made lately."""

    def __init__(self, workers: int | None = None) -> None:
        self.crew = Crew(workers)
        self._turn = threading.Lock()
        self._packing = asyncio.Lock()
        self._packages: LRUCache[tuple[str, int, str], bytes] = LRUCache(KEPT_PACKAGES)
        self._cells: LRUCache[tuple[str, int, str, str], Cell] = LRUCache(KEPT_CELLS)
        self.threads = ThreadPoolExecutor(4, thread_name_prefix="proof")

    async def package(self, request: Request, effect_id: str, state: State) -> tuple[int, bytes]:
        """The revision that is meant, and its package. Raises NotThere, BadEffect."""
        revision, effect = await to_thread.run_sync(_meant, request, effect_id, state)
        key = (effect_id, revision, _which(state))
        # Whoever asks for the same meanwhile waits for it.
        async with self._packing:
            known = self._packages.get(key)
            if known is None:
                found: bytes = await drawer(request).run(request, "package", effect, None, most=LONG_SECONDS)
                self._packages[key] = known = found
        return revision, known

    def made(self, effect_id: str, revision: int, state: State, place: Place, tracked: int) -> Cell | None:
        """A cell, where it was made lately; `tracked`: how many pictures of footage of one's own were, by now."""
        with self._turn:
            return self._cells.get((effect_id, revision, _which(state), f"{place.key} {tracked}"))

    def keep(self, effect_id: str, revision: int, state: State, cell: Cell, tracked: int) -> None:
        """Keep a cell that was made."""
        with self._turn:
            self._cells[effect_id, revision, _which(state), f"{cell.place.key} {tracked}"] = cell

    def shut(self) -> None:
        """End the workers."""
        self.threads.shutdown(wait=False, cancel_futures=True)
        self.crew.shut()


def _which(state: State) -> str:
    return "bare" if state.bare else f"without {state.without}" if state.without else ""


def _meant(request: Request, effect_id: str, state: State) -> tuple[int, Effect]:
    """The revision that is meant, and the effect in that state."""
    with request.app.state.sessions() as session:
        revision = effects.get(session, effect_id).revision if state.revision is None else state.revision
        return revision, _in_state(effects.revision(session, effect_id, revision), state)


def _in_state(effect: Effect, state: State) -> Effect:
    if state.bare:
        return effect.model_copy(update={"layers": [], "groups": [], "dials": [], "cues": [], "rehearsal": None})
    if state.without is None:
        return effect
    if all(layer.id != state.without for layer in effect.layers):
        raise BadEffect(f"the effect has no layer '{state.without}' in this state; compare with something else")
    layers = [one.model_copy(update={"on": False, "drives": {}}) if one.id == state.without else one for one in effect.layers]
    return effect.model_copy(update={"layers": layers})


@routes.get("/proof")
def proof_choices() -> ProofChoices:
    """What may stand on a proof sheet, and sheets that ship."""
    return ProofChoices(
        who=[Choice(key=one.key, title=one.role) for one in PEOPLE.values()],
        light=[Choice(key=key, title=light.title) for key, light in LIGHTS.items()],
        screen=[Choice(key=key, title=key) for key in SCREENS],
        moment=[
            Instant(key=key, title=one.title, script=one.script, frame=int(one.seconds * RATE)) for key, one in MOMENTS.items()
        ],
        presets=[PresetSheet(key=key, title=one.title, sheet=one.sheet) for key, one in PRESETS.items()],
    )


@routes.post("/effects/{effect_id}/proof/cell", openapi_extra=describes(CellRequest))
async def proof_cell(request: Request, effect_id: str, asked: Annotated[CellRequest, body(CellRequest)]) -> CellMade:
    """A cell of an effect's proof sheet."""
    proofs: Proofs = request.app.state.proofs
    revision, cell = await _cell(request, proofs, effect_id, asked.place, asked.state)
    address = f"data:image/jpeg;base64,{base64.b64encode(cell.print).decode()}"
    return CellMade(revision=revision, print=address, figures=cell.figures)


async def _cell(request: Request, proofs: Proofs, effect_id: str, place: Place, state: State) -> tuple[int, Cell]:
    revision, package = await proofs.package(request, effect_id, state)

    def begin() -> tuple[int, Task | Cell]:
        with request.app.state.sessions() as session:
            tracked = _tracked(session, place)
            known = proofs.made(effect_id, revision, state, place, tracked)
            return tracked, known or Task(package, place, _footing(session, place))

    tracked, task = await to_thread.run_sync(begin)
    if isinstance(task, Cell):
        return revision, task
    # Beginning waits for the workers to stand, the first time.
    loop = asyncio.get_running_loop()
    making = asyncio.wrap_future(await loop.run_in_executor(proofs.threads, proofs.crew.submit, task))
    while not (await asyncio.wait({making}, timeout=_LOOK_SECONDS))[0]:
        if await request.is_disconnected():
            making.cancel()
            raise Gone("nobody waits for it")
    cell = making.result()
    proofs.keep(effect_id, revision, state, cell, tracked)
    return revision, cell


def _tracked(session: Session, place: Place) -> int:
    return tracking.tracked(session, place.who.removeprefix("own:"))[0] if OWN.fullmatch(place.who) else 0


def _footing(session: Session, place: Place) -> Footing | None:
    if not OWN.fullmatch(place.who):
        return None
    key = place.who.removeprefix("own:")
    data = files.asset(session, key).data
    known = tracking.tracks(session, key)
    return Footing(data, tracking.tracks_file(session, key) if known else None)


def _names(session: Session, sheet: Sheet) -> dict[str, str]:
    return {who: files.asset(session, who.removeprefix("own:")).name for who in sheet.who if OWN.fullmatch(who)}


def _proof(request: Request, effect_id: str, asked: SheetRequest) -> Proof:
    """The sheet with the cells that were made."""
    proofs: Proofs = request.app.state.proofs
    revision, effect = _meant(request, effect_id, asked.state)
    with request.app.state.sessions() as session:
        found = {
            place: proofs.made(effect_id, revision, asked.state, place, _tracked(session, place)) for place in asked.sheet.places
        }
        cells = {place: cell for place, cell in found.items() if cell is not None}
        return Proof(effect.name, asked.sheet, cells, _names(session, asked.sheet))


@routes.post("/effects/{effect_id}/proof/words", openapi_extra=describes(SheetRequest))
def proof_words(request: Request, effect_id: str, asked: Annotated[SheetRequest, body(SheetRequest)]) -> SheetWords:
    """What stands out on a sheet, as far as its cells were made."""
    proof = _proof(request, effect_id, asked)
    marks = outliers(proof.figures)
    return SheetWords(
        said=said(proof.sheet, proof.figures, proof.own), outliers={place.key: list(some) for place, some in marks.items()}
    )


_MEDIA = {"pdf": "application/pdf", "png": "image/png", "json": "application/json"}


@routes.post("/effects/{effect_id}/proof/file", response_class=Response, openapi_extra=describes(SheetRequest))
async def proof_file(
    request: Request,
    effect_id: str,
    asked: Annotated[SheetRequest, body(SheetRequest)],
    form: Annotated[Literal["pdf", "png", "json"], Query()] = "pdf",
) -> Response:
    """A sheet as a file; cells that are not there yet are made."""
    proofs: Proofs = request.app.state.proofs
    # An edit meanwhile belongs to the next sheet.
    revision, _ = await _cell(request, proofs, effect_id, asked.sheet.places[0], asked.state)
    fixed = asked.model_copy(update={"state": asked.state.model_copy(update={"revision": revision})})
    await asyncio.gather(*(_cell(request, proofs, effect_id, place, fixed.state) for place in fixed.sheet.places))

    def written() -> bytes:
        proof = _proof(request, effect_id, fixed)
        if form == "json":
            return json.dumps(proof.as_json(), indent=1, ensure_ascii=False).encode()
        pages = pages_of(proof)
        return write_pdf(pages, proof.name) if form == "pdf" else write_png(pages)

    return Response(await to_thread.run_sync(written), media_type=_MEDIA[form])
