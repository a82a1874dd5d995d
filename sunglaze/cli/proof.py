"""`sunglaze proof`: proof sheets of effects, from a shell."""

from __future__ import annotations

import json
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from sunglaze.cli.options import Data
from sunglaze.core.errors import BadFile, GlazeError, in_words

if TYPE_CHECKING:
    from sunglaze.core.proof.cells import Cell, Footing
    from sunglaze.core.proof.crew import Task
    from sunglaze.core.proof.sheet import Place, Sheet

_ENDINGS = (".pdf", ".png")
_PRESETS = "everybody, lights, screens, distance, two, open"


def sheet_of(preset: str, values: dict[str, str | None], down: str | None, across: str | None) -> Sheet:
    """A preset with what is said otherwise, each a list with commas. Raises BadFile."""
    from pydantic import ValidationError

    from sunglaze.core.proof.sheet import PRESETS, Sheet

    if preset not in PRESETS:
        raise BadFile(f"there is no preset '{preset}'; there are {', '.join(PRESETS)}")
    plain = PRESETS[preset].sheet.model_dump()
    plain |= {axis: tuple(part.strip() for part in text.split(",")) for axis, text in values.items() if text}
    plain |= {name: axis for name, axis in (("down", down), ("across", across)) if axis}
    try:
        return Sheet.model_validate(plain)
    except ValidationError as error:
        raise BadFile(in_words(error, "the sheet")) from None


def _own(who: str | None) -> tuple[str | None, dict[str, Footing], dict[str, str]]:
    """Files among those of --who, as rows of their own."""
    from sunglaze.core.proof.cells import Footing, key_of

    names, footings, titles = [], dict[str, Footing](), dict[str, str]()
    for part in (who or "").split(","):
        path = Path(part.strip())
        if path.suffix and path.is_file():
            data = path.read_bytes()
            tracks = path.with_suffix(".tracks.zip")
            key = f"own:{key_of(data)}"
            footings[key] = Footing(data, tracks.read_bytes() if tracks.is_file() else None)
            titles[key] = path.name
            names.append(key)
        elif part.strip():
            names.append(part.strip())
    return ",".join(names) or None, footings, titles


def proof(
    effects: Annotated[list[str], typer.Argument(help="Ids, or JSON or package files.")],
    out: Annotated[Path | None, typer.Option(help="A .pdf or .png.")] = None,
    preset: Annotated[str, typer.Option(help=f"What to begin with: {_PRESETS}.")] = "everybody",
    who: Annotated[str | None, typer.Option(help="Performers, or photos and clips of your own, with commas.")] = None,
    light: Annotated[str | None, typer.Option(help="Lights, with commas.")] = None,
    screen: Annotated[str | None, typer.Option(help="Screens, with commas.")] = None,
    moment: Annotated[str | None, typer.Option(help="Moments by name, or SCRIPT@SECONDS, with commas.")] = None,
    down: Annotated[str | None, typer.Option(help="What stands down: who, light, screen or moment.")] = None,
    across: Annotated[str | None, typer.Option(help="What stands across.")] = None,
    as_json: Annotated[Path | None, typer.Option("--json", help="Where to write the figures.")] = None,
    workers: Annotated[int | None, typer.Option(min=1, help="Processes of this machine.")] = None,
    scheduler: Annotated[str | None, typer.Option(help="A Dask scheduler instead: tcp://HOST:PORT.")] = None,
    data: Data = Path(".data"),
) -> None:
    """Look at effects on everybody, in any light, on any screen, at any moment: a sheet of prints with figures, and in words."""
    from sunglaze.cli.inputs import effect_of
    from sunglaze.core.package.archive import write_package
    from sunglaze.core.proof.crew import Crew, Task
    from sunglaze.core.proof.pages import Proof, overview, pages_of, write_pdf, write_png

    if out is None and as_json is None:
        raise BadFile("say --out FILE.pdf or .png, or --json FILE")
    if out is not None and out.suffix.lower() not in _ENDINGS:
        raise BadFile(f"{out}: a proof sheet is written as .pdf or .png")
    if workers is not None and scheduler is not None:
        raise BadFile("--workers are of this machine; with --scheduler its own workers do it")
    own, footings, titles = _own(who)
    sheet = sheet_of(preset, {"who": own, "light": light, "screen": screen, "moment": moment}, down, across)
    shown: list[tuple[str, dict[Place, Cell]]] = []
    of: list[int] = []
    left: list[str] = []

    def tasks() -> Iterator[Task]:
        for which in effects:
            try:
                effect, material = effect_of(which, data)
                package = write_package(effect, material)
            except GlazeError as error:
                if len(effects) == 1:
                    raise
                # One of a catalogue that cannot be made does not keep the others.
                left.append(f"{which}: {error}")
                continue
            shown.append((effect.name, {}))
            for place in sheet.places:
                of.append(len(shown) - 1)
                yield Task(package, place, footings.get(place.who))

    crew = Crew(workers, scheduler)
    try:
        count = len(effects) * len(sheet.places)
        with typer.progressbar(length=count, label=f"{count} cells", file=sys.stderr) as bar:
            for number, cell in crew.made(tasks()):
                shown[of[number]][1][cell.place] = cell
                bar.update(1)
    finally:
        crew.shut()
    if not shown:
        raise BadFile("\n".join(left))
    # In the order of the sheet, whatever came first.
    proofs = [Proof(name, sheet, {place: cells[place] for place in sheet.places}, titles) for name, cells in shown]
    if out is not None:
        many = [overview(proofs)] if len(proofs) > 1 else []
        single = [page for one in proofs for page in pages_of(one)]
        if out.suffix.lower() == ".pdf":
            out.write_bytes(write_pdf([*many, *single], ", ".join(one.name for one in proofs)[:200]))
        else:
            out.write_bytes(write_png(many or single))
    if as_json is not None:
        as_json.write_text(json.dumps([one.as_json() for one in proofs], indent=1, ensure_ascii=False))
    for one in proofs:
        typer.echo(one.name)
        for words in one.said:
            typer.echo(f"  {'look at ' if words.look else '        '}{words.words}")
    for words_left in left:
        typer.echo(f"sunglaze: {words_left}", err=True)
    if left:
        raise typer.Exit(2)
