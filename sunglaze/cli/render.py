"""`sunglaze render`: a frame of an effect, or a clip, from a shell."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from sunglaze.cli.options import Data, Which
from sunglaze.core.errors import BadFile

if TYPE_CHECKING:
    from sunglaze.core.camera.cameras import Camera
    from sunglaze.core.camera.cast import Sitting
    from sunglaze.core.effect.document import Effect
    from sunglaze.core.effect.motions import Dial
    from sunglaze.core.moment.moment import Source


def sitting_of(text: str) -> Sitting:
    """Who sits before the stand-in camera, from WHO:SCRIPT:LIGHT[:back][:tracked], all but the first to be left out. Raises
    BadFile."""
    from sunglaze.core.camera.cast import SCRIPTS, Sitting
    from sunglaze.core.camera.lighting import LIGHTS
    from sunglaze.core.camera.people import PEOPLE

    parts = [part for part in text.split(":") if part not in ("back", "tracked")]
    back, tracked = (word in text.split(":") for word in ("back", "tracked"))
    plain = Sitting()
    who, script, light = [*parts, *(plain.who, plain.script, plain.light)[len(parts) :]][:3]
    for what, given, known in (("performer", who, PEOPLE), ("script", script, SCRIPTS), ("light", light, LIGHTS)):
        if given not in known:
            raise BadFile(f"--camera {text}: there is no {what} '{given}'; there are {', '.join(known)}")
    if len(parts) > 3:
        raise BadFile(f"--camera takes WHO:SCRIPT:LIGHT, and :back for the back camera; this is '{text}'")
    return Sitting(who, script, light, back, tracked)


def dials_of(effect: Effect, settings: list[str]) -> dict[str, float]:
    """The moment's dials, from NAME=VALUE: by title or id, a number in the dial's own unit, on or off, a choice, or a colour.
    Raises BadFile."""
    found: dict[str, float] = {}
    for text in settings:
        name, equals, given = text.partition("=")
        dial = next((one for one in effect.dials if name in (one.id, one.title)), None)
        if dial is None or not equals:
            known = ", ".join(f"'{one.title}'" for one in effect.dials) or "none"
            raise BadFile(f"--dial {text}: write NAME=VALUE; the effect's dials are {known}")
        found |= dial.numbers(_stands(dial, given, text))
    return found


def _stands(dial: Dial, given: str, text: str) -> float | str:
    if dial.kind == "choice":
        if given not in dial.choices:
            raise BadFile(f"--dial {text}: its choices are {', '.join(dial.choices)}")
        return dial.choices.index(given)
    if dial.kind == "switch":
        if given not in ("on", "off"):
            raise BadFile(f"--dial {text}: it is on or off")
        return float(given == "on")
    if dial.kind == "colour":
        return given
    try:
        number = float(given)
    except ValueError:
        raise BadFile(f"--dial {text}: '{given}' is no number") from None
    share = (number - dial.low) / (dial.high - dial.low) if dial.high != dial.low else 0.0
    if not 0 <= share <= 1:
        raise BadFile(f"--dial {text}: it goes from {dial.low:g} to {dial.high:g}")
    return share


def render_effect(
    effect: Which,
    out: Annotated[Path | None, typer.Option("--out", help="One frame: where to write; .png or .jpg.")] = None,
    clip: Annotated[
        Path | None, typer.Option(help="A clip: .mp4, .webm, .gif, or a new folder, which gets lossless PNG files.")
    ] = None,
    image: Annotated[Path | None, typer.Option("--image", help="Picture or clip in the camera's place.")] = None,
    tracks: Annotated[Path | None, typer.Option(help="What was tracked in it: an archive of tracks.")] = None,
    camera: Annotated[str | None, typer.Option(help="Who is before the stand-in: WHO:SCRIPT:LIGHT[:back][:tracked].")] = None,
    time: Annotated[float, typer.Option(min=0, help="Of one frame: seconds from the start.")] = 0.0,
    seconds: Annotated[float, typer.Option(help="Of a clip: how long it is.")] = 4.0,
    begin: Annotated[float, typer.Option("--from", min=0, help="Of a clip: seconds from the start.")] = 0.0,
    fps: Annotated[float | None, typer.Option(help="Of a clip: pictures a second, 30 where not given.")] = None,
    size: Annotated[str | None, typer.Option(help="WIDTHxHEIGHT; the picture's own, or 540x960.")] = None,
    sets: Annotated[list[str] | None, typer.Option("--set", help="LAYER.CONTROL=VALUE, as often as wanted.")] = None,
    rehearsal: Annotated[
        Path | None, typer.Option(help="Touch, cues and dials by frame, as JSON; else the effect's own.")
    ] = None,
    dial: Annotated[list[str] | None, typer.Option(help="NAME=VALUE, where a dial of the wearer's stands.")] = None,
    data: Data = Path(".data"),
) -> None:
    """Render one frame of an effect, or a clip of it: on the picture or clip given here, else on what it is looked at on."""
    import numpy as np

    from sunglaze.cli.inputs import effect_of, size_of, write_picture
    from sunglaze.core.camera.cameras import Own
    from sunglaze.core.camera.cast import StandIn
    from sunglaze.core.camera.tracks import read_tracks
    from sunglaze.core.effect.compiling import compile_effect
    from sunglaze.core.effect.document import set_control
    from sunglaze.core.engine.playback import play_to
    from sunglaze.core.material.footage import Footage
    from sunglaze.core.moment.moment import RATE
    from sunglaze.core.moment.rehearsal import Dialled, Rehearsed, read_rehearsal
    from sunglaze.core.prints.clips import write_clip
    from sunglaze.core.targets.memory import parts_of

    if (out is None) == (clip is None):
        raise BadFile("say --out FILE for one frame, or --clip FILE for a clip")
    found, material = effect_of(effect, data)
    rate = float(RATE) if fps is None else fps
    for assignment in sets or []:
        found = set_control(found, assignment)
    width, height = size_of(size or "540x960")
    before: Camera = StandIn(width, height, sitting_of(camera) if camera else None)
    if image is not None:
        try:
            footage = Footage(image.read_bytes())
        except BadFile as error:
            raise BadFile(f"{image}: {error}") from None
        if size is None:
            width, height = footage.width, footage.height
        before = Own(footage, width, height, read_tracks(tracks.read_bytes()) if tracks else None)
    elif found.still is not None and camera is None and (data / "sunglaze.sqlite").is_file():
        from sunglaze.store.database import open_database
        from sunglaze.store.tracking import own_camera

        with open_database(data)() as session:
            before = own_camera(session, found, width, height) or before
    compiled = compile_effect(found, material)
    kept = read_rehearsal(rehearsal.read_bytes()) if rehearsal else found.rehearsal
    source: Source = Rehearsed(before, kept) if kept else before
    if dial:
        source = Dialled(source, dials_of(found, dial))
    if out is not None:
        picture = play_to(compiled.program.final, compiled.inputs, source, int(time * RATE + 1e-9))
        write_picture(np.ascontiguousarray(parts_of(picture, width)[:, :, 2::-1]), out)
        return
    assert clip is not None
    with typer.progressbar(length=max(1, round(seconds * rate)), label=clip.name, file=sys.stderr) as bar:
        at = 0

        def progress(done: int, _: int) -> None:
            nonlocal at
            bar.update(done - at)
            at = done

        count = write_clip(
            compiled.program, compiled.inputs, source, clip, (width, height), seconds, begin, rate, progress
        )  # fmt: skip
    typer.echo(f"{clip}: {count} pictures of {width}x{height}, {rate:g} a second")
