"""`sunglaze`: the same work from a shell. Errors are one plain line on standard error, exit code 2."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Literal

import numpy as np
import typer
from typer._click import exceptions as usage  # typer carries its parser along and names these nowhere else

from sunglaze.checking import check
from sunglaze.core.colour.lut import LARGEST_CUBE, SMALLEST, neutral
from sunglaze.core.colour.lut_picture import LAYOUTS, Layout
from sunglaze.core.colour.open_lut import OpenedLut, lut_bytes, open_lut
from sunglaze.core.engine.grade import Interpolation, apply_lut, resampled
from sunglaze.core.errors import BadFile, GlazeError
from sunglaze.core.face.template import TEMPLATES
from sunglaze.core.material.files import read_picture
from sunglaze.core.prints.icons import make_icons
from sunglaze.proofing import proof
from sunglaze.render import render_effect
from sunglaze.sequences import sequence
from sunglaze.shell import Data, In, Out, effect_of, write_picture

app = typer.Typer(no_args_is_help=True, add_completion=False, help="Sun Glaze from a shell.")
lut = typer.Typer(no_args_is_help=True, help="Lookup tables: make, convert, inspect, apply.")
app.add_typer(lut, name="lut")
app.command()(sequence)
app.command("render")(render_effect)
app.command()(check)
app.command()(proof)


def run() -> None:
    """Entry of the command: plain words instead of a traceback for errors that a person can act on."""
    try:
        raise SystemExit(app(standalone_mode=False) or 0)
    except usage.NoArgsIsHelpError as error:
        typer.echo(error.format_message())
        raise SystemExit(2) from None
    except usage.ClickException as error:
        typer.echo(f"sunglaze: {' '.join(error.format_message().split())}", err=True)
        raise SystemExit(2) from None
    except typer.Abort:
        raise SystemExit(130) from None
    except GlazeError as error:
        typer.echo(f"sunglaze: {error}", err=True)
        raise SystemExit(2) from None
    except OSError as error:
        typer.echo(f"sunglaze: {error.filename}: {error.strerror}", err=True)
        raise SystemExit(2) from None


def _open(path: Path, layout: Layout | None = None) -> OpenedLut:
    try:
        return open_lut(path.read_bytes(), layout)
    except BadFile as error:
        raise BadFile(f"{path}: {error}") from None


@app.command()
def export(
    effect: Annotated[str, typer.Argument(help="An id, or a JSON or package file.")],
    out: Annotated[Path, typer.Option(help="A new folder, for any static file server.")],
    data: Data = Path(".data"),
) -> None:
    """Write an effect as a page that needs nothing of ours behind it: it runs on the GPU of whoever opens it."""
    from sunglaze.core.package.export import export_folder

    found, material = effect_of(effect, data)
    files = export_folder(found, material, out, Path(__file__).parents[1] / "web" / "dist")
    typer.echo(f"{out}: {len(files)} files, {sum((out / name).stat().st_size for name in files) / 1e6:.2f} MB")


@lut.command()
def identity(
    size: Annotated[int, typer.Option(min=SMALLEST, max=LARGEST_CUBE, help="Steps along an edge of the cube.")],
    out: Annotated[Path, typer.Option(help="A .png, or a .cube (which needs no layout).")],
    layout: Annotated[Layout | None, typer.Option(help="How the picture is laid out.")] = None,
    bits: Annotated[Literal["8", "16"], typer.Option(help="Bits a channel of the picture.")] = "16",
) -> None:
    """Write a neutral lookup, to grade in any picture editor."""
    out.write_bytes(lut_bytes(neutral(size), out.name, layout, int(bits)))


@app.command()
def template(out: Annotated[Path, typer.Argument(help="A .png or .svg of guides, or a .tiff with layers.")]) -> None:
    """Write the flat picture of a face, on which face paint is painted."""
    ending = {"tif": "tiff"}.get(found := out.suffix.lower().removeprefix("."), found)
    if ending not in TEMPLATES:
        raise BadFile(f"{out.name} should end in {', '.join(f'.{one}' for one in TEMPLATES)}")
    out.write_bytes(TEMPLATES[ending]())


@lut.command()
def convert(
    source: Annotated[Path, typer.Argument(metavar="IN")],
    out: Annotated[Path, typer.Argument(metavar="OUT")],
    layout: Annotated[Layout | None, typer.Option(help="Layout of the picture written.")] = None,
    read_as: Annotated[Layout | None, typer.Option(help="Layout of the picture read, where what is found is wrong.")] = None,
    size: Annotated[int | None, typer.Option(min=SMALLEST, max=LARGEST_CUBE, help="Steps to resample to.")] = None,
    bits: Annotated[Literal["8", "16"], typer.Option(help="Bits a channel of the picture.")] = "16",
) -> None:
    """Turn a lookup into another form; CLF and CDL files are read, too. Pictures hold cubes over 0 to 1, into which others are
    resampled (33 steps for curves)."""
    table = _open(source, read_as).lut
    if size is not None:
        table = resampled(table, size)
    elif out.suffix.lower() == ".png" and not (table.is_cube and table.has_unit_domain):
        table = resampled(table, table.size if table.is_cube else 33)
    if out.suffix.lower() == ".png" and layout is None:
        layout = "strip"
    out.write_bytes(lut_bytes(table, out.name, layout, int(bits)))


@lut.command()
def inspect(
    file: Annotated[Path, typer.Argument(metavar="F")],
    as_json: Annotated[bool, typer.Option("--json", help="Machine-readable.")] = False,
    read_as: Annotated[Layout | None, typer.Option(help=f"One of {', '.join(LAYOUTS)}.")] = None,
) -> None:
    """Say what a lookup is, how far from neutral, and whether it was damaged."""
    opened = _open(file, read_as)
    facts = {"found": opened.found, "sure": opened.sure, "like": opened.like, "bits": opened.bits, **opened.inspection.as_dict()}
    if as_json:
        typer.echo(json.dumps(facts))
        return
    found = opened.inspection
    typer.echo(f"{opened.found}, {found.kind} of {found.size} steps" + ("" if opened.sure else "; layout uncertain"))
    if opened.like != "lookup":
        words = "is rather some other picture" if opened.like == "picture" else "may be some other picture"
        typer.echo(f"{words} than a lookup: {opened.likeness:.2f} of it hangs on the colour that is looked up")
    typer.echo(f"range {found.lowest:.4f} to {found.highest:.4f}")
    typer.echo(f"shift from neutral {found.mean_shift:.4f} in the mean, {found.largest_shift:.4f} at most")
    typer.echo("monotonic along grey" if found.monotonic else "not monotonic along grey")
    noise = "not measured (too few steps)" if found.noise is None else f"{found.noise:.5f}"
    stored = f", stored as {found.stored_as}" if found.stored_as else ""
    typer.echo(f"noise {noise}{stored}: " + ("damaged" if found.damaged else "lossless"))


@lut.command("apply")
def apply_command(
    table: Annotated[Path, typer.Argument(metavar="LUT")],
    image: In,
    out: Out,
    strength: Annotated[float, typer.Option(min=0, max=1, help="0 leaves the picture, 1 is the lookup.")] = 1.0,
    interpolation: Annotated[Interpolation, typer.Option(help="Between the table's entries.")] = "tetrahedral",
    read_as: Annotated[Layout | None, typer.Option(help="Layout of a lookup picture.")] = None,
) -> None:
    """Grade a picture by a lookup. 16-bit pictures stay so."""
    file = read_picture(image.read_bytes())
    most = 255 if file.bits == 8 else 65535
    colour = file.pixels[:, :, :3].astype(np.float32) / np.float32(most)
    graded = apply_lut(_open(table, read_as).lut, colour, strength, interpolation)
    pixels = np.rint(np.clip(graded.astype(np.float64), 0, 1) * most).astype(file.pixels.dtype)
    if file.pixels.shape[2] == 4:
        pixels = np.concatenate([pixels, file.pixels[:, :, 3:]], axis=2)
    if file.bits == 16 and out.suffix.lower() in (".jpg", ".jpeg"):
        pixels = (pixels // 257).astype(np.uint8)
    write_picture(pixels[:, :, :3] if out.suffix.lower() != ".png" else pixels, out)


@lut.command("bake")
def bake_command(
    effect: Annotated[str, typer.Argument(help="An id, or a JSON or package file.")],
    out: Annotated[Path, typer.Option(help="A .cube, .clf, .png (with a layout) or .cdl.")],
    to: Annotated[str | None, typer.Option(help="Up to this layer: its id, name, or place from 1.")] = None,
    size: Annotated[int, typer.Option(min=SMALLEST, max=LARGEST_CUBE, help="Steps along an edge of the cube.")] = 33,
    layout: Annotated[Layout | None, typer.Option(help="Layout of a picture.")] = None,
    data: Data = Path(".data"),
) -> None:
    """Write the grade that an effect's layers make as one lookup; what is not about colours alone is named and left out."""
    from sunglaze.core.review.baking import FORMS, bake, written

    ending = out.suffix.lower()
    form: str | None = layout or ("strip" if ending == ".png" else next((one for one in FORMS if FORMS[one] == ending), None))
    if form is None or FORMS[form] != ending:
        raise BadFile(f"'{out.name}': a grade is written as .cube, .clf, .cdl, or as .png with a layout")
    found, material = effect_of(effect, data)
    wanted = to
    if to is not None:
        wanted = next((one.id for n, one in enumerate(found.layers, 1) if to in (one.id, one.name, str(n))), to)
    baked = bake(found, material, size, wanted)
    out.write_bytes(written(baked, form, found.name))
    typer.echo(f"{out}: {', '.join(baked.layers)}")
    for one in baked.left:
        typer.echo(f"left out: {one.name}, which {one.why}")
    loss = baked.loss
    typer.echo(
        f"lost (CIEDE2000): {loss.mean} in the mean, {loss.largest} at most; on skin {loss.skin_mean}, {loss.skin_largest}"
    )


