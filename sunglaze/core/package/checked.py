"""Pre-flight of an effect with its package: what it weighs is known only once it is packed. What was found is kept on disk, where
the environment names a folder for that; unchanged effects are answered from there."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from pydantic import ConfigDict, TypeAdapter

from sunglaze.core.disk_cache import PICTURES, named, sha256
from sunglaze.core.edition import edition
from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.listing import Listing
from sunglaze.core.effect.literals import Material
from sunglaze.core.errors import BadEffect
from sunglaze.core.package.archive import SHOWN, carried, listing_of, pieces, read_package, write_package
from sunglaze.core.review.preflight import Check, preflight, refused
from sunglaze.core.review.profiles import Profile

Patience = Callable[[], None]


MOST_BYTES = 128_000_000
"""Of the folder, in which there are small pictures, too."""
NO_ICON = {"icon.png": b""}
"""What is weighed is worn; the icon is not, and takes as long to draw as all else."""
_KEPT = TypeAdapter(list[Check], config=ConfigDict(ser_json_bytes="base64", val_json_bytes="base64"))


def checked(
    effect: Effect, material: Material, profile: Profile, patience: Patience = lambda: None, said: Listing | None = None
) -> Iterator[Check]:
    """All checks, each as it is made; of an effect that does not compile, why. `patience` is called now and then and raises what
    shall end it. `said`: its listing."""
    try:
        yield from _checks(
            effect, material, profile, "effect", lambda: write_package(effect, material, shown=NO_ICON), patience, said
        )
    except BadEffect as error:
        yield from refused(error)


def checked_package(data: bytes, profile: Profile, patience: Patience = lambda: None) -> Iterator[Check]:
    """All checks, each as it is made, of a package alone, as whoever takes it sees it. Raises BadFile for what is no package."""
    effect, material = read_package(data)
    try:
        yield from _checks(effect, material, profile, sha256(data).hex(), lambda: data, patience, listing_of(data))
    except BadEffect as error:
        yield from refused(error)


def _checks(
    effect: Effect,
    material: Material,
    profile: Profile,
    what: str,
    package: Callable[[], bytes],
    patience: Patience,
    said: Listing | None,
) -> Iterator[Check]:
    """`what`: tells packages from effects, and from each other."""
    state = "\n".join(one.model_dump_json() if one is not None else "" for one in (effect, profile, said))
    name, cache = f"check|{edition()}|{what}|{sha256(state.encode()).hex()}", named(PICTURES, MOST_BYTES)
    known = cache.read(name) if cache is not None else None
    if known is not None:
        yield from _KEPT.validate_json(bytes(known))
        return

    def weighed() -> tuple[int, str]:
        data = package()
        heaviest = next(piece for piece in pieces(data) if piece.file not in SHOWN)
        return carried(data), f"{heaviest.what} ({heaviest.file})"

    found = []
    for one in preflight(effect, material, profile, weighed, patience, said):
        found.append(one)
        yield one
    if cache is not None:
        cache.write(name, _KEPT.dump_json(found))
