"""Proof sheets as pages: laid out once, in points, then written as PDF (reportlab) or drawn as PNG (Pillow)."""

from __future__ import annotations

import io
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from types import MappingProxyType

from PIL import Image, ImageDraw, ImageFont

from sunglaze.core.camera.cameras import SCREENS
from sunglaze.core.material.text import FONTS, WEIGHTS, Font
from sunglaze.core.proof.cells import Cell, Figures
from sunglaze.core.proof.sheet import Place, Sheet, title
from sunglaze.core.proof.standing import Said, outliers, said

PAGE = (842.0, 595.0)
"""A4, landscape, in points."""
EDGE, WORDS, GAP = 24.0, 168.0, 8.0
LINE, FIGURES = 14.0, 13.0
SMALLER = 0.6
SCALE = 2
"""Pixels a point in a PNG."""
PAPER, INK, SECOND, LOOK, GREY, ON_GREY = "#FAF8F3", "#23211D", "#5A554A", "#A8420D", "#6B6B6B", "#FFFFFF"
FRAME = "#FF9A5C"
UPPER = 0.06, 0.70
"""The part of an upright picture that is shown where all look at heads: from and to, of its height."""


@dataclass(frozen=True)
class Page:
    """What is on a page, in points from its upper left corner: boxes (left, top, width, height, colour), frames likewise,
    pictures (left, top, width, height, JPEG, part of its height that is shown), words (left, baseline, size, font, colour,
    text)."""

    height: float = PAGE[1]
    boxes: list[tuple[float, float, float, float, str]] = field(default_factory=list)
    pictures: list[tuple[float, float, float, float, bytes, tuple[float, float]]] = field(default_factory=list)
    frames: list[tuple[float, float, float, float, str]] = field(default_factory=list)
    words: list[tuple[float, float, float, Font, str, str]] = field(default_factory=list)


@dataclass(frozen=True)
class Proof:
    """The sheet of one effect with its cells. `own`: names of own photos and clips."""

    name: str
    sheet: Sheet
    cells: Mapping[Place, Cell]
    own: Mapping[str, str] = field(default_factory=lambda: MappingProxyType({}))

    @property
    def figures(self) -> dict[Place, Figures]:
        """Of each cell."""
        return {place: cell.figures for place, cell in self.cells.items()}

    @property
    def said(self) -> list[Said]:
        """The sheet in words."""
        return said(self.sheet, self.figures, self.own)

    def as_json(self) -> dict[str, object]:
        """The sheet without its pictures."""
        marks = outliers(self.figures)
        return {
            "format": "sun-glaze/proof",
            "version": 1,
            "name": self.name,
            "sheet": self.sheet.model_dump(),
            "said": [one.model_dump() for one in self.said],
            "cells": [
                {**place.model_dump(), **cell.figures.model_dump(), "outlier": list(marks.get(place, ()))}
                for place, cell in self.cells.items()
            ],
        }


def figure_words(one: Figures) -> tuple[str, str, str]:
    """What stands under a print: shift of skin, share that clips, contrast."""
    shift = "–" if one.shift is None else f"{one.shift:.1f}"
    return shift, f"{100 * one.clipped:.1f} %", f"{one.contrast:.0f}"


