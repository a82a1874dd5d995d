"""Routes of what helps to judge: what nodes of a recipe or mask give of who sits before the camera; a layer on plain colours."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Request

from sunglaze.core.effect.document import Layer
from sunglaze.server.drawing.drawer import drawer
from sunglaze.server.requests import body, describes
from sunglaze.server.schemas import ColourReading, PreviewRequest, RecipePreviews, WornBy
from sunglaze.server.shelf_schemas import CompareRequest, SavingShown

routes = APIRouter(prefix="/api", tags=["previews"])


@routes.post("/recipes/preview", openapi_extra=describes(PreviewRequest))
async def preview(request: Request, asked: Annotated[PreviewRequest, body(PreviewRequest)]) -> RecipePreviews:
    """What nodes of a recipe give at a frame of the camera, and all that is wrong with it."""
    found: RecipePreviews = await drawer(request).run(request, "preview", asked)
    return found


@routes.post("/layers/everybody", openapi_extra=describes(Layer))
async def worn_by_everybody(request: Request, layer: Annotated[Layer, body(Layer)], light: str = "noon") -> list[WornBy]:
    """What a layer alone does to the face of everybody of the cast."""
    found: list[WornBy] = await drawer(request).run(request, "worn", layer, light)
    return found


@routes.post("/assets/{key}/beside", openapi_extra=describes(CompareRequest))
async def saving_beside(request: Request, key: str, asked: Annotated[CompareRequest, body(CompareRequest)]) -> SavingShown:
    """An effect over who sits there, with one picture of a file as it was, and saved in a form."""
    found: SavingShown = await drawer(request).run(request, "beside", key, asked)
    return found


@routes.post("/layers/judging", openapi_extra=describes(Layer))
async def judge_layer(request: Request, layer: Annotated[Layer, body(Layer)]) -> ColourReading | None:
    """What a layer does to skin tones, greys and colours; nothing where it is not about colours alone."""
    found: ColourReading | None = await drawer(request).run(request, "judged", layer)
    return found
