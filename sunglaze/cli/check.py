"""`sunglaze check`: pre-flight of an effect against a profile of limits, from a shell."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from sunglaze.cli.options import Data, Which
from sunglaze.core.errors import BadFile

if TYPE_CHECKING:
    from sunglaze.core.review.profiles import Profile

_SIGNS = {"passed": "passed ", "look": "look at", "stops": "STOPS  "}


def profile_of(which: str) -> Profile:
    """A profile that ships, by name, or one in a JSON file. Raises BadFile."""
    from sunglaze.core.review.profiles import profiles, read_profile

    if which in profiles():
        return profiles()[which]
    path = Path(which)
    if not path.is_file():
        raise BadFile(f"there is no profile '{which}'; there are {', '.join(profiles())}, or a JSON file of your own")
    try:
        return read_profile(path.read_bytes())
    except BadFile as error:
        raise BadFile(f"{path}: {error}") from None


def check(
    effect: Which,
    profile: Annotated[str, typer.Option(help="camera-app, web, or a JSON file.")] = "camera-app",
    as_json: Annotated[bool, typer.Option("--json", help="Write JSON.")] = False,
    data: Data = Path(".data"),
) -> None:
    """Check an effect before it leaves: weight, flashing, skin, masks, material. Exit code 1 where something stops it."""
    from sunglaze.cli.inputs import effect_of, listing_for
    from sunglaze.core.package.checked import checked

    limits = profile_of(profile)
    found = []
    for one in checked(*effect_of(effect, data), limits, said=listing_for(effect, data)):
        found.append(one)
        if not as_json:
            typer.echo(f"{_SIGNS[one.state]}  {one.title}: {one.words}")
    if as_json:
        plain = [{name: value for name, value in asdict(one).items() if name != "strip"} for one in found]
        typer.echo(json.dumps(plain, indent=1, ensure_ascii=False))
    if any(one.state == "stops" for one in found):
        raise typer.Exit(1)