@app.command()
def serve(
    host: Annotated[
        str, typer.Option(help="Address to bind to; others than this machine's open it to the network.")
    ] = "127.0.0.1",
    port: Annotated[int, typer.Option(min=0, max=65535)] = 8765,
    data: Data = Path(".data"),
) -> None:
    """Start the application and print its address."""
    from sunglaze.server.serving import serve_forever

    serve_forever(data, host, port)


recipe = typer.Typer(no_args_is_help=True, help="Recipes: check them, and convert from and to MaterialX.")
app.add_typer(recipe, name="recipe")


@recipe.command("check")
def check_file(
    file: Annotated[Path, typer.Argument(metavar="F")],
    as_json: Annotated[bool, typer.Option("--json", help="Machine-readable.")] = False,
) -> None:
    """Say all that is wrong with a recipe, node by node; exit code 1 where something is."""
    from sunglaze.core.effect.recipe import read_recipe
    from sunglaze.core.effect.recording import check_recipe

    faults = check_recipe(read_recipe(file.read_bytes()))
    if as_json:
        typer.echo(json.dumps([fault.model_dump() for fault in faults]))
    else:
        for fault in faults:
            typer.echo(f"{'.'.join([*fault.path, fault.node or 'recipe'])}: {fault.message}")
    if faults:
        raise typer.Exit(1)


