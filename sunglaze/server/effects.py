"""Routes of effects: made, saved, undone and redone, deleted and brought back."""

from __future__ import annotations

from typing import Annotated

from anyio import to_thread
from fastapi import APIRouter, File, Request, Response, UploadFile

from sunglaze.core.effect.document import Effect
from sunglaze.core.errors import BadFile, GlazeError
from sunglaze.server.limits import MOST_FILE_BYTES
from sunglaze.server.reading import Reader
from sunglaze.server.requests import Database, RowNumber, Writing, body, describes
from sunglaze.server.schemas import DeletedEffect, EffectState, HistoryStep, NewEffect, NewName, SaveAnswer, SaveRequest, TakeName
from sunglaze.store import arriving, effects

routes = APIRouter(prefix="/api/effects", tags=["effects"])


@routes.post("", status_code=201)
def create_effect(session: Writing, new: NewEffect) -> EffectState:
    with session.begin():
        return EffectState.of(effects.create(session, Effect(name=new.name)))


@routes.post("/import", status_code=201)
async def import_effect(request: Request, session: Writing, file: Annotated[UploadFile, File()]) -> EffectState:
    """A new effect from a file: a document, or a package (.glaze) with what it refers to."""
    name, data = file.filename or "file", await file.read(MOST_FILE_BYTES + 1)
    reader: Reader = request.app.state.reader
    try:
        effect, come = await reader.run("effect", name, data)
    except GlazeError as error:
        raise BadFile(f"{name}: {error}") from None

    def put() -> EffectState:
        with session.begin():
            return EffectState.of(arriving.keep(session, name, effect, come))

    return await to_thread.run_sync(put)


@routes.get("/deleted")
def list_deleted(session: Database) -> list[DeletedEffect]:
    with session:
        return [DeletedEffect.of(gone) for gone in effects.deleted(session)]


@routes.get("/{effect_id}")
def get_effect(session: Database, effect_id: str) -> EffectState:
    with session:
        return EffectState.of(effects.get(session, effect_id))


@routes.get("/{effect_id}/head")
def get_head(session: Database, effect_id: str) -> int:
    """The revision that it stands at: whoever works on it asks now and then, and takes over what others did."""
    with session:
        return effects.head(session, effect_id)


@routes.get("/{effect_id}/document", response_class=Response)
def get_document(session: Database, effect_id: str) -> Response:
    """The effect as it was stored, also where today's rules refuse it."""
    with session:
        stored = effects.document(session, effect_id)
    headers = {"Content-Disposition": f'attachment; filename="{effect_id}.json"'}
    return Response(stored, media_type="application/json", headers=headers)


@routes.post("/{effect_id}/revisions", status_code=201, openapi_extra=describes(SaveRequest))
def save_effect(session: Writing, effect_id: str, change: Annotated[SaveRequest, body(SaveRequest)]) -> SaveAnswer:
    with session.begin():
        saved = effects.save(session, effect_id, change.base, change.effect, change.gesture)
    return SaveAnswer(state=EffectState.of(saved.kept), stale=saved.stale, kept_as=saved.kept_as)


@routes.post("/{effect_id}/undo")
def undo(session: Writing, effect_id: str) -> EffectState:
    with session.begin():
        return EffectState.of(effects.undo(session, effect_id))


@routes.post("/{effect_id}/redo")
def redo(session: Writing, effect_id: str) -> EffectState:
    with session.begin():
        return EffectState.of(effects.redo(session, effect_id))


@routes.post("/{effect_id}/name")
def rename_effect(session: Writing, effect_id: str, new: NewName) -> EffectState:
    with session.begin():
        kept = effects.get(session, effect_id)
        renamed = kept.effect.model_copy(update={"name": new.name})
        return EffectState.of(effects.save(session, effect_id, kept.revision, renamed, f"Rename to {new.name}").kept)


@routes.post("/{effect_id}/duplicate", status_code=201)
def duplicate_effect(session: Writing, effect_id: str) -> EffectState:
    with session.begin():
        original = effects.get(session, effect_id).effect
        copy = original.model_copy(update={"name": f"{original.name[:74]} copy"})
        return EffectState.of(effects.create(session, copy, f"Duplicate of {original.name}"))


@routes.get("/{effect_id}/history")
def history(session: Database, effect_id: str) -> list[HistoryStep]:
    with session:
        return [HistoryStep.of(step) for step in effects.history(session, effect_id)]


@routes.get("/{effect_id}/revisions/{revision}")
def get_revision(session: Database, effect_id: str, revision: RowNumber) -> Effect:
    with session:
        return effects.revision(session, effect_id, revision)


@routes.post("/{effect_id}/revisions/{revision}/take", status_code=204)
def name_take(session: Writing, effect_id: str, revision: RowNumber, name: TakeName) -> None:
    with session.begin():
        effects.name_take(session, effect_id, revision, name.name)


@routes.post("/{effect_id}/revisions/{revision}/restore")
def go_back_to(session: Writing, effect_id: str, revision: RowNumber) -> EffectState:
    with session.begin():
        return EffectState.of(effects.go_back_to(session, effect_id, revision))


@routes.delete("/{effect_id}", status_code=204)
def delete_effect(session: Writing, effect_id: str) -> None:
    with session.begin():
        effects.delete(session, effect_id)


@routes.post("/{effect_id}/restore")
def restore_effect(session: Writing, effect_id: str) -> EffectState:
    with session.begin():
        return EffectState.of(effects.restore(session, effect_id))
