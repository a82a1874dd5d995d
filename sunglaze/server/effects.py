"""Routes of effects: the list, revisions, undo and redo."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from sqlalchemy.orm import Session

from sunglaze.core.effect.document import Effect
from sunglaze.server.schemas import EffectState, HistoryStep, NewEffect, NewName, SaveAnswer, SaveRequest, TakeName
from sunglaze.store import effects

routes = APIRouter(prefix="/api/effects", tags=["effects"])


def database(request: Request) -> Session:
    """A session that is committed by the route itself, before its answer leaves."""
    made: Session = request.app.state.sessions()
    return made


Database = Annotated[Session, Depends(database)]


@routes.get("")
def list_effects(session: Database) -> list[EffectState]:
    with session:
        return [EffectState.of(kept) for kept in effects.every(session)]


@routes.post("", status_code=201)
def create_effect(session: Database, new: NewEffect) -> EffectState:
    with session.begin():
        return EffectState.of(effects.create(session, Effect(name=new.name)))


@routes.get("/{effect_id}")
def get_effect(session: Database, effect_id: str) -> EffectState:
    with session:
        return EffectState.of(effects.get(session, effect_id))


@routes.post("/{effect_id}/revisions", status_code=201)
def save_effect(session: Database, effect_id: str, change: SaveRequest) -> SaveAnswer:
    with session.begin():
        saved = effects.save(session, effect_id, change.base, change.effect, change.gesture)
    return SaveAnswer(state=EffectState.of(saved.kept), stale=saved.stale, kept_as=saved.kept_as)


@routes.post("/{effect_id}/undo")
def undo(session: Database, effect_id: str) -> EffectState:
    with session.begin():
        return EffectState.of(effects.undo(session, effect_id))


@routes.post("/{effect_id}/redo")
def redo(session: Database, effect_id: str) -> EffectState:
    with session.begin():
        return EffectState.of(effects.redo(session, effect_id))


@routes.post("/{effect_id}/name")
def rename_effect(session: Database, effect_id: str, new: NewName) -> EffectState:
    with session.begin():
        kept = effects.get(session, effect_id)
        renamed = kept.effect.model_copy(update={"name": new.name})
        return EffectState.of(effects.save(session, effect_id, kept.revision, renamed, f"Rename to {new.name}").kept)


@routes.post("/{effect_id}/duplicate", status_code=201)
def duplicate_effect(session: Database, effect_id: str) -> EffectState:
    with session.begin():
        original = effects.get(session, effect_id).effect
        copy = original.model_copy(update={"name": f"{original.name[:74]} copy"})
        return EffectState.of(effects.create(session, copy, f"Duplicate of {original.name}"))


@routes.get("/{effect_id}/history")
def history(session: Database, effect_id: str) -> list[HistoryStep]:
    with session:
        return [HistoryStep.of(step) for step in effects.history(session, effect_id)]


@routes.get("/{effect_id}/revisions/{revision}")
def get_revision(session: Database, effect_id: str, revision: int) -> Effect:
    with session:
        return effects.revision(session, effect_id, revision)


@routes.post("/{effect_id}/revisions/{revision}/take", status_code=204)
def name_take(session: Database, effect_id: str, revision: int, name: TakeName) -> None:
    with session.begin():
        effects.name_take(session, effect_id, revision, name.name)


@routes.post("/{effect_id}/revisions/{revision}/restore")
def go_back_to(session: Database, effect_id: str, revision: int) -> EffectState:
    with session.begin():
        return EffectState.of(effects.go_back_to(session, effect_id, revision))


@routes.delete("/{effect_id}", status_code=204)
def delete_effect(session: Database, effect_id: str) -> None:
    with session.begin():
        effects.delete(session, effect_id)


@routes.post("/{effect_id}/restore")
def restore_effect(session: Database, effect_id: str) -> EffectState:
    with session.begin():
        return EffectState.of(effects.restore(session, effect_id))
