"""Pre-flight of an effect with its package: what it weighs is known only once it is packed."""

from __future__ import annotations

from collections.abc import Callable

from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.literals import Material
from sunglaze.core.errors import BadEffect
from sunglaze.core.package.archive import pieces, write_package
from sunglaze.core.review.preflight import Check, Profile, preflight, refused


def checked(effect: Effect, material: Material, profile: Profile, patience: Callable[[], None] = lambda: None) -> list[Check]:
    """All checks; of an effect that does not compile, why. `patience` is called now and then and raises what shall end it."""
    try:
        package = write_package(effect, material)
        heaviest = pieces(package)[0]
        return preflight(effect, material, profile, len(package), f"{heaviest.what} ({heaviest.file})", patience)
    except BadEffect as error:
        return refused(error)
