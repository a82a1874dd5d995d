"""Routes of what there is to work with: nodes, ready-made layers, the recipe's schema; and what is wrong with a recipe."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache
from typing import Annotated, Any

from fastapi import APIRouter, Body, Request, Response, UploadFile

from sunglaze.core.camera.cast import Sitting
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import MASKED, ON, OPACITY, Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.materialx import write_materialx
from sunglaze.core.effect.recipe import Fault, Recipe, RecipeInput, schema
from sunglaze.core.effect.recording import check_recipe, port_of
from sunglaze.core.effect.shipped import cue_recipes, drive_recipes, mask_recipes, shipped
from sunglaze.core.errors import BadFile, GlazeError
from sunglaze.core.language.expression import ordered
from sunglaze.core.material.text import read_text, text_picture
from sunglaze.core.nodes.catalogue import CATALOGUE, FAMILIES
from sunglaze.core.nodes.node import Port
from sunglaze.core.nodes.types import CONVERSIONS, TRAITS
from sunglaze.server.drawing.drawer import drawer
from sunglaze.server.limits import MEGABYTE, MOST_JSON_BYTES
from sunglaze.server.pictures import drawn_once
from sunglaze.server.reading import Reader
from sunglaze.server.requests import body, describes, off_the_loop
from sunglaze.server.schemas import (
    Catalogue,
    Conversion,
    Cost,
    DriveKind,
    GpuProgram,
    LayerKind,
    LayerLook,
    MaskKind,
    NodeKind,
    PortKind,
    RecipeFile,
    Setting,
    TextSize,
    TypeKind,
)
from sunglaze.store.effects import NotThere

routes = APIRouter(prefix="/api", tags=["catalogue"])
_DAY = {"Cache-Control": "public, max-age=86400"}


def _port(port: Port, title: str | None = None, given: RecipeInput | None = None) -> PortKind:
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
        also=given.also if given else {},
        facts=given.facts if given else {},
        driven=given.driven if given else False,
        template=given.template if given else None,
    )


def layer_kind(kind: str, recipe: Recipe) -> LayerKind:
    """A ready-made layer as the interface offers it."""
    return LayerKind(
        kind=kind,
        name=recipe.name,
        help=recipe.help,
        family=recipe.family,
        also=recipe.also,
        controls=_controls(recipe),
        blend=recipe.start.blend,
        opacity=recipe.start.opacity,
        settings=[Setting(name=one.name, values=one.values, drives=one.drives) for one in recipe.settings],
        looks=_looks(recipe),
        handles=recipe.handles,
    )


def _controls(recipe: Recipe) -> list[PortKind]:
    return [_port(port, given.shown, given) for given in recipe.inputs if (port := port_of(recipe, given))]


def _looks(recipe: Recipe) -> list[LayerLook]:
    return [LayerLook(node=one.node, title=one.title) for one in recipe.looks]


def _motions(recipes: Mapping[str, Recipe]) -> list[DriveKind]:
    return [
        DriveKind(
            kind=kind,
            name=recipe.name,
            help=recipe.help,
            family=recipe.family,
            sentence=recipe.sentence,
            controls=_controls(recipe),
            start=next((one.values for one in recipe.settings), {}),
        )
        for kind, recipe in recipes.items()
    ]


@routes.get("/catalogue")
def catalogue() -> Catalogue:
    """All ready-made layers and nodes, with what their controls need."""
    return Catalogue(
        layers=[layer_kind(kind, recipe) for kind, recipe in shipped().items()],
        masks=[
            MaskKind(
                kind=kind,
                name=recipe.name,
                help=recipe.help,
                controls=_controls(recipe),
                looks=_looks(recipe),
                handles=recipe.handles,
            )
            for kind, recipe in mask_recipes().items()
        ],
        drives=_motions(drive_recipes()),
        cues=_motions(cue_recipes()),
        opacity=_port(OPACITY, "Opacity"),
        on=_port(ON, "Shown"),
        masked=_port(MASKED, "Counts"),
        families=list(FAMILIES),
        types={name: TypeKind(**vars(traits)) for name, traits in TRAITS.items()},
        conversions=[Conversion(given=a, wanted=b, does=does) for (a, b), does in CONVERSIONS.items()],
        nodes=[
            NodeKind(
                kind=n.kind,
                title=n.title,
                family=n.family,
                help=n.help,
                inputs=[_port(p) for p in n.inputs],
                outputs=[_port(p) for p in n.outputs],
                handles=list(n.handles),
            )
            for n in CATALOGUE.values()
        ],
    )


@routes.get("/layers/{kind}/icon", response_class=Response)
async def icon_of_layer(
    request: Request, kind: str, setting: int | None = None, who: str = Sitting().who, light: str = Sitting().light
) -> Response:
    """A ready-made layer on the stand-in camera, small, at its defaults or at one of its settings, on one of the cast in a light;
    those who are not known are as by default."""
    recipe = _shipped(kind)
    if setting is not None and not 0 <= setting < len(recipe.settings):
        raise NotThere(f"'{recipe.name}' has no setting {setting}")
    sitting = Sitting(who, light=light).known()
    data = await drawn_once(request, "icon of layer", kind, setting, sitting)
    return Response(data, media_type="image/png", headers=_DAY)


def _shipped(kind: str) -> Recipe:
    if kind not in shipped():
        raise NotThere(f"there is no ready-made layer '{kind}'")
    return shipped()[kind]


@routes.get("/layers/{kind}/recipe")
def recipe_of_layer(kind: str) -> Recipe:
    """What a ready-made layer is made of, to look at and to rewire."""
    return _shipped(kind)


@routes.get("/drives/{kind}/recipe")
def recipe_of_drive(kind: str) -> Recipe:
    """What moves a control is made of, to look at and to rewire."""
    if kind not in drive_recipes():
        raise NotThere(f"there is no drive '{kind}'")
    return drive_recipes()[kind]


@routes.get("/layers/{kind}/cost")
def cost_of_layer(kind: str) -> Cost:
    """What a ready-made layer costs alone."""
    _shipped(kind)
    return _cost(kind)


@lru_cache(maxsize=256)
def _cost(kind: str) -> Cost:
    plan = compile_effect(Effect(name=kind, layers=[Layer(id="l", name=kind, kind=kind)]), Material()).program.final.plan
    passes, operations = len(plan.passes), sum(len(ordered(one.values)[0]) for one in plan.passes)
    loops = any(value.op == "loop" for one in plan.passes for value in ordered(one.values)[0])
    words = "heavy" if loops and passes > 4 else "middling" if loops or operations > 250 else "light"
    much = f"{passes} pass{'es' if passes > 1 else ''} over the picture, {operations} operations a pixel"
    return Cost(passes=passes, operations=operations, words=f"{words}: {much}{', and loops' if loops else ''}")


@routes.get("/nodes/{kind}/icon", response_class=Response)
async def icon_of_node(request: Request, kind: str) -> Response:
    """What a node gives by itself, small."""
    if kind not in CATALOGUE:
        raise NotThere(f"there is no node '{kind}'")
    return Response(await drawn_once(request, "icon of node", kind), media_type="image/png", headers=_DAY)


@routes.post("/texts/size")
def size_of_text(text: Annotated[dict[str, Any], Body()]) -> TextSize:
    """How large a text is drawn: its handle on the picture has this shape."""
    height, width = text_picture(read_text(text)).shape[:2]
    return TextSize(width=width, height=height)


@routes.get("/recipes/schema")
def recipe_schema() -> dict[str, Any]:
    """The JSON schema of recipes, as docs/formats.md publishes it."""
    return schema()


@routes.post("/programs", openapi_extra=describes(Effect))
async def program_of(request: Request, effect: Annotated[Effect, body(Effect)]) -> GpuProgram:
    """What the player runs of an effect as it is here, saved or not: for looking at it on this device's GPU."""
    found: GpuProgram = await drawer(request).run(request, "program", effect)
    return found


