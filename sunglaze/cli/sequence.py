"""`sunglaze sequence`: a clip, an animated picture, numbered pictures or a zip as a sequence, from a shell."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Literal, TypeVar, cast

import typer

from sunglaze.core.errors import BadFile

if TYPE_CHECKING:
    from sunglaze.core.material.cutting import Clip, Flip, Turn
    from sunglaze.core.material.reels import Reel

T = TypeVar("T")
FLIPS: dict[str, Flip] = {"none": "none", "h": "across", "v": "down"}


def read(path: Path) -> Reel | None:
    """What lies there where it is a sequence already: a folder, a zip, an animated picture; none for a clip. Raises BadFile."""
    from sunglaze.core.material.reels import is_animated, read_animated, read_numbered, read_zip

    if path.is_dir():
        return read_numbered([(one.name, one.read_bytes()) for one in sorted(path.iterdir()) if one.is_file()])
    data = path.read_bytes()
    if data.startswith(b"PK"):
        return read_zip(data)
    return read_animated(data) if is_animated(data) else None


def written(reel: Reel, out: Path) -> str:
    """Write a sequence as a zip, or as numbered pictures into a folder that is new or empty; says what. Raises BadFile."""
    from sunglaze.core.material.reels import ending, write_sequence

    one = reel.sequence
    if out.suffix.lower() == ".zip":
        out.write_bytes(write_sequence(one))
    else:
        if out.exists() and any(out.iterdir()):
            raise BadFile(f"{out} holds files already; choose a new folder, or a name that ends in .zip")
        out.mkdir(parents=True, exist_ok=True)
        for number, data in enumerate(one.files, 1):
            (out / f"{number:04}.{ending(data)}").write_bytes(data)
    size = "x".join(map(str, reel.size))
    return f"{out}: {one.frames} pictures of {size}, {one.frames / one.seconds:g} a second, {one.weight / 1e6:.2f} MB"


def _pair(text: str, between: str, each: Callable[[str], T], what: str) -> tuple[T, T]:
    try:
        first, second = (each(part) for part in text.split(between))
    except ValueError:
        raise BadFile(f"{what}; this is '{text}'") from None
    return first, second


def sequence(
    source: Annotated[Path, typer.Argument(metavar="IN", help="A clip, an animated picture, a zip, or a folder of pictures.")],
    out: Annotated[Path, typer.Option(help="A .zip, or a new folder.")],
    turn: Annotated[Literal["0", "90", "180", "270"], typer.Option(help="Degrees clockwise.")] = "0",
    flip: Annotated[Literal["none", "h", "v"], typer.Option(help="h: left to right, v: top to bottom.")] = "none",
    crop: Annotated[str | None, typer.Option(help="LEFT,TOP,RIGHT,BOTTOM in parts from 0 to 1.")] = None,
    size: Annotated[str | None, typer.Option(help="WIDTHxHEIGHT in pixels; the crop's own where not given.")] = None,
    fit: Annotated[Literal["cover", "contain", "stretch"], typer.Option(help="How it is fitted into the size.")] = "cover",
    span: Annotated[str | None, typer.Option(help="FROM:TO in seconds.")] = None,
    rate: Annotated[float | None, typer.Option(help="Pictures a second; its own where not given.")] = None,
    black_to_clear: Annotated[bool, typer.Option("--black-to-clear", help="Light on black becomes light on clear.")] = False,
    soften_loop: Annotated[float, typer.Option(min=0, help="Seconds over which the end goes over into the beginning.")] = 0.0,
    quality: Annotated[int | None, typer.Option(min=1, max=101, help="Of WebP: 78 where not given; 101 is lossless.")] = None,
) -> None:
    """Make a sequence of a clip, an animated picture, a zip or a folder of numbered pictures: what moves in an effect."""
    from sunglaze.core.material.cutting import USUAL_QUALITY, WHOLE, Cut, Shown, cut_clip
    from sunglaze.core.material.footage import Footage

    box = WHOLE
    if crop is not None:
        parts = crop.split(",")
        try:
            left, top, right, bottom = (float(part) for part in parts)
        except ValueError:
            raise BadFile(f"--crop takes LEFT,TOP,RIGHT,BOTTOM in parts from 0 to 1; this is '{crop}'") from None
        box = (left, top, right, bottom)
    shape = _pair(size.lower(), "x", int, "--size takes WIDTHxHEIGHT in whole pixels, like 720x1280") if size else None
    part = _pair(span, ":", float, "--span takes FROM:TO in seconds, like 0.5:2.5") if span else None
    cut = Cut(
        cast("Turn", int(turn)), FLIPS[flip], box, shape, fit, part, rate,
        black_to_clear, soften_loop, None if quality == 101 else quality or USUAL_QUALITY,
    )  # fmt: skip
    try:
        reel = read(source)
        for note in reel.notes if reel else ():
            typer.echo(f"{source}: {note}", err=True)
        # What is a sequence already and shall stay as it is keeps its times and files.
        if reel is None or cut != Cut(quality=cut.quality):
            clip: Clip = Footage(source.read_bytes()) if reel is None else Shown(reel.sequence)
            reel = cut_clip(clip, cut)
    except BadFile as error:
        raise BadFile(f"{source}: {error}") from None
    typer.echo(written(reel, out))
