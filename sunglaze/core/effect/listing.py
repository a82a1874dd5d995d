"""What is said and shown of an effect where it is published: texts, categories, icon, clip, who made it.
Not part of the effect."""

from __future__ import annotations

import datetime
from typing import Annotated, Any

from pydantic import Field, ValidationError, field_validator, model_validator

from sunglaze.core.camera.cast import SCRIPTS
from sunglaze.core.camera.lighting import LIGHTS
from sunglaze.core.camera.people import PEOPLE
from sunglaze.core.effect.document import UNNAMED, Effect, Hash
from sunglaze.core.effect.motions import Strict
from sunglaze.core.errors import BadFile, in_words

CATEGORIES = {
    "colour": "Colour and light", "film": "Old film", "faces": "Faces and make-up", "worn": "Worn on the head",
    "places": "Other places", "weather": "Weather and water", "glitch": "Broken signals", "drawn": "Drawn and printed",
    "words": "Words and posters", "play": "To play with", "two": "For two", "night": "For the night",
}  # fmt: skip
"""Keys of categories, and what they are called."""
MOST_CATEGORIES, MOST_KEYWORDS, MOST_LANGUAGES = 12, 60, 20
CLIP_SECONDS = 4.0
_Seconds = Annotated[float, Field(ge=0.0, le=120.0, allow_inf_nan=False)]
_Part = Annotated[float, Field(ge=0.0, le=1.0, allow_inf_nan=False)]


class Texts(Strict):
    """What is said of an effect in one language."""

    language: Annotated[str, Field(pattern=r"^[a-z]{2}(-[A-Z]{2})?$")] = "en"
    name: Annotated[str, Field(min_length=1, max_length=80)]
    line: Annotated[str, Field(max_length=160)] = ""
    how: Annotated[str, Field(max_length=400)] = ""


class Seen(Strict):
    """Who is before the camera. `own`: what the effect is looked at on, where that is footage of the artist's own."""

    who: str = "lamp-tender"
    script: str = "talk"
    light: str = "noon"
    own: bool = False

    @model_validator(mode="after")
    def _known(self) -> Seen:
        for what, value, known in (
            ("performer", self.who, PEOPLE),
            ("script", self.script, SCRIPTS),
            ("light", self.light, LIGHTS),
        ):
            if value not in known:
                raise ValueError(f"there is no {what} '{value}'; there are {', '.join(known)}")
        return self


ICON, ICON_FRAME = 256, (540, 960)
"""Pixels of an icon's side; columns and rows of the frames that icons are cut from."""


class IconAt(Strict):
    """A square of a frame: its middle, and its side as a part of the picture's width. `picture`: one of the shelf instead."""

    seen: Seen = Seen()
    seconds: _Seconds = 0.4
    u: _Part = 0.5
    v: _Part = 0.4
    side: Annotated[float, Field(ge=0.1, le=1.0)] = 1.0
    picture: Hash | None = None


class ClipAt(Strict):
    """A span of a script, or of own footage."""

    seen: Seen = Seen()
    begin: _Seconds = 0.0
    seconds: Annotated[float, Field(ge=0.5, le=30.0)] = CLIP_SECONDS


class Listing(Strict):
    """All of it. `texts`: the first is shown where a visitor's language is not among them. `clip`: none where nothing is filmed.
    `licence`: of the effect's material, in a few words."""

    texts: Annotated[tuple[Texts, ...], Field(min_length=1, max_length=MOST_LANGUAGES)]
    categories: Annotated[tuple[str, ...], Field(max_length=MOST_CATEGORIES)] = ()
    keywords: Annotated[tuple[Annotated[str, Field(min_length=1, max_length=40)], ...], Field(max_length=MOST_KEYWORDS)] = ()
    icon: IconAt = IconAt()
    clip: ClipAt | None = None
    made_by: Annotated[str, Field(max_length=80)] = ""
    licence: Annotated[str, Field(max_length=200)] = ""
    date: datetime.date | None = None

    @field_validator("categories")
    @classmethod
    def _known_categories(cls, given: tuple[str, ...]) -> tuple[str, ...]:
        for one in given:
            if one not in CATEGORIES:
                raise ValueError(f"there is no category '{one}'; there are {', '.join(CATEGORIES)}")
        return tuple(dict.fromkeys(given))

    @field_validator("keywords")
    @classmethod
    def _once(cls, given: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(dict.fromkeys(" ".join(word.split()) for word in given))

    @field_validator("texts")
    @classmethod
    def _one_a_language(cls, given: tuple[Texts, ...]) -> tuple[Texts, ...]:
        if len({one.language for one in given}) < len(given):
            raise ValueError("a language has its texts twice")
        return given


_OF_KINDS = {
    "colour": "lookup-grade tone-and-colour decision-list hue-curves black-and-white colour-ramp two-colour-map vignette glow",
    "film": "dust film-grain paper trails two-picture-exposure",
    "faces": "make-up face-paint even-skin eyes-and-teeth face-shape",
    "worn": "mesh pin pinned-picture ring-in-depth", "places": "deep-backdrop cut-out depth-of-field frosted-panel",
    "weather": "reveal ripple drift sparkle", "glitch": "glitch blocks tape colour-fringes displace",
    "drawn": "outline ink posterize cells", "words": "text pinned-text", "play": "freeze face-follow mirror",
}  # fmt: skip
_BY_KIND = {kind: category for category, kinds in _OF_KINDS.items() for kind in kinds.split()}
_BY_HAND = ("tap", "short-tap", "double-tap", "press")


def suggested(effect: Effect, date: datetime.date | None = None) -> Listing:
    """What can be known of an effect: its name, categories and keywords by its layers, how it is used by cues and dials."""
    kinds = [layer.kind for layer in effect.layers if layer.on]
    categories = list(dict.fromkeys(_BY_KIND[kind] for kind in kinds if kind in _BY_KIND))[:4]
    keywords = list(dict.fromkeys(layer.name.lower()[:40] for layer in effect.layers if layer.on))[:12]
    ways = [f"Turn {dial.title.lower()} as you like." for dial in effect.dials[:2]]
    taps = any(cue.kind in _BY_HAND for cue in effect.cues)
    how = " ".join([*(["Tap the picture."] if taps else []), *ways]) or "Look into the camera."
    seen = Seen(own=effect.still is not None)
    return Listing(
        texts=(Texts(name="A new effect" if effect.name == UNNAMED else effect.name, how=how),),
        categories=tuple(categories),
        keywords=tuple(keywords),
        icon=IconAt(seen=seen),
        clip=ClipAt(seen=seen),
        date=date,
    )


def read_listing(plain: Any) -> Listing:
    """A listing from plain data. Raises BadFile with what is wrong and where."""
    try:
        return Listing.model_validate(plain)
    except ValidationError as error:
        raise BadFile(in_words(error, "the listing")) from None
