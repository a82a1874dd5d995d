"""Routes of the shelf: all material of the artist's, brought in, looked at, renamed, replaced, taken off; clips that become
sequences."""

from __future__ import annotations

from typing import Annotated

from anyio import to_thread
from fastapi import APIRouter, File, Path, Query, Request, Response, UploadFile
from sqlalchemy.orm import Session

from sunglaze.core.effect.recipe import Recipe
from sunglaze.core.errors import BadFile
from sunglaze.core.material.cutting import Cut
from sunglaze.core.material.reels import ending
from sunglaze.core.material.weighing import Choice, fit
from sunglaze.server.asset_schemas import Asset
from sunglaze.server.cutting import CutTask, Cutter, Job, SaveTask, WeighTask
from sunglaze.server.drawing.drawer import drawer
from sunglaze.server.files import given
from sunglaze.server.limits import MEGABYTE, MOST_FILE_BYTES
from sunglaze.server.reading import Reader
from sunglaze.server.requests import Database, Writing, body, describes
from sunglaze.server.schemas import EffectState, NewName
from sunglaze.server.shelf_schemas import Came, CutJob, CutRequest, FitRequest, Fitted, FormWeight, Replace, SaveForm, ShelfPiece
from sunglaze.store import effects, files, shelf
from sunglaze.store.shelf import Found, Piece

routes = APIRouter(prefix="/api", tags=["shelf"])
MOST_NUMBERED = 1000
PRINT = 132
"""The longer side of a print, pixels."""
_FOREVER = {"Cache-Control": "public, max-age=31536000, immutable"}
_DAY = {"Cache-Control": "public, max-age=86400"}
_TYPES = {"png": "image/png", "jpg": "image/jpeg", "webp": "image/webp", "gif": "image/gif", "avif": "image/avif"}
Place = Annotated[int, Path(ge=0, le=100_000)]


@routes.get("/shelf")
def list_shelf(session: Database, deleted: bool = False) -> list[ShelfPiece]:
    """What is on the shelf, the newest first; or what was taken off it."""
    with session:
        return [ShelfPiece.of(piece) for piece in shelf.pieces(session, deleted)]


@routes.post("/shelf", status_code=201)
async def add_to_shelf(request: Request, session: Writing, file: Annotated[UploadFile, File()]) -> Came:
    """Bring in a file of any kind that is read here; says what it is."""
    name, data, found = await given(request, file, "any")
    assert isinstance(found, Found)
    return await to_thread.run_sync(lambda: _kept(session, found.kind, name, found.data or data, found.facts))


@routes.post("/shelf/numbered", status_code=201)
async def add_numbered(request: Request, session: Writing, file: Annotated[list[UploadFile], File()]) -> Came:
    """Bring in numbered pictures as one sequence."""
    if len(file) > MOST_NUMBERED:
        raise BadFile(f"these are {len(file)} pictures; {MOST_NUMBERED} are the most at once")
    some, weight = [], 0
    for one in file:
        some.append((one.filename or "file", await one.read(MOST_FILE_BYTES + 1)))
        weight += len(some[-1][1])
        if weight > MOST_FILE_BYTES:
            raise BadFile(f"these pictures weigh more than {MOST_FILE_BYTES // MEGABYTE} MB together; bring in fewer at once")
    reader: Reader = request.app.state.reader
    data, facts = await reader.run("numbered", "", some)
    name = f"{shelf.clean_name(some[0][0]).rpartition('.')[0].rstrip('0123456789 -_') or 'pictures'}.zip"
    return await to_thread.run_sync(lambda: _kept(session, "sequence", name, data, facts))


def _kept(session: Session, kind: str, name: str, data: bytes, facts: files.Facts) -> Came:
    with session.begin():
        row = files.add(session, kind, name, data, facts)
        used = tuple(effects.uses(session).get(row.hash, ()))
        return Came(piece=ShelfPiece.of(Piece(row, shelf.kind_of(row) or kind, used)), notes=facts.get("notes", []))


@routes.post("/shelf/groups", status_code=201, openapi_extra=describes(Recipe))
def keep_group(session: Writing, recipe: Annotated[Recipe, body(Recipe)]) -> Asset:
    """Keep nodes that were packed, or a whole recipe, for other effects."""
    with session.begin():
        return Asset.of(shelf.keep_group(session, recipe))


@routes.get("/shelf/groups/{key}")
def get_group(session: Database, key: str) -> Recipe:
    """A kept group or recipe."""
    with session:
        return shelf.recipe_of(session, key)


@routes.post("/shelf/clear")
def clear_unused(session: Writing) -> list[str]:
    """Take off the shelf what no effect uses; the hashes of what went."""
    with session.begin():
        return shelf.clear_unused(session)


@routes.patch("/assets/{key}")
def rename_asset(session: Writing, key: str, new: NewName) -> Asset:
    """Call a file something else."""
    with session.begin():
        return Asset.of(shelf.rename(session, key, new.name))


@routes.delete("/assets/{key}", status_code=204)
def take_off(session: Writing, key: str) -> None:
    """Take a file off the shelf; effects that use it go on."""
    with session.begin():
        shelf.take_off(session, key)


