"""Pre-flight of an effect with its package: what it weighs is known only once it is packed."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.listing import Listing
from sunglaze.core.effect.literals import Material
from sunglaze.core.errors import BadEffect
from sunglaze.core.package.archive import SHOWN, carried, listing_of, pieces, read_package, write_package
from sunglaze.core.review.preflight import Check, preflight, refused
from sunglaze.core.review.profiles import Profile

Patience = Callable[[], None]


def checked(
    effect: Effect, material: Material, profile: Profile, patience: Patience = lambda: None, said: Listing | None = None
) -> Iterator[Check]:
    """All checks, each as it is made; of an effect that does not compile, why. `patience` is called now and then and raises what
    shall end it. `said`: its listing."""
    try:
        yield from _checks(effect, material, profile, write_package(effect, material), patience, said)
    except BadEffect as error:
        yield from refused(error)


def checked_package(data: bytes, profile: Profile, patience: Patience = lambda: None) -> Iterator[Check]:
    """All checks, each as it is made, of a package alone, as whoever takes it sees it. Raises BadFile for what is no package."""
    effect, material = read_package(data)
    try:
        yield from _checks(effect, material, profile, data, patience, listing_of(data))
    except BadEffect as error:
        yield from refused(error)


def _checks(
    effect: Effect, material: Material, profile: Profile, package: bytes, patience: Patience, said: Listing | None
) -> Iterator[Check]:
    heaviest = next(piece for piece in pieces(package) if piece.file not in SHOWN)
    return preflight(effect, material, profile, carried(package), f"{heaviest.what} ({heaviest.file})", patience, said)
