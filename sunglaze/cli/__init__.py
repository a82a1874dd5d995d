"""`sunglaze`: the same work from a shell. Errors are one plain line on standard error, exit code 2.

Modules of this package are light: what computes is imported by the command that needs it, when it runs.
"""

from __future__ import annotations

import typer
from typer._click import exceptions as usage  # typer carries its parser along and names these nowhere else

from sunglaze.cli import lookups, recipes
from sunglaze.cli.check import check
from sunglaze.cli.export import export, template
from sunglaze.cli.measuring import parity, realism
from sunglaze.cli.proof import proof
from sunglaze.cli.render import render_effect
from sunglaze.cli.sequence import sequence
from sunglaze.cli.serving import openapi, serve
from sunglaze.core.errors import GlazeError

app = typer.Typer(no_args_is_help=True, add_completion=False, help="Sun Glaze from a shell.")
for command in (serve, export, check, proof, sequence, template, parity, realism):
    app.command()(command)
app.command("render")(render_effect)
app.add_typer(lookups.commands, name="lut")
app.add_typer(recipes.commands, name="recipe")
for hidden in (openapi,):
    app.command(hidden=True)(hidden)


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
