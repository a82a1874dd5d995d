"""Routes of what there is to work with: nodes, ready-made layers, the recipe's schema; and what is wrong with a recipe."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter

from sunglaze.core.effect.recipe import Fault, Recipe, schema
from sunglaze.core.effect.recording import check_recipe, port_of
from sunglaze.core.effect.shipped import shipped
from sunglaze.core.nodes.catalogue import CATALOGUE, FAMILIES
from sunglaze.core.nodes.node import Port
from sunglaze.core.nodes.types import CONVERSIONS, WORDS
from sunglaze.server.schemas import Catalogue, Conversion, LayerKind, NodeKind, PortKind

routes = APIRouter(prefix="/api", tags=["catalogue"])


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
    start = recipe.start
    return LayerKind(kind=kind, name=recipe.name, help=recipe.help, controls=controls, blend=start.blend, opacity=start.opacity)


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


@routes.get("/recipes/schema")
def recipe_schema() -> dict[str, Any]:
    """The JSON schema of recipes, as docs/formats.md publishes it."""
    return schema()


@routes.post("/recipes/check")
def check(recipe: Recipe) -> list[Fault]:
    """All that is wrong with a recipe, node by node."""
    return check_recipe(recipe)
