"""The shelf in the database: what material there is, where it is used, renamed, replaced, taken off and brought back."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from sunglaze.core.effect.document import FORMAT as EFFECT_FORMAT
from sunglaze.core.effect.recipe import FORMAT as RECIPE_FORMAT
from sunglaze.core.effect.recipe import Recipe, read_recipe, write_recipe
from sunglaze.core.errors import BadFile
from sunglaze.core.material.glb import write_glb
from sunglaze.core.material.gltf import is_model
from sunglaze.core.material.reels import is_animated, write_sequence
from sunglaze.core.review.profiles import FORMAT as PROFILE_FORMAT
from sunglaze.core.review.profiles import Profile, profiles, read_profile
from sunglaze.store import effects, files, tracking
from sunglaze.store.effects import Kept, NotThere
from sunglaze.store.files import DRAFT, Facts
from sunglaze.store.tables import AssetRow, now

KINDS = ("lookup", "picture", "sequence", "footage", "mesh", "recipe", "group", "profile")
"""What a file may be, in the order in which it is shown as one of them."""
_UNWANTED = re.compile(r'[\x00-\x1f<>:"/\\|?*\u200e\u200f\u202a-\u202e]+')
_RESERVED = re.compile(r"(?i)^(con|prn|aux|nul|com\d|lpt\d)(\.|$)")


@dataclass(frozen=True)
class Piece:
    """A file on the shelf. `used`: ids and names of the effects that use it as they stand."""

    row: AssetRow
    kind: str
    used: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class Found:
    """What a file that came is: its kind, its facts, and the bytes that are kept, where these are others than those that came."""

    kind: str
    facts: Facts
    data: bytes | None = None


def clean_name(name: str) -> str:
    """A file's name as every file system takes it, without its folders."""
    plain = _UNWANTED.sub(" ", name.replace("\\", "/").rpartition("/")[2]).strip(" .")
    plain = " ".join(plain.split())[:200]
    return f"{plain} file" if _RESERVED.match(plain) else plain or "file"


def recognised(name: str, data: bytes) -> Found:
    """What a file is, by what it holds. Raises BadFile, in words that say what to do instead."""
    if is_model(name, data):
        # What reads meshes takes two thirds of a second to import, and 40 MB.
        from sunglaze.core.material.models import read_model

        model = read_model(name, data)
        return Found("mesh", files.mesh_facts(model), write_glb(model.mesh))
    if data[:5].lstrip()[:1] in (b"{", b"["):
        return _document(name, data)
    if data.startswith(b"PK\x03\x04"):
        if b"manifest.json" in data[:4096] and name.lower().endswith((".glaze", ".zip")):
            raise BadFile("this is an effect's package: open it in the list of effects")
        return _sequence(data)
    if re.match(rb"\s*(<\?xml[^>]*>\s*)?(<!--.*?-->\s*)*<svg|\s*<!doctype svg", data[:2000], re.I | re.S):
        raise BadFile("drawings in SVG may hold scripts and are not read; export it as PNG, twice as large as it is shown")
    if data.startswith(b"%PDF"):
        raise BadFile("a PDF is no picture; export its page as PNG")
    if is_animated(data):
        return _sequence(data)
    try:
        facts = files.lookup_facts(data)
    except BadFile as no_lookup:
        lookup: Facts | None = None
        words = str(no_lookup)
    else:
        lookup, words = facts, ""
        if facts["like"] == "lookup":
            return Found("lookup", facts)
    try:
        return Found("picture", files.picture_facts(data))
    except BadFile:
        if lookup is not None:
            return Found("lookup", lookup)
    try:
        return Found("footage", tracking.footage_facts(data))
    except BadFile as error:
        text = name.lower().endswith((".cube", ".clf", ".cdl", ".cc", ".ccc"))
        raise BadFile(words if text else str(error)) from None


def _document(name: str, data: bytes) -> Found:
    try:
        plain: Any = json.loads(data)
    except (ValueError, RecursionError):
        raise BadFile("this looks like JSON, and is none that can be read") from None
    said = plain.get("format") if isinstance(plain, dict) else None
    if said == EFFECT_FORMAT:
        raise BadFile("this is an effect: open it in the list of effects")
    if said == PROFILE_FORMAT:
        profile = read_profile(plain)
        return Found("profile", {"title": profile.title, "help": profile.help})
    if said != RECIPE_FORMAT:
        raise BadFile("this is JSON, but neither a recipe, nor an effect, nor a profile of limits")
    recipe = read_recipe(plain)
    return Found("group" if recipe.outputs else "recipe", recipe_facts(recipe))


def recipe_facts(recipe: Recipe) -> Facts:
    """What a recipe or a group of nodes is."""
    return {"title": recipe.name, "help": recipe.help, "nodes": recipe.expanded}


def _sequence(data: bytes) -> Found:
    reel = files.read_moving(data)
    kept = write_sequence(reel.sequence)
    return Found("sequence", files.sequence_facts(reel), None if kept == data else kept)


