"""Routes of files: lookups and pictures given by the artist, neutral lookups handed out, packages."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from anyio import to_thread
from fastapi import APIRouter, File, Query, Request, Response, UploadFile
from sqlalchemy.orm import Session

from sunglaze.core.colour.layouts import LARGEST_CUBE, SMALLEST
from sunglaze.core.colour.lut import neutral
from sunglaze.core.colour.open_lut import lut_bytes
from sunglaze.core.effect.document import Effect
from sunglaze.core.errors import BadFile
from sunglaze.core.face.template import MEDIA, TEMPLATES
from sunglaze.core.review.baking import FORMS, Baked, written
from sunglaze.server.asset_schemas import Asset
from sunglaze.server.drawing.drawer import LONG_SECONDS, drawer
from sunglaze.server.limits import MEGABYTE, MOST_FILE_BYTES
from sunglaze.server.reading import Reader, Task
from sunglaze.server.requests import Database, Writing, off_the_loop
from sunglaze.server.schemas import Grade, GradeLoss, LeftOut
from sunglaze.store import effects, files
from sunglaze.store.shelf import clean_name

routes = APIRouter(prefix="/api", tags=["files"])
_FOREVER = {"Cache-Control": "public, max-age=31536000, immutable"}


async def given(request: Request, file: UploadFile, task: Task) -> tuple[str, bytes, Any]:
    """A file's name, its bytes, and what the reading process finds in it. Raises BadFile with its name."""
    data = await file.read(MOST_FILE_BYTES + 1)
    name = clean_name(file.filename or "file")
    if len(data) > MOST_FILE_BYTES:
        raise BadFile(f"{name} is larger than {MOST_FILE_BYTES // MEGABYTE} MB, which is the most; make it smaller or shorter")
    reader: Reader = request.app.state.reader
    try:
        return name, data, await reader.run(task, name, data)
    except BadFile as error:
        raise BadFile(f"{name}: {error}") from None


async def keep(request: Request, session: Session, kind: Literal["lookup", "picture", "footage"], file: UploadFile) -> Asset:
    """Keep a file that was given, with what is found in it as a lookup, picture or footage. Raises BadFile with its name."""
    name, data, facts = await given(request, file, kind)

    def put() -> Asset:
        with session.begin():
            return Asset.of(files.add(session, kind, name, data, facts))

    return await to_thread.run_sync(put)


@routes.post("/lookups", status_code=201)
async def add_lookup(request: Request, session: Writing, file: Annotated[UploadFile, File()]) -> Asset:
    """Keep a lookup file; says what was found in it."""
    return await keep(request, session, "lookup", file)


@routes.post("/pictures", status_code=201)
async def add_picture(request: Request, session: Writing, file: Annotated[UploadFile, File()]) -> Asset:
    """Keep a still picture."""
    return await keep(request, session, "picture", file)


@routes.get("/assets/{key}")
def get_asset(session: Database, key: str) -> Asset:
    with session:
        return Asset.of(files.asset(session, key))


@routes.get("/assets/{key}/file", response_class=Response)
def get_asset_file(session: Database, key: str) -> Response:
    """The file as it was given."""
    with session:
        data = files.asset(session, key).data
    headers = {**_FOREVER, "Content-Disposition": "attachment"}
    return Response(data, media_type="application/octet-stream", headers=headers)


@routes.get("/neutral", response_class=Response)
def neutral_lookup(
    size: Annotated[int, Query(ge=SMALLEST, le=LARGEST_CUBE)],
    layout: Literal["strip", "grid", "hald", "cube"],
    bits: Literal["8", "16"] = "16",
) -> Response:
    """A neutral lookup to grade in any picture editor, as PNG in a layout, or as a .cube file."""
    name = f"neutral-{size}-{layout}{f'-{bits}bit' if layout != 'cube' else ''}.{'cube' if layout == 'cube' else 'png'}"
    data = lut_bytes(neutral(size), name, None if layout == "cube" else layout, int(bits))
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(data, media_type="text/plain" if layout == "cube" else "image/png", headers=headers)


@routes.get("/templates/face.{ending}", response_class=Response)
def face_template(ending: Literal["png", "svg", "tiff"]) -> Response:
    """The flat picture of a face to paint on: its parts as guides over nothing, as PNG, as SVG, or as TIFF with layers."""
    headers = {"Content-Disposition": f'attachment; filename="face-template.{ending}"'}
    return Response(TEMPLATES[ending](), media_type=MEDIA[ending], headers=headers)


async def _stands(session: Session, effect_id: str) -> Effect:
    """The effect as it stands. Raises NotThere."""

    def read() -> Effect:
        with session:
            return effects.get(session, effect_id).effect

    return await to_thread.run_sync(read)


@routes.get("/effects/{effect_id}/package", response_class=Response)
async def export_package(session: Database, request: Request, effect_id: str) -> Response:
    """The effect as it stands as a package, which opens as an effect again; nothing is published."""
    effect = await _stands(session, effect_id)
    data = await drawer(request).run(request, "package", effect, None, most=LONG_SECONDS)
    return attached(data, effect.name, "glaze")


@routes.get("/effects/{effect_id}/page", response_class=Response)
async def export_page(session: Database, request: Request, effect_id: str) -> Response:
    """The effect as a folder for any static file server, zipped: it runs with nothing of ours behind it."""
    effect = await _stands(session, effect_id)
    data = await drawer(request).run(request, "page", effect, most=LONG_SECONDS)
    return attached(data, effect.name, "zip")


Size = Annotated[int, Query(ge=SMALLEST, le=65)]
UpTo = Annotated[str | None, Query(max_length=40)]


@routes.get("/effects/{effect_id}/grade")
async def get_grade(request: Request, effect_id: str, size: Size = 33, to: UpTo = None) -> Grade:
    """What of an effect is a grade: the layers that a lookup holds, those that it does not, and what baking loses."""
    baked, _ = await _baked(request, effect_id, size, to)
    left = [LeftOut(layer=one.layer, name=one.name, why=one.why) for one in baked.left]
    return Grade(layers=baked.layers, left=left, loss=GradeLoss(**vars(baked.loss)), is_decision=baked.decision is not None)


@routes.get("/effects/{effect_id}/grade/file", response_class=Response)
async def export_grade(
    request: Request,
    effect_id: str,
    form: Literal["cube", "clf", "strip", "grid", "hald", "cdl"],
    size: Size = 33,
    to: UpTo = None,
) -> Response:
    """The grade of an effect as a lookup or decision list."""
    baked, name = await _baked(request, effect_id, size, to)
    data = await off_the_loop(lambda: written(baked, form, name))
    return attached(data, name, FORMS[form].removeprefix("."))


async def _baked(request: Request, effect_id: str, size: int, to: str | None) -> tuple[Baked, str]:
    found: tuple[Baked, str] = await drawer(request).run(request, "grade", effect_id, size, to)
    return found


def attached(data: bytes, name: str, ending: str) -> Response:
    """A file to download, named after an effect as far as file systems take it."""
    plain = "".join(c if c.isascii() and c.isalnum() else "-" for c in name.lower()).strip("-") or "effect"
    headers = {"Content-Disposition": f'attachment; filename="{plain}.{ending}"'}
    return Response(data, media_type="application/octet-stream", headers=headers)
