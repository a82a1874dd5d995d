"""Published effects in the database: an address that stays, versions behind it, the review that each goes through, and counts."""

from __future__ import annotations

import secrets
from typing import Literal

from sqlalchemy import select, update
from sqlalchemy.orm import Session, undefer

from sunglaze.core.effect.listing import Listing, read_listing
from sunglaze.core.errors import GlazeError
from sunglaze.core.package.archive import listing_of, pieces, read_package
from sunglaze.core.package.changes import MOST, changes, changes_of_listing
from sunglaze.store.effects import Kept, NotThere
from sunglaze.store.tables import ListingRow, PublicationRow, VersionRow, now

LETTERS = "23456789abcdefghjkmnpqrstuvwxyz"
CODE_LENGTH = 5
MOST_TRIES = 40
Counted = Literal["opens", "tries"]
State = Literal["submitted", "in review", "taken", "returned", "withdrawn"]
MOVES: dict[str, tuple[str, ...]] = {
    "submitted": ("in review", "withdrawn"),
    "in review": ("taken", "returned", "withdrawn"),
    "taken": ("withdrawn",),
    "returned": ("submitted", "withdrawn"),
    "withdrawn": ("submitted",),
}
"""From each state those that follow; publishing anew submits."""


class NotNow(GlazeError):
    """A step of the review that does not follow from where a publication stands."""


def listing(session: Session, effect_id: str) -> Listing | None:
    """What is said of an effect, where somebody has said it."""
    row = session.get(ListingRow, effect_id)
    return read_listing(row.document) if row else None


def keep_listing(session: Session, effect_id: str, said: Listing) -> None:
    """Keep what is said of an effect."""
    session.merge(ListingRow(effect_id=effect_id, document=said.model_dump(mode="json")))
    session.flush()


def of_effect(session: Session, effect_id: str) -> PublicationRow | None:
    """Where an effect is published, be it withdrawn; the newest address where older databases have several."""
    newest = select(PublicationRow).where(PublicationRow.effect_id == effect_id).order_by(PublicationRow.created.desc())
    return session.scalar(newest.limit(1))


def _free_code(session: Session) -> str:
    """Letters of an address that nobody has. Raises GlazeError where none is found."""
    for _ in range(MOST_TRIES):
        code = "".join(secrets.choice(LETTERS) for _ in range(CODE_LENGTH))
        if session.get(PublicationRow, code) is None:
            return code
    raise GlazeError("no free address was found; withdraw what is no longer needed")


def publish(session: Session, kept: Kept, data: bytes, said: Listing | None) -> PublicationRow:
    """Keep an effect's package as the next version under its address, which it gets the first time, and submit it."""
    row = of_effect(session, kept.id)
    if row is None:
        code = _free_code(session)
        row = PublicationRow(code=code, effect_id=kept.id, number=0, shown=None, state="submitted", reason="", opens=0, tries=0)
        session.add(row)
        session.flush()
    latest = max((one.number for one in row.versions), default=0)
    last = version(session, row.code, row.number).data if row.number else None
    changed = changes(read_package(last)[0], kept.effect) + changes_of_listing(listing_of(last), said) if last else []
    session.add(
        VersionRow(
            code=row.code,
            number=latest + 1,
            revision_id=kept.revision,
            name=said.texts[0].name if said else kept.effect.name,
            listing=said.model_dump(mode="json") if said else None,
            taken=False,
            changes=changed[:MOST],
            pieces=[{"file": p.file, "what": p.what, "bytes": p.bytes} for p in pieces(data)],
            weight=len(data),
            data=data,
        )
    )
    row.number = latest + 1
    _put(row, "submitted")
    session.flush()
    session.refresh(row)
    return row


def _put(row: PublicationRow, state: State, reason: str = "") -> None:
    row.state, row.reason, row.moved = state, reason, now()
    if state == "taken":
        row.shown = row.number
    elif state == "withdrawn":
        row.shown = None


def publications(session: Session) -> list[PublicationRow]:
    """All, the newest first, without their bytes."""
    return list(session.scalars(select(PublicationRow).order_by(PublicationRow.created.desc())))


def publication(session: Session, code: str) -> PublicationRow:
    """Raises NotThere, also for one that was withdrawn."""
    row = session.get(PublicationRow, code)
    if row is None or row.state == "withdrawn":
        raise NotThere(f"there is no package '{code}'" + ("; it was withdrawn" if row else "; was the address copied whole?"))
    return row


def version(session: Session, code: str, number: int | None = None) -> VersionRow:
    """A version with its bytes, by default that which the address plays. Raises NotThere."""
    row = session.get(PublicationRow, code) if number else publication(session, code)
    wanted = number or (row.plays if row else 0)
    found = session.get(VersionRow, (code, wanted), options=[undefer(VersionRow.data)])
    if found is None:
        raise NotThere(f"'{code}' has no version {wanted}")
    return found


def put_back(session: Session, code: str, number: int) -> PublicationRow:
    """Put one of its versions forward again: shown at once where it was taken before, else submitted. Raises NotThere."""
    row = publication(session, code)
    row.number = number
    _put(row, "taken" if version(session, code, number).taken else "submitted")
    session.flush()
    return row


def move(session: Session, code: str, state: State, reason: str = "") -> PublicationRow:
    """A step of the review. Raises NotThere, NotNow; returning needs a reason."""
    row = session.get(PublicationRow, code)
    if row is None:
        raise NotThere(f"there is no package '{code}'; was the address copied whole?")
    if state not in MOVES[row.state]:
        raise NotNow(f"it is {row.state}: from there it can be {' or '.join(MOVES[row.state])}, not {state}")
    if state == "returned" and not reason.strip():
        raise NotNow("say why it is returned, so that the artist can mend it")
    if state == "taken":
        version(session, code, row.number).taken = True
    _put(row, state, reason.strip())
    session.flush()
    return row


def count(session: Session, code: str, what: Counted, times: int = 1) -> None:
    """So many more who looked at it, or tried it on. Raises NotThere."""
    column = PublicationRow.opens if what == "opens" else PublicationRow.tries
    publication(session, code)
    session.execute(update(PublicationRow).where(PublicationRow.code == code).values({column: column + times}))


def seen_by_visitors(row: PublicationRow, number: int) -> bool:
    """Whether a version is there for whoever has the address: what it plays, what was taken, and what is looked at; no other, be
    it one that was returned or one that another took the place of."""
    if number in (row.plays, row.number if row.state in ("submitted", "in review") else None):
        return True
    return any(one.number == number and one.taken for one in row.versions)