def pages_of(proof: Proof) -> list[Page]:
    """The pages of one effect; the longer axis runs across."""
    sheet = proof.sheet
    turned = len(sheet.rows) > len(sheet.columns)
    across, down = (sheet.rows, sheet.columns) if turned else (sheet.columns, sheet.rows)
    axes = (sheet.down, sheet.across) if turned else (sheet.across, sheet.down)
    heads = "screen" not in axes and "moment" not in axes and sheet.screen[0] == "9:16"
    shapes = [SCREENS[name] for name in (sheet.screen if "screen" in axes else sheet.screen[:1])]
    tall = max(high / wide for wide, high in shapes) * (UPPER[1] - UPPER[0] if heads else 1.0)
    room = PAGE[0] - WORDS - 2 * EDGE - GAP * (len(across) - 1)
    beside, below = FIGURES + GAP + LINE, PAGE[1] - 2 * EDGE - LINE
    width = min(room / len(across), 150.0, (below - beside) / tall)
    # A little smaller is better than a page with one row.
    if len(down) > 1 and (smaller := (below / len(down) - beside) / tall) > SMALLER * width:
        width = min(width, smaller)
    height = width * tall
    step = height + beside
    fit = max(1, int(below / step + 1e-6))
    marks = outliers(proof.figures)
    pages = []
    for first in range(0, len(down), fit):
        page = Page()
        page.boxes.extend([(0, 0, *PAGE, PAPER), (WORDS, 0, PAGE[0] - WORDS, PAGE[1], GREY)])
        _beside(page, proof)
        for n, value in enumerate(across):
            left = WORDS + EDGE + n * (width + GAP)
            page.words.append((left, EDGE + 4, 8.5, "words", ON_GREY, _short(title(axes[0], value, proof.own), width)))
        for m, other in enumerate(down[first : first + fit]):
            top = EDGE + LINE + m * step
            page.words.append((WORDS + EDGE, top + 8, 8, "words", ON_GREY, title(axes[1], other, proof.own)))
            for n, value in enumerate(across):
                place = sheet.place(value, other) if turned else sheet.place(other, value)
                if place in proof.cells:
                    box = (WORDS + EDGE + n * (width + GAP), top + LINE, width, height)
                    _cell(page, box, proof.cells[place], heads, bool(marks.get(place)))
        pages.append(page)
    return pages


def _short(words: str, width: float) -> str:
    most = max(4, int(width / 4.6))
    return words if len(words) <= most else words[: most - 1].rstrip() + "…"


def _cell(page: Page, box: tuple[float, float, float, float], cell: Cell, heads: bool, marked: bool) -> None:
    left, top, width, height = box
    wide, high = SCREENS[cell.place.screen]
    part = UPPER if heads else (0.0, 1.0)
    shape = high * (part[1] - part[0]) / wide
    fitted = min(width, height / shape)
    page.pictures.append((left, top, fitted, fitted * shape, cell.print, part))
    colour = FRAME if marked else ON_GREY
    if marked:
        page.frames.append((left, top, fitted, fitted * shape, FRAME))
    size = min(7.0, width / 11.5)
    for n, words in enumerate(figure_words(cell.figures)):
        page.words.append((left + n * width * 0.36, top + height + 9, size, "figures", colour, words))


def _beside(page: Page, proof: Proof) -> None:
    page.words.append((EDGE, EDGE + 8, 15, "words", INK, _short(proof.name, 200)))
    page.words.append((EDGE, EDGE + 24, 8, "words", SECOND, f"proof sheet, {len(proof.cells)} cells"))
    top = EDGE + 50
    for one in proof.said:
        for line in _wrapped(one.words, WORDS - EDGE - 12, 9):
            page.words.append((EDGE, top, 9, "words", LOOK if one.look else INK, line))
            top += 12.5
        top += 6
    top = max(top + 10, PAGE[1] - 76)
    for line in ("Under each print:", "shift of skin (CIEDE2000)", "lost in light or shadow", "contrast (deviation of L*)"):
        page.words.append((EDGE, top, 8, "words", SECOND, line))
        top += 11


