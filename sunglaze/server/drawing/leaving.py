"""What an effect leaves as: its package with icon and clip, a page, a grade, and what pre-flight finds in it."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterator

from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.listing import ICON_FRAME, IconAt, Listing
from sunglaze.core.package.checked import checked, checked_package
from sunglaze.core.package.export import page_files
from sunglaze.core.package.icons import icon_png
from sunglaze.core.package.published import publish_package
from sunglaze.core.review.baking import Baked, bake
from sunglaze.core.review.preflight import Check
from sunglaze.server.drawing.desk import Desk, Patience
from sunglaze.store import effects, publishing, shelf, tracking
from sunglaze.store.files import material_of, packed, read_pixels


def icon(desk: Desk, patience: Patience, effect_id: str, at: IconAt) -> bytes:
    """What an effect's icon would look like, as PNG. Raises NotThere."""
    with desk.session() as session:
        effect = effects.get(session, effect_id).effect
        material = material_of(session, effect)
        own = tracking.own_camera(session, effect, *ICON_FRAME)
        picture = read_pixels(session, at.picture) if at.picture else None
    patience()
    return icon_png(effect, compile_effect(effect, material), at, own, picture)


def package(desk: Desk, patience: Patience, effect: Effect, said: Listing | None) -> bytes:
    """The package of an effect in a state, with icon and clip where something is said of it. Raises BadEffect."""
    with desk.session() as session:
        own = tracking.own_camera(session, effect, *ICON_FRAME)
        if said is None:
            return packed(session, effect, own)
        picture = read_pixels(session, said.icon.picture) if said.icon.picture else None
        material = material_of(session, effect)
    return publish_package(effect, material, said, own, picture, patience)


def page(desk: Desk, _patience: Patience, effect: Effect) -> bytes:
    """An effect as a folder for any static file server, zipped."""
    with desk.session() as session:
        material = material_of(session, effect)
    room = io.BytesIO()
    with zipfile.ZipFile(room, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in sorted(page_files(effect, material, desk.dist).items()):
            archive.writestr(name, data)
    return room.getvalue()


def grade(desk: Desk, _patience: Patience, effect_id: str, size: int, to: str | None) -> tuple[Baked, str]:
    """What of an effect is a grade, as a lookup of `size` steps, up to a layer; and the effect's name. Raises NotThere."""
    with desk.session() as session:
        effect = effects.get(session, effect_id).effect
        material = material_of(session, effect)
    return bake(effect, material, size, to), effect.name


def check(desk: Desk, patience: Patience, effect_id: str, profile: str) -> Iterator[Check]:
    """What may keep an effect, as it stands, from being taken or worn. Raises NotThere."""
    with desk.session() as session:
        limits = shelf.profile_named(session, profile)
        effect = effects.get(session, effect_id).effect
        material = material_of(session, effect)
        said = publishing.listing(session, effect_id)
    yield from checked(effect, material, limits, patience, said)


def check_package(desk: Desk, patience: Patience, code: str, profile: str) -> Iterator[Check]:
    """What may keep the version that is put forward from being taken: the package alone is looked at. Raises NotThere."""
    with desk.session() as session:
        limits = shelf.profile_named(session, profile)
        data = publishing.version(session, code, publishing.publication(session, code).number).data
    yield from checked_package(data, limits, patience)
