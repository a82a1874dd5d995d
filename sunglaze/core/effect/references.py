"""What effects refer to, as plain data: lookups, sequences as they are played, the wearer's photo; and colours. Each checked."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Final, Literal

from sunglaze.core.errors import BadEffect
from sunglaze.core.material.sequence import EACH
from sunglaze.core.nodes.playing import ORDERS

_HEX = re.compile(r"#[0-9a-fA-F]{6}([0-9a-fA-F]{2})?")
STAGE = re.compile(r"[A-Za-z0-9_-]{1,40}")
HASH = re.compile(r"[0-9a-f]{64}")
LAYOUTS = ("strip", "grid", "hald")
Layout = Literal["strip", "grid", "hald"]
FASTEST, FARTHEST = 60.0, 600.0
"""Pictures a second and seconds of shift that a sequence may be set to."""
MOST_SPEED = 20.0


@dataclass(frozen=True)
class LookupRef:
    """A lookup asset and, where the artist said otherwise than what was found, its layout."""

    asset: str
    layout: Layout | None = None


def lookup_ref(plain: Any) -> LookupRef:
    """A lookup as it is set: {"asset": HASH, "layout": strip, grid or hald, or none}. Raises BadEffect."""
    if not isinstance(plain, dict) or not isinstance(plain.get("asset"), str) or not HASH.fullmatch(plain["asset"]):
        raise BadEffect("a lookup is set as {'asset': its 64 hexadecimal digits}")
    if set(plain) - {"asset", "layout"} or plain.get("layout") not in (None, *LAYOUTS):
        raise BadEffect(f"the layout of a lookup is one of {', '.join(LAYOUTS)}")
    return LookupRef(plain["asset"], plain.get("layout"))


@dataclass(frozen=True)
class Played:
    """A sequence in a picture's place. `rate`: pictures a second. `order`: one of ORDERS. `shift`: seconds that it is ahead.
    `cue`: it starts, and starts again, when this cue fires, and shows its first picture until then; none: with the effect."""

    asset: str
    rate: float
    order: str = "loop"
    shift: float = 0.0
    cue: str | None = None

    @property
    def identity(self) -> str:
        """What a program calls it. Where pictures are shuffled each is shown for equally long."""
        return self.asset + (EACH if self.order == "shuffled" else "")


@dataclass(frozen=True)
class MeshRef:
    """A mesh of the shelf. `motion`: which of its motions moves it, by name; `speed`: seconds of it a second."""

    asset: str
    motion: str | None = None
    speed: float = 1.0


def mesh_ref(plain: Any) -> MeshRef:
    """A mesh as it is set: {"asset": HASH, "motion": its name or none, "speed": 1}. Raises BadEffect."""
    if not isinstance(plain, dict) or set(plain) - {"asset", "motion", "speed"} or not _is_hash(plain.get("asset")):
        raise BadEffect(
            "a mesh is set as {'asset': its 64 hexadecimal digits, 'motion': the name of one of its motions, or none}"
        )
    motion, speed = plain.get("motion"), plain.get("speed", 1.0)
    if motion is not None and (not isinstance(motion, str) or len(motion) > 80):
        raise BadEffect("what moves a mesh is set by its motion's name")
    if not is_number(speed) or abs(speed) > MOST_SPEED:
        raise BadEffect(f"a mesh moves at {-MOST_SPEED:g} to {MOST_SPEED:g} times its speed")
    return MeshRef(plain["asset"], motion, float(speed))


def _is_hash(plain: Any) -> bool:
    return isinstance(plain, str) and HASH.fullmatch(plain) is not None


WEARER: Final = "wearer"
"""What a program calls the wearer's own photo."""


@dataclass(frozen=True)
class Wearers:
    """The wearer's own photo, chosen on the phone. `asset`: what stands in for it until then."""

    asset: str | None


def wearers(plain: Mapping[str, Any]) -> Wearers:
    """The wearer's photo as it is set: {"wearer": true, "asset": HASH or none}. Raises BadEffect."""
    asset = plain.get("asset")
    if plain.get("wearer") is not True or set(plain) - {"wearer", "asset"}:
        raise BadEffect("the wearer's photo is set as {'wearer': true, 'asset': the 64 digits of what stands in for it}")
    if asset is not None and (not isinstance(asset, str) or not HASH.fullmatch(asset)):
        raise BadEffect("what stands in for the wearer's photo is set by its 64 hexadecimal digits")
    return Wearers(asset)


def played(plain: Mapping[str, Any]) -> Played:
    """A sequence as it is set: {"asset": HASH, "rate": 12, "order": one of ORDERS, "shift": seconds, "cue": a cue's id or none}.
    Raises BadEffect."""
    asset, rate, order, shift = plain.get("asset"), plain.get("rate"), plain.get("order", "loop"), plain.get("shift", 0.0)
    cue = plain.get("cue")
    if cue is not None and (not isinstance(cue, str) or not STAGE.fullmatch(cue)):
        raise BadEffect("what starts a sequence is set by a cue's id")
    if not isinstance(asset, str) or not HASH.fullmatch(asset) or set(plain) - {"asset", "rate", "order", "shift", "cue"}:
        raise BadEffect("a sequence is set as {'asset': its 64 hexadecimal digits, 'rate': pictures a second}")
    if order not in ORDERS:
        raise BadEffect(f"a sequence is played {', '.join(ORDERS)}; '{order}' is none of these")
    speed, ahead = (float(one) if is_number(one) else math.nan for one in (rate, shift))  # type: ignore[arg-type]
    if not 0 <= speed <= FASTEST:
        raise BadEffect(f"the rate of a sequence is 0 to {FASTEST:g} pictures a second")
    if not abs(ahead) <= FARTHEST:
        raise BadEffect(f"a sequence is shifted by up to {FARTHEST:g} seconds")
    return Played(asset, speed, order, ahead, cue)


def colour_parts(plain: Any) -> tuple[float, float, float, float]:
    """A colour as it is set: sRGB hex, #rrggbb or #rrggbbaa, or three or four numbers. Raises BadEffect."""
    if isinstance(plain, str):
        if not _HEX.fullmatch(plain):
            raise BadEffect(f"'{plain}' is no colour; write it as six hexadecimal digits, like #a8420d")
        parts = tuple(int(plain[n : n + 2], 16) / 255 for n in range(1, len(plain), 2))
    else:
        parts = numbers(plain, (3, 4), "a colour")
    red, green, blue, alpha = (*parts, 1.0)[:4]
    return red, green, blue, alpha


def numbers(plain: Any, counts: tuple[int, ...], what: str) -> tuple[float, ...]:
    """As many finite numbers as one of the counts. Raises BadEffect."""
    good = isinstance(plain, list | tuple) and len(plain) in counts and all(is_number(p) for p in plain)
    if not good:
        raise BadEffect(f"{what} takes {' or '.join(map(str, counts))} numbers")
    return tuple(float(p) for p in plain)


def is_number(plain: Any) -> bool:
    """Whether this is a finite number, and no switch."""
    if isinstance(plain, bool) or not isinstance(plain, int | float):
        return False
    return abs(plain) <= 3e38 if isinstance(plain, int) else math.isfinite(plain)
