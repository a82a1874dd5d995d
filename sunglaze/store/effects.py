"""Effects in the database: made, saved as revisions, undone, deleted and brought back."""

from __future__ import annotations

import secrets
from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from threading import Lock

from cachetools import LRUCache, cached
from sqlalchemy import select
from sqlalchemy.orm import Session, defer

from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.mending import Mended, read_stored
from sunglaze.core.errors import GlazeError
from sunglaze.store.tables import AssetRow, EffectRow, RevisionRow, now

READ_ONES = 400
"""Documents that are kept parsed."""


class NotThere(GlazeError):
    """Something was asked for by an id that is not in the database."""


@dataclass(frozen=True)
class Kept:
    """An effect as it stands at its head. `undo` and `redo` name the gestures that they would take back or repeat. `weight`:
    bytes of its document and of the lookups and pictures that it uses.

    `problems`: what today's rules refuse in what is stored, which `effect` leaves out or holds to range."""

    id: str
    revision: int
    effect: Effect
    undo: str | None
    redo: str | None
    changed: datetime
    weight: int
    problems: tuple[str, ...] = ()


@dataclass(frozen=True)
class Saved:
    """What a save led to. `stale`: the head had moved on, so the save is kept beside it and the head stays."""

    kept: Kept
    stale: bool
    kept_as: int


def _row(session: Session, effect_id: str, deleted: bool = False) -> EffectRow:
    row = session.get(EffectRow, effect_id)
    if row is None:
        raise NotThere(f"there is no effect '{effect_id}'; was its address copied whole?")
    if (row.deleted is not None) != deleted:
        what = "is not deleted" if deleted else "was deleted; the list of effects can bring it back"
        raise NotThere(f"the effect '{effect_id}' {what}")
    return row


def _head(session: Session, row: EffectRow) -> RevisionRow:
    head = session.get(RevisionRow, row.head_id)
    assert head is not None
    return head


@dataclass(frozen=True)
class _Read:
    """What a stored document comes to. `files`: hashes of what it uses; `weighed`: those that its weight counts."""

    stored: Mended
    files: frozenset[str]
    weighed: frozenset[str]


@cached(LRUCache(READ_ONES), lock=Lock())
def _read(document: str) -> _Read:
    """A revision's document, parsed once for all who list it. What is read is never changed in place."""
    stored = read_stored(document)
    files = stored.effect.assets()
    return _Read(stored, frozenset(files), frozenset(files - {stored.effect.still}))


def _kept(session: Session, row: EffectRow, head: RevisionRow | None = None, sizes: Mapping[str, int] | None = None) -> Kept:
    """`head` and `sizes` (bytes of files by hash), where they are known already."""
    head = head or _head(session, row)
    again = session.get(RevisionRow, head.redo_id) if head.redo_id else None
    read = _read(head.document)
    sizes = sizes if sizes is not None else _sizes(session, read.weighed)
    return Kept(
        row.id,
        head.id,
        read.stored.effect,
        head.gesture if head.parent_id else None,
        again.gesture if again else None,
        row.changed,
        len(head.document.encode()) + sum(sizes.get(key, 0) for key in read.weighed),
        read.stored.problems,
    )


def _sizes(session: Session, keys: Collection[str] | None = None) -> dict[str, int]:
    """Bytes of files by hash: of these, or of all."""
    if keys is not None and not keys:
        return {}
    wanted = select(AssetRow.hash, AssetRow.size)
    rows = session.execute(wanted if keys is None else wanted.where(AssetRow.hash.in_(keys)))
    return {row.hash: row.size for row in rows}


def create(session: Session, effect: Effect, gesture: str = "New effect", effect_id: str | None = None) -> Kept:
    row = EffectRow(id=effect_id or secrets.token_hex(6))
    session.add(row)
    session.flush()
    first = RevisionRow(effect_id=row.id, gesture=gesture, document=effect.model_dump_json(by_alias=True))
    session.add(first)
    session.flush()
    row.head_id = first.id
    session.flush()
    return _kept(session, row)


def get(session: Session, effect_id: str) -> Kept:
    """Raises NotThere."""
    return _kept(session, _row(session, effect_id))


def head(session: Session, effect_id: str) -> int:
    """The revision that an effect stands at. Raises NotThere."""
    return _row(session, effect_id).head_id or 0


def every(session: Session) -> list[Kept]:
    """All effects that are not deleted, the last changed first."""
    sizes = _sizes(session)
    return [_kept(session, row, head, sizes) for row, head in _with_heads(session)]


def uses(session: Session) -> dict[str, list[tuple[str, str]]]:
    """Ids and names of the effects that use each file, as they stand, by its hash; the last changed first."""
    found: dict[str, list[tuple[str, str]]] = defaultdict(list)
    for row, head in _with_heads(session):
        read = _read(head.document)
        for key in read.files:
            found[key].append((row.id, read.stored.effect.name))
    return found


def _with_heads(session: Session) -> Iterable[tuple[EffectRow, RevisionRow]]:
    """All effects that are not deleted, with what they stand at, the last changed first."""
    both = select(EffectRow, RevisionRow).join(RevisionRow, EffectRow.head_id == RevisionRow.id)
    rows = session.execute(both.where(EffectRow.deleted.is_(None)).order_by(EffectRow.changed.desc()))
    return ((row, head) for row, head in rows)


