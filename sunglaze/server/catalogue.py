"""Routes of what there is to work with: nodes, ready-made layers, the recipe's schema; and what is wrong with a recipe."""

from __future__ import annotations

import base64
import hashlib
from typing import Any

from fastapi import APIRouter, Response

from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.icons import layer_icon, node_icon
from sunglaze.core.effect.recipe import Fault, Recipe, schema
from sunglaze.core.effect.recording import check_recipe, port_of
from sunglaze.core.effect.shipped import shipped
from sunglaze.core.nodes.catalogue import CATALOGUE, FAMILIES
from sunglaze.core.nodes.node import Port
from sunglaze.core.nodes.types import CONVERSIONS, WORDS
from sunglaze.core.package.archive import program_json
from sunglaze.server.effects import Database
from sunglaze.server.schemas import Catalogue, Conversion, GpuProgram, LayerKind, NodeKind, PortKind
from sunglaze.store.effects import NotThere
from sunglaze.store.files import material_of

routes = APIRouter(prefix="/api", tags=["catalogue"])
_DAY = {"Cache-Control": "public, max-age=86400"}


def _port(port: Port, title: str | None = None) -> PortKind:
    kind = port.kind
    return PortKind(
        name=port.name,
        title=title or port.title,
        type=kind.name,
        unit=kind.unit,
        low=kind.low,
        high=kind.high,
        step=kind.step,
        choices=list(kind.choices),
        default=list(port.default) if isinstance(port.default, tuple) else port.default,
    )


def layer_kind(kind: str, recipe: Recipe) -> LayerKind:
    """A ready-made layer as the interface offers it."""
    controls = [_port(port, given.shown) for given in recipe.inputs if (port := port_of(recipe, given))]
    return LayerKind(
        kind=kind,
        name=recipe.name,
        help=recipe.help,
        family=recipe.family,
        controls=controls,
        blend=recipe.start.blend,
        opacity=recipe.start.opacity,
    )


@routes.get("/catalogue")
def catalogue() -> Catalogue:
    """All ready-made layers and nodes, with what their controls need."""
    return Catalogue(
        layers=[layer_kind(kind, recipe) for kind, recipe in shipped().items()],
        families=list(FAMILIES),
        types=WORDS,
        conversions=[Conversion(given=a, wanted=b, does=does) for (a, b), does in CONVERSIONS.items()],
        nodes=[
            NodeKind(
                kind=n.kind,
                title=n.title,
                family=n.family,
                help=n.help,
                inputs=[_port(p) for p in n.inputs],
                outputs=[_port(p) for p in n.outputs],
            )
            for n in CATALOGUE.values()
        ],
    )


@routes.get("/layers/{kind}/icon")
def icon_of_layer(kind: str) -> Response:
    """A ready-made layer on the stand-in camera, small."""
    if kind not in shipped():
        raise NotThere(f"there is no ready-made layer '{kind}'")
    return Response(layer_icon(kind), media_type="image/png", headers=_DAY)


@routes.get("/nodes/{kind}/icon")
def icon_of_node(kind: str) -> Response:
    """What a node gives by itself, small."""
    if kind not in CATALOGUE:
        raise NotThere(f"there is no node '{kind}'")
    return Response(node_icon(kind), media_type="image/png", headers=_DAY)


@routes.get("/recipes/schema")
def recipe_schema() -> dict[str, Any]:
    """The JSON schema of recipes, as docs/formats.md publishes it."""
    return schema()


@routes.post("/programs")
def program_of(session: Database, effect: Effect) -> GpuProgram:
    """What the player runs of an effect as it is here, saved or not: for looking at it on this device's GPU."""
    with session:
        material = material_of(session, effect)
    compiled = compile_effect(effect, material)
    program, inputs = compiled.program.final, compiled.inputs
    tables = [base64.b64encode(inputs.tables[n][..., :3].astype("<f4").tobytes()).decode() for n in program.tables]
    plain = program_json(program, inputs, effect.name, dict.fromkeys(program.tables, ""), {})
    key = hashlib.sha256("|".join([program.key, *tables]).encode()).hexdigest()
    pictures = {f"asset:{asset}": f"/api/assets/{asset}/file" for asset in effect.pictures()}
    return GpuProgram(key=key, program=plain, tables=tables, pictures=pictures)


@routes.post("/recipes/check")
def check(recipe: Recipe) -> list[Fault]:
    """All that is wrong with a recipe, node by node."""
    return check_recipe(recipe)