@routes.post("/assets/{key}/restore")
def put_back(session: Writing, key: str) -> Asset:
    with session.begin():
        return Asset.of(shelf.put_back(session, key))


@routes.post("/assets/{key}/replace")
def replace_everywhere(session: Writing, key: str, other: Replace) -> list[EffectState]:
    """Let every effect that uses it use another file; each can take it back by undo."""
    with session.begin():
        return [EffectState.of(kept) for kept in shelf.replace_everywhere(session, key, other.by)]


@routes.get("/assets/{key}/pictures/{number}", response_class=Response)
def picture_of_sequence(session: Database, key: str, number: Place) -> Response:
    """One picture of a sequence, as it is kept."""
    with session:
        sequence = files.read_sequence(session, key)
    if number >= sequence.frames:
        raise BadFile(f"it has {sequence.frames} pictures, the first being 0; there is no number {number}")
    data = sequence.files[number]
    return Response(data, media_type=_TYPES.get(ending(data), "application/octet-stream"), headers=_FOREVER)


@routes.get("/assets/{key}/print", response_class=Response)
async def print_of(request: Request, key: str, at: Annotated[float, Query(ge=0, le=1)] = 0.0) -> Response:
    """A file, small: a lookup as colours, the picture of a sequence or clip at a part of it. What holds no picture has none."""
    return Response(await drawer(request).run(request, "print", key, at), media_type="image/webp", headers=_DAY)


@routes.get("/clips/{key}/strip", response_class=Response)
async def strip_of(
    request: Request,
    key: str,
    count: Annotated[int, Query(ge=2, le=40)] = 14,
    height: Annotated[int, Query(ge=16, le=120)] = 40,
) -> Response:
    """So many pictures of a clip, evenly spread, side by side."""
    return Response(await drawer(request).run(request, "strip", key, count, height), media_type="image/jpeg", headers=_DAY)


@routes.post("/clips/{key}/cut", status_code=201)
def cut(request: Request, session: Database, key: str, how: CutRequest) -> CutJob:
    """Make a sequence of a clip; goes on by itself, asked about by `/cuts/ID`."""
    with session:
        row = files.asset(session, key)
    if "footage" not in row.facts and "sequence" not in row.facts:
        raise BadFile(f"{row.name} is no clip")
    wanted = Cut(**how.model_dump(exclude={"draft", "name"}))
    cutter: Cutter = request.app.state.cutter
    name = how.name or f"{row.name.rpartition('.')[0] or row.name}.zip"
    return job_of(cutter.start(key, CutTask(wanted, how.draft), shelf.clean_name(name)))


@routes.post("/assets/{key}/weigh", status_code=201)
def weigh_asset(request: Request, session: Database, key: str, quality: Annotated[int, Query(ge=1, le=100)] = 78) -> CutJob:
    """What a picture or a sequence weighs in each form, and what that costs to the eye."""
    with session:
        shelf.check_weighs(files.asset(session, key))
    cutter: Cutter = request.app.state.cutter
    return job_of(cutter.start(key, WeighTask(quality), ""))


@routes.post("/assets/{key}/save", status_code=201)
def save_asset(request: Request, session: Database, key: str, how: SaveForm) -> CutJob:
    """Make a picture or a sequence smaller, as a file of its own that remembers what it was made of."""
    with session:
        row = files.asset(session, key)
        shelf.check_weighs(row)
    stem = row.name.rpartition(".")[0] or row.name
    name = f"{stem} ({how.form}{f' {how.quality}' if how.form not in ('png', 'lossless') else ''})"
    name += ".zip" if "sequence" in row.facts else ".png" if how.form == "png" else ".webp"
    cutter: Cutter = request.app.state.cutter
    return job_of(cutter.start(key, SaveTask(how.form, how.quality), shelf.clean_name(name)))


@routes.post("/fit")
def fit_pieces(asked: FitRequest) -> Fitted:
    """The least visible set of savings that fits."""
    options = [[Choice(one.bytes, 1.0), *(Choice(form.bytes, form.alike) for form in one.forms)] for one in asked.pieces]
    found = fit(options, asked.room)
    if found is None:
        return Fitted(fits=False, forms={})
    pairs = zip(asked.pieces, found, strict=True)
    return Fitted(fits=True, forms={one.asset: one.forms[n - 1].form if n else None for one, n in pairs})


@routes.get("/cuts/{job}")
def look_at_cut(request: Request, job: str) -> CutJob:
    """How far a clip is that becomes a sequence."""
    cutter: Cutter = request.app.state.cutter
    return job_of(cutter.look(job))


@routes.delete("/cuts/{job}", status_code=204)
def cancel_cut(request: Request, job: str) -> None:
    """End it; nothing is kept."""
    cutter: Cutter = request.app.state.cutter
    cutter.cancel(job)


def job_of(job: Job) -> CutJob:
    """Work as the page hears of it."""
    weights = [FormWeight(**vars(one)) for one in job.weights]
    return CutJob(**{name: getattr(job, name) for name in CutJob.model_fields if name != "weights"}, weights=weights)