def overview(proofs: Sequence[Proof], columns: int = 3) -> Page:
    """Many effects on one page: each its name, what stands out first, and all its cells in a row."""
    room = (PAGE[0] - 2 * EDGE - (columns - 1) * 18) / columns
    most = max((len(one.sheet.places) for one in proofs), default=1)
    width = (room - (most - 1) * 3) / most
    shape = 16 / 9 * (UPPER[1] - UPPER[0])
    step = width * shape + 40
    rows = -(-len(proofs) // columns)
    page = Page(height=2 * EDGE + 30 + rows * step)
    page.boxes.append((0, 0, PAGE[0], page.height, GREY))
    page.words.append((EDGE, EDGE + 10, 15, "words", ON_GREY, f"Proof of {len(proofs)} effects"))
    for n, proof in enumerate(proofs):
        left, top = EDGE + n % columns * (room + 18), EDGE + 30 + n // columns * step
        page.words.append((left, top + 8, 9.5, "words", ON_GREY, proof.name))
        first = proof.said[0] if proof.said else Said(words="")
        words = next(iter(_wrapped(first.words, room, 6.5)), "")
        page.words.append((left, top + 18, 6.5, "words", FRAME if first.look else ON_GREY, words))
        marks = outliers(proof.figures)
        for m, place in enumerate(proof.sheet.places):
            if place in proof.cells:
                box = (left + m * (width + 3), top + 23, width, width * shape)
                cell = proof.cells[place]
                part = UPPER if place.screen == "9:16" else (0.0, 1.0)
                page.pictures.append((*box, cell.print, part))
                if marks.get(place):
                    page.frames.append((*box, FRAME))
    return page


def _wrapped(text: str, width: float, size: float) -> Iterator[str]:
    face = _face("words", 10)
    line = ""
    for word in text.split():
        longer = f"{line} {word}".strip()
        if line and face.getlength(longer) * size / 10 > width:
            yield line
            longer = word
        line = longer
    if line:
        yield line


def _face(font: Font, size: float) -> ImageFont.FreeTypeFont:
    made = ImageFont.truetype(FONTS / f"{font}.ttf", size)
    made.set_variation_by_axes([max(WEIGHTS[font][0], 400)])
    return made


def _part(jpeg: bytes, part: tuple[float, float]) -> Image.Image:
    with Image.open(io.BytesIO(jpeg)) as whole:
        return whole.crop((0, round(whole.height * part[0]), whole.width, round(whole.height * part[1])))


def write_pdf(pages: Sequence[Page], name: str) -> bytes:
    """A PDF of pages; equal pages give equal bytes."""
    # Imported where it is used: most of who looks at sheets never writes one.
    from reportlab.lib.colors import HexColor
    from reportlab.lib.utils import ImageReader
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont
    from reportlab.pdfgen.canvas import Canvas

    for font in WEIGHTS:
        if font not in pdfmetrics.getRegisteredFontNames():
            pdfmetrics.registerFont(TTFont(font, FONTS / f"{font}.ttf"))
    room = io.BytesIO()
    canvas = Canvas(room, pagesize=PAGE, invariant=1)
    canvas.setTitle(name)
    for page in pages:
        canvas.setPageSize((PAGE[0], page.height))
        for left, top, width, height, colour in page.boxes:
            canvas.setFillColor(HexColor(colour))
            canvas.rect(left, page.height - top - height, width, height, stroke=0, fill=1)
        for left, top, width, height, jpeg, part in page.pictures:
            room_of_part = io.BytesIO()
            _part(jpeg, part).save(room_of_part, "JPEG", quality=92)
            canvas.drawImage(ImageReader(room_of_part), left, page.height - top - height, width, height)
        for left, top, width, height, colour in page.frames:
            canvas.setStrokeColor(HexColor(colour))
            canvas.setLineWidth(1.5)
            canvas.rect(left, page.height - top - height, width, height, stroke=1, fill=0)
        for left, base, size, font, colour, text in page.words:
            canvas.setFillColor(HexColor(colour))
            canvas.setFont(font, size)
            canvas.drawString(left, page.height - base, text)
        canvas.showPage()
    canvas.save()
    return room.getvalue()


def write_png(pages: Sequence[Page]) -> bytes:
    """Pages as one PNG, one below the other."""
    height = round(sum(page.height for page in pages) * SCALE)
    whole = Image.new("RGB", (round(PAGE[0] * SCALE), height))
    draw, down = ImageDraw.Draw(whole), 0.0
    for page in pages:

        def at(left: float, top: float, width: float, height: float, down: float = down) -> tuple[int, int, int, int]:
            return (
                round(left * SCALE),
                round((top + down) * SCALE),
                round((left + width) * SCALE),
                round((top + down + height) * SCALE),
            )

        for *box, colour in page.boxes:
            draw.rectangle(at(*box), fill=colour)
        for *box, jpeg, part in page.pictures:
            one, two, three, four = at(*box)
            whole.paste(_part(jpeg, part).resize((three - one, four - two), Image.Resampling.LANCZOS), (one, two))
        for *box, colour in page.frames:
            draw.rectangle(at(*box), outline=colour, width=3)
        for left, base, size, font, colour, text in page.words:
            draw.text((left * SCALE, (base + down) * SCALE), text, fill=colour, font=_face(font, size * SCALE), anchor="ls")
        down += page.height
    room = io.BytesIO()
    whole.save(room, "PNG", optimize=True)
    return room.getvalue()