@recipe.command("convert")
def convert_recipe(
    source: Annotated[Path, typer.Argument(metavar="IN")], out: Annotated[Path, typer.Argument(metavar="OUT")]
) -> None:
    """Turn a recipe (.json) into MaterialX (.mtlx) or back; what has no counterpart is named."""
    from sunglaze.core.effect.materialx import read_materialx, write_materialx
    from sunglaze.core.effect.recipe import read_recipe, write_recipe

    endings = source.suffix.lower(), out.suffix.lower()
    if endings == (".json", ".mtlx"):
        exported = write_materialx(read_recipe(source.read_bytes()))
        text, left_out = exported.text, exported.left_out
    elif endings == (".mtlx", ".json"):
        imported = read_materialx(source.read_bytes())
        text, left_out = write_recipe(imported.recipe), imported.left_out
    else:
        raise BadFile(f"{source} to {out}: one of them should be .json, the other .mtlx")
    out.write_text(text)
    if left_out:
        typer.echo(f"left out, since the other side has no such node: {', '.join(left_out)}")


@app.command()
def parity(
    nodes: Annotated[str, typer.Option(help="all, none, or kinds parted by commas.")] = "all",
    graphs: Annotated[int, typer.Option(min=0, help="How many random graphs.")] = 200,
    meshes: Annotated[int, typer.Option(min=0, help="How many random meshes.")] = 60,
    seed: Annotated[int, typer.Option(min=0, help="Decides all that is random.")] = 1,
    on_gpu: Annotated[bool, typer.Option("--gpu/--no-gpu", help="Also in the player, in headless Chromium.")] = True,
    as_json: Annotated[bool, typer.Option("--json", help="Machine-readable.")] = False,
) -> None:
    """Compare NumPy, steps, machine code and the GPU player on nodes, random graphs and meshes; exit code 1 where one is off."""
    from sunglaze.parity.command import run as compare_all

    words, good = compare_all(nodes, graphs, meshes, seed, on_gpu, as_json)
    typer.echo(words)
    if not good:
        raise typer.Exit(1)


@app.command()
def realism(
    step: Annotated[int, typer.Option(min=1, help="Only every so many frames of the sample.")] = 1,
    out: Annotated[Path | None, typer.Option(help="Also write the table to this Markdown file.")] = None,
) -> None:
    """Whether the real trackers take the stand-in's cast for people: faces found, eyes, person masks, in headless Chromium."""
    from sunglaze.realism import measure

    table = measure(step, lambda words: typer.echo(words, err=True))
    typer.echo(table)
    if out:
        out.write_text(f"# The cast, as real trackers see it\n\nMade by `sunglaze realism`.\n\n{table}\n")


@app.command(hidden=True)
def icons(folder: Annotated[Path, typer.Argument(help="Where to put them.")]) -> None:
    """Make the icons of layers and nodes ahead."""
    typer.echo(f"{sum(1 for _ in make_icons(folder))} icons in {folder}")


@app.command(hidden=True)
def openapi() -> None:
    """Print the OpenAPI description, from which the browser's types are made."""
    import tempfile

    from sunglaze.server.app import create_app

    with tempfile.TemporaryDirectory() as folder:
        typer.echo(json.dumps(create_app(Path(folder)).openapi(), indent=1))
