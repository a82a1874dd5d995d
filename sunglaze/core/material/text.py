"""Words as pictures: drawn once, here, so that every target shows the same letters."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any, Literal, get_args

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from sunglaze.core.errors import BadEffect

FONTS = Path(__file__).parent / "fonts"
Font = Literal["words", "figures"]
Align = Literal["left", "centre", "right"]
PIXELS = 96
"""Height of an em. Text is shown smaller than this on all but the largest screens."""
LONGEST = 400
MOST_LINES = 24
WEIGHTS = {"words": (400, 900), "figures": (200, 800)}
LEADING = 1.22


@dataclass(frozen=True)
class Text:
    """`width`: ems after which a line wraps. `weight`: 400 is regular, 700 bold."""

    text: str
    font: Font = "words"
    weight: int = 650
    align: Align = "centre"
    width: float = 12.0


def read_text(plain: Any) -> Text:
    """Text as it is set: {"text": ..., "font": words or figures, "weight": 400, "align": left, centre or right, "width": 12}.

    Raises BadEffect.
    """
    if not isinstance(plain, dict) or not isinstance(plain.get("text"), str) or set(plain) - set(Text.__annotations__):
        raise BadEffect("text is set as {'text': ..., 'font': ..., 'weight': ..., 'align': ..., 'width': ...}")
    made = Text(**plain)
    if len(made.text) > LONGEST:
        raise BadEffect(f"the text has {len(made.text)} signs, more than {LONGEST}; shorten it")
    if made.font not in get_args(Font) or made.align not in get_args(Align):
        raise BadEffect(f"fonts are {', '.join(get_args(Font))}; text stands {', '.join(get_args(Align))}")
    for name, number, (low, high) in (("weight", made.weight, (100, 1000)), ("width", made.width, (2, 60))):
        if isinstance(number, bool) or not isinstance(number, int | float) or not low <= number <= high:
            raise BadEffect(f"the text's {name} lies between {low} and {high}")
    missing = sorted({sign for sign in made.text if sign not in "\n\r\t" and not _draws(made.font, sign)})
    if missing:
        raise BadEffect(f"the font '{made.font}' has no sign for {' '.join(missing[:5])}; write it otherwise")
    return made


@lru_cache(maxsize=8)
def _font(font: Font, weight: int) -> ImageFont.FreeTypeFont:
    made = ImageFont.truetype(FONTS / f"{font}.ttf", PIXELS)
    low, high = WEIGHTS[font]
    made.set_variation_by_axes([min(max(weight, low), high)])
    return made


@lru_cache(maxsize=2048)
def _draws(font: Font, sign: str) -> bool:
    face = _font(font, 400)
    return bytes(face.getmask(sign)) != bytes(face.getmask("\U0010fffe")) or face.getlength(sign) != face.getlength("\U0010fffe")


def lines_of(text: Text) -> list[str]:
    """The text in lines that are no wider than its width, broken between words; a longer word stands alone."""
    face = _font(text.font, round(text.weight))
    lines = []
    for paragraph in text.text.replace("\t", " ").splitlines() or [""]:
        line = ""
        for word in paragraph.split():
            longer = f"{line} {word}".strip()
            if line and face.getlength(longer) > text.width * PIXELS:
                lines.append(line)
                longer = word
            line = longer
        lines.append(line)
    return lines[:MOST_LINES]


@lru_cache(maxsize=32)
def text_picture(text: Text) -> NDArray[np.uint8]:
    """White letters, straight alpha: (height, width, 4) of bytes, as tight as its lines; one clear pixel where there are none."""
    face = _font(text.font, round(text.weight))
    lines = lines_of(text)
    widths = [face.getlength(line) for line in lines]
    if not any(widths):
        return np.zeros((1, 1, 4), np.uint8)
    margin, leading = PIXELS // 8, round(PIXELS * LEADING)
    room = Image.new("L", (round(max(widths)) + 2 * margin, leading * len(lines) + 2 * margin))
    draw = ImageDraw.Draw(room)
    for n, (line, width) in enumerate(zip(lines, widths, strict=True)):
        left = {"left": 0.0, "centre": (max(widths) - width) / 2, "right": max(widths) - width}[text.align]
        draw.text((margin + left, margin + n * leading), line, font=face, fill=255)
    alpha = np.asarray(room)
    return np.dstack([np.full((*alpha.shape, 3), 255, np.uint8), alpha])
