"""The artist's own pictures and clips in the database, and what trackers saw in them."""

from __future__ import annotations

from sqlalchemy import func, select
from sqlalchemy.orm import Session, undefer

from sunglaze.core.camera.cameras import Own
from sunglaze.core.camera.tracks import Track, write_tracks
from sunglaze.core.effect.document import Effect
from sunglaze.core.errors import BadFile
from sunglaze.core.material.footage import Footage
from sunglaze.store.effects import NotThere
from sunglaze.store.files import Facts, asset
from sunglaze.store.tables import AssetRow, TrackRow


def footage_facts(data: bytes) -> Facts:
    """What is found in a picture or a clip. Raises BadFile where it is neither."""
    found = Footage(data)
    return {
        "width": found.width,
        "height": found.height,
        "format": found.format,
        "pictures": len(found.times),
        "seconds": round(found.seconds, 3),
    }


def _pictures(row: AssetRow) -> int:
    facts = row.facts.get("footage")
    if facts is None and "picture" in row.facts:
        return 1
    if facts is None:
        raise NotThere(f"{row.name} was not given as a picture or clip for the camera's place")
    return int(facts["pictures"])


def put_track(session: Session, key: str, number: int, track: Track) -> None:
    """Keep what was seen in one picture. Raises NotThere or BadFile."""
    pictures = _pictures(asset(session, key))
    if number >= pictures:
        raise BadFile(f"it has {pictures} pictures, the first being 0; there is no number {number}")
    session.merge(TrackRow(asset_hash=key, number=number, mask=track.mask, faces=track.faces, hands=track.hands))
    session.flush()


def tracked(session: Session, key: str, hands: bool = False) -> tuple[int, int, int | None]:
    """How many pictures are tracked (for hands, too), how many there are, and the first that is not; none where all are. Raises
    NotThere."""
    pictures = _pictures(asset(session, key))
    wanted = select(TrackRow.number).where(TrackRow.asset_hash == key)
    have = set(session.scalars(wanted.where(TrackRow.hands.is_not(None)) if hands else wanted))
    return len(have), pictures, next((n for n in range(pictures) if n not in have), None)


def count(session: Session, key: str) -> int:
    """In how many pictures of a file something was tracked."""
    return session.scalar(select(func.count()).select_from(TrackRow).where(TrackRow.asset_hash == key)) or 0


def tracks(session: Session, key: str) -> dict[int, Track]:
    rows = select(TrackRow).options(undefer(TrackRow.mask)).where(TrackRow.asset_hash == key)
    return {row.number: Track(row.mask, row.faces, row.hands) for row in session.scalars(rows)}


def tracks_file(session: Session, key: str) -> bytes:
    """All tracks as an archive (core/camera/tracks.py). Raises NotThere."""
    if not count(session, key):
        raise NotThere(f"nothing was tracked in {asset(session, key).name} yet")
    return write_tracks(tracks(session, key), _pictures(asset(session, key)))


def own_camera(session: Session, effect: Effect, width: int, height: int) -> Own | None:
    """What an effect is looked at on, where that is the artist's own. Raises NotThere or BadFile."""
    if effect.still is None:
        return None
    return Own(Footage(asset(session, effect.still).data), width, height, tracks(session, effect.still))