@dataclass(frozen=True)
class Gone:
    """A deleted effect: `restore` brings it back as it was."""

    id: str
    name: str
    deleted: datetime


def deleted(session: Session) -> list[Gone]:
    """All deleted effects, the last deleted first."""
    rows = session.scalars(select(EffectRow).where(EffectRow.deleted.is_not(None)).order_by(EffectRow.deleted.desc()))
    return [Gone(row.id, read_stored(_head(session, row).document).effect.name, row.deleted) for row in rows if row.deleted]


def exists(session: Session, effect_id: str) -> bool:
    """Whether an effect of this id was ever made, deleted ones included."""
    return session.get(EffectRow, effect_id) is not None


def save(session: Session, effect_id: str, base: int, effect: Effect, gesture: str) -> Saved:
    """Add a revision made from revision `base`. Where the head is no longer `base`, the head stays (Saved.stale).

    The session holds the write lock (database.writing): what is read here, here and below, is not overtaken by another."""
    row = _row(session, effect_id)
    parent = session.get(RevisionRow, base)
    if parent is None or parent.effect_id != effect_id:
        raise NotThere(f"effect '{effect_id}' has no revision {base}")
    row.changed = now()
    made = RevisionRow(effect_id=effect_id, parent_id=base, gesture=gesture[:200], document=effect.model_dump_json(by_alias=True))
    session.add(made)
    session.flush()
    stale = row.head_id != base
    if not stale:
        row.head_id = made.id
        parent.redo_id = None
        session.flush()
    return Saved(_kept(session, row), stale, made.id)


def undo(session: Session, effect_id: str) -> Kept:
    """Move the head to the revision that it was made from; at the first one nothing happens."""
    row = _row(session, effect_id)
    head = _head(session, row)
    if head.parent_id is not None:
        parent = session.get(RevisionRow, head.parent_id)
        assert parent is not None
        parent.redo_id = head.id
        row.head_id, row.changed = parent.id, now()
        session.flush()
    return _kept(session, row)


def redo(session: Session, effect_id: str) -> Kept:
    """Move the head to where undo came from; where nothing was undone nothing happens."""
    row = _row(session, effect_id)
    head = _head(session, row)
    if head.redo_id is not None:
        row.head_id, row.changed = head.redo_id, now()
        session.flush()
    return _kept(session, row)


@dataclass(frozen=True)
class Step:
    """A revision in an effect's history: what was done, when, and its name where it is a take."""

    revision: int
    gesture: str
    take: str | None
    created: datetime
    is_head: bool


MOST_STEPS = 300


def history(session: Session, effect_id: str) -> list[Step]:
    """All takes and the latest revisions, the newest first, those that undo left or another window made included."""
    row = _row(session, effect_id)
    without_documents = select(RevisionRow).options(defer(RevisionRow.document))
    of_it = without_documents.where(RevisionRow.effect_id == effect_id).order_by(RevisionRow.id.desc())
    found = {r.id: r for r in session.scalars(of_it.limit(MOST_STEPS))}
    found |= {r.id: r for r in session.scalars(of_it.where(RevisionRow.take.is_not(None)))}
    return [Step(r.id, r.gesture, r.take, r.created, r.id == row.head_id) for _, r in sorted(found.items(), reverse=True)]


def _revision(session: Session, effect_id: str, revision: int) -> RevisionRow:
    found = session.get(RevisionRow, revision)
    if found is None or found.effect_id != effect_id:
        raise NotThere(f"effect '{effect_id}' has no revision {revision}")
    return found


def revision(session: Session, effect_id: str, number: int) -> Effect:
    """The effect as a revision has it, as far as today's rules take it. Raises NotThere."""
    return read_stored(_revision(session, effect_id, number).document).effect


@dataclass(frozen=True)
class State:
    """What a revision holds: its document as it is stored, and the effect as far as today's rules take it."""

    document: str
    effect: Effect


def state(session: Session, effect_id: str, number: int) -> State:
    """Raises NotThere."""
    document = _revision(session, effect_id, number).document
    return State(document, _read(document).stored.effect)


def document(session: Session, effect_id: str) -> str:
    """The effect's document as it was stored, whatever today's rules say of it. Raises NotThere."""
    return _head(session, _row(session, effect_id)).document


def name_take(session: Session, effect_id: str, number: int, name: str | None) -> None:
    """Keep a revision as a take under a name; without one it is a take no longer. Raises NotThere."""
    _revision(session, effect_id, number).take = name


def go_back_to(session: Session, effect_id: str, number: int) -> Kept:
    """Make a revision's state the effect's again, as a new revision: what was since then stays in the history."""
    found = _revision(session, effect_id, number)
    words = f"take '{found.take}'" if found.take else f"'{found.gesture}'"
    kept = get(session, effect_id)
    return save(session, effect_id, kept.revision, read_stored(found.document).effect, f"Back to {words}").kept


def delete(session: Session, effect_id: str) -> None:
    """Take an effect off the list. Nothing of it is lost; `restore` brings it back."""
    _row(session, effect_id).deleted = now()


def restore(session: Session, effect_id: str) -> Kept:
    row = _row(session, effect_id, deleted=True)
    row.deleted = None
    session.flush()
    return _kept(session, row)
