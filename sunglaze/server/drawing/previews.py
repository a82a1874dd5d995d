"""What helps to judge: what nodes give of who sits before the camera, a layer on everybody, a file before and after it was made
smaller, a layer on plain colours; and what a player runs."""

from __future__ import annotations

import base64
import hashlib

import numpy as np
from sqlalchemy.orm import Session

from sunglaze.core.camera.cameras import Camera, Shrunk, screen_size
from sunglaze.core.camera.cast import StandIn
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.score import score
from sunglaze.core.language.pictures import asset_picture
from sunglaze.core.material.files import Bytes, encode_jpeg, encode_png
from sunglaze.core.material.sequence import EACH
from sunglaze.core.material.still import Still
from sunglaze.core.nodes.solids import TEXTURE
from sunglaze.core.package.archive import program_json
from sunglaze.core.prints.previews import Previews, numbers_of
from sunglaze.core.prints.whole import SIZE, effect_print
from sunglaze.core.review.everybody import everybody
from sunglaze.core.review.judging import judge
from sunglaze.core.review.savings import Saving, compared
from sunglaze.server.drawing.desk import Desk, Known, Patience
from sunglaze.server.schemas import ColourReading, GpuProgram, NodePreview, PreviewRequest, RecipePreviews, ToneShift, WornBy
from sunglaze.server.shelf_schemas import CompareRequest, SavingShown
from sunglaze.store import files, shelf
from sunglaze.store.files import material_of

BESIDE = 540
"""Pixels of the shorter side of what is laid side by side."""
_SHORT = 270
"""Cameras are asked for frames of this size, which are then made smaller: so one frame serves tiles of every size."""


def preview(desk: Desk, patience: Patience, asked: PreviewRequest) -> RecipePreviews:
    """What nodes of a recipe give at a frame of the camera, and all that is wrong with it."""
    wanted = tuple(asked.path), asked.mask, tuple(asked.only), asked.drive
    size = screen_size(asked.screen, asked.short)
    with desk.session() as session:
        known = desk.recent.find(size, lambda one: one.fits(asked.effect, asked.layer, *wanted))
        if known is None:
            known = Known(Previews(asked.effect, material_of(session, asked.effect), asked.layer, *wanted), size)
        desk.recent.keep(known)
        camera = _camera(desk, session, asked)
    patience()
    previews = known.previews
    source = Shrunk(camera, *size)
    moment = source.moment(asked.frame, previews.program.reads)
    with known.busy:
        previews.step_to(source, asked.frame, asked.effect)
        shown = previews.at(moment, asked.effect, patience)
    tiles = [view.picture for view in shown.values() if view.picture is not None]
    places = iter(range(len(tiles)))
    nodes = {
        identity: NodePreview(
            type=view.kind,
            words=None if view.picture is not None else numbers_of(view),
            tile=None if view.picture is None else next(places),
        )
        for identity, view in shown.items()
    }
    sheet = base64.b64encode(encode_png(np.ascontiguousarray(np.vstack(tiles)), 1)).decode() if tiles else ""
    return RecipePreviews(nodes=nodes, faults=previews.faults, sheet=sheet, width=size[0], height=size[1])


def _camera(desk: Desk, session: Session, asked: PreviewRequest | CompareRequest, short: int = _SHORT) -> Camera:
    size = screen_size(asked.screen, short)
    if asked.effect.still is None:
        return StandIn(*size, asked.sitting.known())
    return desk.own_cameras.get(session, asked.effect.still, size)


def _address(pixels: Bytes) -> str:
    """A picture (height, width, 3) as a data address."""
    return f"data:image/jpeg;base64,{base64.b64encode(encode_jpeg(np.ascontiguousarray(pixels), 92)).decode()}"


def effect(desk: Desk, patience: Patience, shown: Effect) -> bytes:
    """An effect in one picture, as JPEG. Raises BadEffect, NotThere."""
    with desk.session() as session:
        material = material_of(session, shown)
        own = desk.own_cameras.get(session, shown.still, SIZE) if shown.still is not None else None
    patience()
    return effect_print(shown, material, own)


def worn(desk: Desk, patience: Patience, layer: Layer, light: str) -> list[WornBy]:
    """What a layer alone does to the face of everybody of the cast."""
    with desk.session() as session:
        material = material_of(session, Effect(name="worn", layers=[layer.model_copy(update={"group": None})]))
    return [
        WornBy(who=one.who, name=one.name, before=_address(one.before), after=_address(one.after), shift=round(one.shift, 2))
        for one in everybody(layer, material, light, patience)
    ]


def beside(desk: Desk, patience: Patience, key: str, asked: CompareRequest) -> SavingShown:
    """An effect with one picture of a file as it was, and saved in a form. Raises NotThere or BadFile."""
    with desk.session() as session:
        row = files.asset(session, key)
        shelf.check_weighs(row)
        piece = files.read_sequence(session, key) if "sequence" in row.facts else Still.read(row.data)
        material = material_of(session, asked.effect)
        camera = _camera(desk, session, asked, BESIDE)
    saving = Saving(piece, asked.used, asked.form, asked.quality, asked.number)
    was, saved = compared(asked.effect, material, saving, camera, asked.frame, patience)
    return SavingShown(was=_address(was), saved=_address(saved))


def judged(desk: Desk, _patience: Patience, layer: Layer) -> ColourReading | None:
    """What a layer does to skin tones, greys and colours; nothing where it is not about colours alone."""
    with desk.session() as session:
        material = material_of(session, Effect(name="judged", layers=[layer.model_copy(update={"group": None})]))
    found = judge(layer, material)
    if found is None:
        return None
    return ColourReading(grey=found.grey, cloud=found.cloud, tones=[ToneShift(**vars(tone)) for tone in found.tones])


def program(desk: Desk, _patience: Patience, effect: Effect) -> GpuProgram:
    """What the player runs of an effect as it is here, saved or not."""
    with desk.session() as session:
        material = material_of(session, effect)
    compiled = compile_effect(effect, material)
    final, inputs = compiled.program.final, compiled.inputs
    tables = [base64.b64encode(inputs.tables[n][..., :3].astype("<f4").tobytes()).decode() for n in final.tables]
    sequences = {
        name: [f"/api/assets/{name.removesuffix(EACH)}/pictures/{n}" for n in range(inputs.sequences[name].frames)]
        for name in final.sequences
        if name in inputs.sequences
    }
    blanks, paintings = dict.fromkeys(final.tables, ""), effect.paintings()
    models = {key: f"/api/assets/{key}/file" for key in sorted(effect.meshes())}
    plain = program_json(final, inputs, effect.name, blanks, {}, sequences, effect.dials, paintings, models)
    stored = {asset: f"/api/assets/{asset}/file" for asset in effect.pictures()}
    drawn = {
        asset: inputs.asset(asset)
        for asset in final.assets
        if asset not in {*stored, *paintings} and not asset.startswith(TEXTURE)
    }
    made = {
        asset: f"data:image/png;base64,{base64.b64encode(encode_png(picture.frame(), 1)).decode()}"
        for asset, picture in drawn.items()
        if picture is not None
    }
    pictures = {asset_picture(asset).name: address for asset, address in {**stored, **made}.items()}
    key = hashlib.sha256("|".join([final.key, *tables, *pictures.values()]).encode()).hexdigest()
    listens = score(effect, material.known)
    told = {
        **listens.described(),
        "signals": listens.program.as_data(),
        "uniforms": {name: float(inputs.uniforms.get(name, 0.0)) for name in listens.program.uniforms},
    }
    return GpuProgram(key=key, program=plain, tables=tables, pictures=pictures, score=told)