def keep_group(session: Session, recipe: Recipe) -> AssetRow:
    """Keep a packed group for other effects."""
    data = write_recipe(recipe).encode()
    kind, name = "group" if recipe.outputs else "recipe", f"{clean_name(recipe.name)}.json"
    return files.add(session, kind, name, data, recipe_facts(recipe))


def recipe_of(session: Session, key: str) -> Recipe:
    """A kept recipe or group. Raises NotThere or BadEffect."""
    row = files.asset(session, key)
    if "group" not in row.facts and "recipe" not in row.facts:
        raise NotThere(f"{row.name} is no recipe")
    return read_recipe(row.data)


def own_profiles(session: Session) -> list[AssetRow]:
    """Profiles of limits on the shelf, the newest first."""
    rows = session.scalars(select(AssetRow).where(AssetRow.deleted.is_(None)).order_by(AssetRow.created.desc()))
    return [row for row in rows if kind_of(row) == "profile"]


def profile_named(session: Session, name: str) -> Profile:
    """A profile that ships, by name, or one of the shelf, by its hash. Raises NotThere."""
    if name in profiles():
        return profiles()[name]
    row = next((row for row in own_profiles(session) if row.hash == name), None)
    if row is None:
        raise NotThere(f"there is no profile '{name}'; there are {', '.join(profiles())}, and those on the shelf")
    return read_profile(row.data)


def kind_of(row: AssetRow) -> str | None:
    """What a file is shown as; none where it is not on the shelf."""
    if DRAFT in row.facts:
        return None
    if "lookup" in row.facts and row.facts["lookup"].get("like") != "lookup" and "picture" in row.facts:
        return "picture"
    return next((kind for kind in KINDS if kind in row.facts), None)


def check_weighs(row: AssetRow) -> None:
    """Raises BadFile where a file is never made smaller."""
    if kind_of(row) == "lookup" or not {"sequence", "picture"} & set(row.facts):
        raise BadFile(f"{row.name} is never made smaller: only pictures and sequences are")


def pieces(session: Session, deleted: bool = False) -> list[Piece]:
    """All that is on the shelf, or was taken off it, the newest first."""
    wanted = AssetRow.deleted.is_not(None) if deleted else AssetRow.deleted.is_(None)
    used = effects.uses(session)
    rows = session.scalars(select(AssetRow).where(wanted).order_by(AssetRow.created.desc()))
    return [Piece(row, kind, tuple(used.get(row.hash, ()))) for row in rows if (kind := kind_of(row)) is not None]


def rename(session: Session, key: str, name: str) -> AssetRow:
    """Call a file something else. Raises NotThere."""
    row = files.asset(session, key)
    row.name = clean_name(name)
    session.flush()
    return row


def take_off(session: Session, key: str) -> None:
    """Take a file off the shelf. Effects that use it go on; `put_back` brings it back. Raises NotThere."""
    files.asset(session, key).deleted = now()


def put_back(session: Session, key: str) -> AssetRow:
    """Raises NotThere."""
    row = files.asset(session, key)
    row.deleted = None
    session.flush()
    return row


def clear_unused(session: Session) -> list[str]:
    """Take off the shelf what no effect uses; the keys of what went."""
    gone = [piece.row.hash for piece in pieces(session) if not piece.used and piece.kind != "profile"]
    for key in gone:
        take_off(session, key)
    return gone


def forget_drafts(session: Session) -> None:
    """Delete what was made only to be looked at."""
    for row in session.scalars(select(AssetRow)):
        if DRAFT in row.facts:
            session.delete(row)
    session.flush()


def replace_everywhere(session: Session, old: str, new: str) -> list[Kept]:
    """Let every effect that uses one file use another of the same kind, as a revision each. Raises NotThere or BadFile."""
    one, other = files.asset(session, old), files.asset(session, new)
    if kind_of(one) != kind_of(other) or kind_of(one) is None:
        raise BadFile(f"{other.name} is no {kind_of(one)}, which {one.name} is; choose one of its kind")
    changed = []
    for kept in effects.every(session):
        if old not in kept.effect.assets():
            continue
        plain = replaced(kept.effect.model_dump(by_alias=True), {old: lambda held: refer(held, new)})
        effect = type(kept.effect).model_validate(plain)
        changed.append(effects.save(session, kept.id, kept.revision, effect, f"{one.name} replaced by {other.name}").kept)
    return changed


def refer(held: Any, key: str) -> Any:
    """What refers to a file, referring to another: a layout that was chosen for a lookup does not go along."""
    if not isinstance(held, dict):
        return key
    return {**held, "asset": key, **({"layout": None} if "layout" in held else {})}


def replaced(plain: Any, by: Mapping[str, Callable[[Any], Any]]) -> Any:
    """A document with what refers to files changed: `by` says how, by their keys."""
    if isinstance(plain, dict):
        if isinstance(plain.get("asset"), str) and plain["asset"] in by:
            return by[plain["asset"]](plain)
        return {name: replaced(value, by) for name, value in plain.items()}
    if isinstance(plain, list):
        return [replaced(value, by) for value in plain]
    return by[plain](plain) if isinstance(plain, str) and plain in by else plain
