"""Routes of publishing: what is said of an effect, its versions under one address, the review, and what the showcase counts."""

from __future__ import annotations

import base64
from datetime import date
from typing import Annotated, Any, Literal

from anyio import to_thread
from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from sunglaze.core.cache import CACHE
from sunglaze.core.effect.listing import CATEGORIES, IconAt, Listing, suggested
from sunglaze.core.package.archive import open_archive
from sunglaze.server.camera import Choice
from sunglaze.server.counting import Counts
from sunglaze.server.drawing.drawer import LONG_SECONDS, drawer
from sunglaze.server.files import attached
from sunglaze.server.preflight import LINES, line_by_line
from sunglaze.server.requests import Database, Writing, body, describes
from sunglaze.server.schemas import Moment
from sunglaze.server.visitors import is_visitor
from sunglaze.store import effects, publishing
from sunglaze.store.effects import Kept
from sunglaze.store.tables import PublicationRow, VersionRow

routes = APIRouter(prefix="/api", tags=["publishing"])
_TYPES = {
    "json": "application/json", "png": "image/png", "f32": "application/octet-stream", "jpg": "image/jpeg", "mp4": "video/mp4",
    "webm": "video/webm", "webp": "image/webp",
}  # fmt: skip
_FOREVER = {"Cache-Control": "public, max-age=31536000, immutable"}
Number = Annotated[int | None, Query(ge=1, le=100_000)]


class PackagePiece(BaseModel):
    file: str
    what: str
    bytes: int


class PackageVersion(BaseModel):
    """A version of a published effect; `changes` from the one before, in words."""

    number: int
    name: str
    changes: list[str]
    weight: int
    created: Moment

    @classmethod
    def of(cls, row: VersionRow) -> PackageVersion:
        return cls(number=row.number, name=row.name, changes=row.changes, weight=row.weight, created=row.created)


class Shown(BaseModel):
    """A published effect as visitors see it: version `number`. `weight` of all in bytes; `phone` is the address. `opens` and
    `tries`: how often it was looked at and tried on, on this machine."""

    code: str
    name: str
    number: int
    listing: Listing | None
    has_clip: bool
    opens: int
    tries: int
    weight: int
    created: Moment
    phone: str

    @classmethod
    def of(cls, row: PublicationRow, number: int) -> Shown:
        return cls(**_shown(row, _version(row, number)))


class Package(Shown):
    """A published effect as artist and reviewer see it: the version that is put forward, the `state` of its review, and why it
    was returned. `plays`: the version that the address plays, `taken`: whether that one is in the showcase."""

    effect: str
    versions: list[PackageVersion]
    plays: int
    taken: bool
    state: Literal["submitted", "in review", "taken", "returned", "withdrawn"]
    reason: str
    moved: Moment
    pieces: list[PackagePiece]

    @classmethod
    def of_row(cls, row: PublicationRow) -> Package:
        now = _version(row, row.number)
        return cls(
            **_shown(row, now),
            effect=row.effect_id,
            versions=[PackageVersion.of(one) for one in reversed(row.versions)],
            plays=row.plays,
            taken=row.shown is not None,
            state=row.state,
            reason=row.reason,
            moved=row.moved,
            pieces=[PackagePiece(**piece) for piece in now.pieces],
        )


def _version(row: PublicationRow, number: int) -> VersionRow:
    found = next((one for one in row.versions if one.number == number), None)
    if found is None:
        raise effects.NotThere(f"'{row.code}' has no version {number}")
    return found


def _shown(row: PublicationRow, version: VersionRow) -> dict[str, Any]:
    return {
        "code": row.code,
        "name": version.name,
        "number": version.number,
        "listing": Listing.model_validate(version.listing) if version.listing else None,
        "has_clip": any(piece["file"] == "clip.mp4" for piece in version.pieces),
        "opens": row.opens,
        "tries": row.tries,
        "weight": version.weight,
        "created": version.created,
        "phone": f"/p/{row.code}",
    }


class ListingState(BaseModel):
    """What is said of an effect; `kept`: whether somebody said so, or it is filled ahead. `code`: where it is published."""

    listing: Listing
    kept: bool
    code: str | None
    categories: list[Choice]


class Step(BaseModel):
    """A step of the review."""

    state: Literal["submitted", "in review", "taken", "returned", "withdrawn"]
    reason: Annotated[str, Field(max_length=2000)] = ""


class Publishing(BaseModel):
    """How much of a package is made, 0 to 1; none where nothing is being published."""

    share: float | None


class IconPreview(BaseModel):
    """An icon as a data address."""

    icon: str


@routes.get("/effects/{effect_id}/listing")
def get_listing(session: Database, effect_id: str) -> ListingState:
    """What is said of an effect, or what can be known of it where nobody has said anything yet."""
    with session:
        kept = effects.get(session, effect_id)
        said = publishing.listing(session, effect_id)
        published = publishing.of_effect(session, effect_id)
    return ListingState(
        listing=said or suggested(kept.effect, date.today()),
        kept=said is not None,
        code=published.code if published else None,
        categories=[Choice(key=key, title=title) for key, title in CATEGORIES.items()],
    )


@routes.put("/effects/{effect_id}/listing", status_code=204, openapi_extra=describes(Listing))
def put_listing(session: Writing, effect_id: str, said: Annotated[Listing, body(Listing)]) -> None:
    """Say what is said of an effect."""
    with session.begin():
        effects.get(session, effect_id)
        publishing.keep_listing(session, effect_id, said)