@routes.post("/recipes/import")
async def import_recipe(request: Request, file: UploadFile) -> RecipeFile:
    """A recipe from a file: our JSON, or MaterialX (.mtlx)."""
    data = await file.read(MOST_JSON_BYTES + 1)
    if len(data) > MOST_JSON_BYTES:
        raise BadFile(f"{file.filename}: the recipe is larger than {MOST_JSON_BYTES // MEGABYTE} MB")
    reader: Reader = request.app.state.reader
    try:
        recipe, notes = await reader.run("recipe", file.filename or "file", data)
    except GlazeError as error:
        raise BadFile(f"{file.filename or 'file'}: {error}") from None
    return RecipeFile(recipe=recipe, notes=notes)


@routes.post("/recipes/materialx", openapi_extra=describes(Recipe))
async def export_materialx(recipe: Annotated[Recipe, body(Recipe)]) -> RecipeFile:
    """A recipe as MaterialX, and what of it that has no place there."""
    written = await off_the_loop(lambda: write_materialx(recipe))
    return RecipeFile(text=written.text, notes=list(written.left_out))


@routes.post("/recipes/check", openapi_extra=describes(Recipe))
async def check(recipe: Annotated[Recipe, body(Recipe)]) -> list[Fault]:
    """All that is wrong with a recipe, node by node."""
    return await off_the_loop(lambda: check_recipe(recipe))