@routes.post("/effects/{effect_id}/icon", openapi_extra=describes(IconAt))
async def icon_preview(request: Request, effect_id: str, at: Annotated[IconAt, body(IconAt)]) -> IconPreview:
    """What an icon would look like."""
    data = await drawer(request).run(request, "icon", effect_id, at, most=LONG_SECONDS)
    return IconPreview(icon=f"data:image/png;base64,{base64.b64encode(data).decode()}")


@routes.post("/effects/{effect_id}/publish", status_code=201)
async def publish(request: Request, effect_id: str) -> Package:
    """Make the next version of the effect as it stands, with what is said of it, and submit it."""

    def as_it_stands() -> tuple[Kept, Listing | None]:
        with request.app.state.sessions() as session:
            return effects.get(session, effect_id), publishing.listing(session, effect_id)

    kept, said = await to_thread.run_sync(as_it_stands)

    def put() -> Package:
        with request.app.state.writing.begin() as writing:
            return Package.of_row(publishing.publish(writing, kept, data, said))

    done: dict[str, float] = request.app.state.publishing
    done[effect_id] = 0.0
    try:
        data = await drawer(request).run(
            request, "package", kept.effect, said, most=LONG_SECONDS, part=lambda share: done.update({effect_id: share})
        )
        return await to_thread.run_sync(put)
    finally:
        done.pop(effect_id, None)


@routes.get("/effects/{effect_id}/publishing")
async def publishing_now(request: Request, effect_id: str) -> Publishing:
    """How far the publishing of an effect is that was asked for and is not answered yet."""
    return Publishing(share=request.app.state.publishing.get(effect_id))


@routes.get("/packages")
def list_packages(session: Database) -> list[Package]:
    """All that is published, in any state of its review but withdrawn."""
    with session:
        return [Package.of_row(row) for row in publishing.publications(session) if row.state != "withdrawn"]


@routes.get("/packages/{code}")
def get_package(session: Database, code: str) -> Package:
    with session:
        return Package.of_row(publishing.publication(session, code))


@routes.get("/showcase")
def list_shown(session: Database) -> list[Shown]:
    """What is in the showcase, for anybody to see."""
    with session:
        return [Shown.of(row, row.shown) for row in publishing.publications(session) if row.shown]


@routes.get("/showcase/{code}")
def get_shown(request: Request, session: Database, code: str, number: Number = None) -> Shown:
    """What an address plays, or one of its versions, for anybody who has the address."""
    with session:
        return Shown.of(*_asked(request, session, code, number))


def _asked(request: Request, session: Session, code: str, number: int | None) -> tuple[PublicationRow, int]:
    """What is published and which version is asked for. Raises NotThere, for visitors also where it is none of theirs."""
    row = publishing.publication(session, code)
    wanted = number or row.plays
    if is_visitor(request) and not publishing.seen_by_visitors(row, wanted):
        raise effects.NotThere(f"'{code}' has no version {wanted}")
    return row, wanted


@routes.post("/packages/{code}/review")
def review(session: Writing, code: str, step: Step) -> Package:
    """A step of the review: submitted, in review, taken or returned with a reason, withdrawn."""
    with session.begin():
        return Package.of_row(publishing.move(session, code, step.state, step.reason))


@routes.post("/packages/{code}/versions/{number}")
def put_back(session: Writing, code: str, number: int) -> Package:
    """Put one of its versions forward again: in the showcase at once where it was taken before, else submitted."""
    with session.begin():
        return Package.of_row(publishing.put_back(session, code, number))


@routes.post("/packages/{code}/count/{what}", status_code=204)
async def count(request: Request, session: Database, code: str, what: publishing.Counted) -> None:
    """One more who looked, or tried it on. It is seen a moment later."""

    def known() -> None:
        with session:
            publishing.publication(session, code)

    await to_thread.run_sync(known)
    counts: Counts = request.app.state.counts
    counts.add(code, what)


@routes.delete("/packages/{code}", status_code=204)
def withdraw_package(session: Writing, code: str) -> None:
    """Take it out of sight; publishing again brings its address back."""
    with session.begin():
        publishing.publication(session, code)
        publishing.move(session, code, "withdrawn")


@routes.get("/packages/{code}/preflight", response_class=Response, responses=LINES)
async def check_package(request: Request, code: str, profile: str = "camera-app") -> Response:
    """What may keep the version that is put forward from being taken, line by line; the package alone is looked at."""
    return await line_by_line(request, "check package", code, profile)


@routes.get("/packages/{code}/download", response_class=Response)
def download_package(request: Request, session: Database, code: str, number: Number = None) -> Response:
    with session:
        row, wanted = _asked(request, session, code, number)
        version = publishing.version(session, row.code, wanted)
    return attached(version.data, version.name, "glaze")


@routes.get("/packages/{code}/files/{path:path}", response_class=Response)
def package_file(request: Request, session: Database, code: str, path: str, number: Number = None) -> Response:
    """One file of a package, unpacked; what the phone asks for. A version's own files never change."""
    with session:
        row, wanted = _asked(request, session, code, number)
        version = _version(row, wanted)
        # A page asks for a dozen of them: the package is read once.
        key = ("package", row.code, wanted, version.created)
        archive = CACHE.get(
            key, lambda: open_archive(publishing.version(session, row.code, wanted).data), lambda _: version.weight
        )
    if path not in archive.namelist():
        raise effects.NotThere(f"the package has no file '{path}'")
    kind = _TYPES.get(path.rpartition(".")[2], "application/octet-stream")
    return Response(archive.read(path), media_type=kind, headers=_FOREVER if number else {"Cache-Control": "no-cache"})
