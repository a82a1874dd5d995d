"""What is different between two states of an effect, in words."""

from __future__ import annotations

from typing import Any

from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.listing import Listing

MOST = 40


def changes(before: Effect, after: Effect) -> list[str]:
    """What was done from one state to the other, layer by layer; at most MOST sentences."""
    found = [] if before.name == after.name else [f"Named '{after.name}', was '{before.name}'"]
    old, new = ({layer.id: layer for layer in one.layers} for one in (before, after))
    found += [f"{layer.name}: new" for key, layer in new.items() if key not in old]
    found += [f"{layer.name}: gone" for key, layer in old.items() if key not in new]
    both = [key for key in new if key in old]
    if both != [key for key in old if key in new]:
        found.append("Layers in another order")
    for key in both:
        found += _layer(old[key], new[key])
    for what, mine, theirs in (("cues", before.cues, after.cues), ("dials", before.dials, after.dials)):
        titles = [{one.id: getattr(one, "title", "") or getattr(one, "name", "") for one in some} for some in (mine, theirs)]
        found += [f"{title}: new among the {what}" for one, title in titles[1].items() if one not in titles[0]]
        found += [f"{title}: gone from the {what}" for one, title in titles[0].items() if one not in titles[1]]
    if before.rehearsal != after.rehearsal:
        found.append("Another rehearsal")
    return found[:MOST]


def changes_of_listing(before: Listing | None, after: Listing | None) -> list[str]:
    """What is said and shown otherwise than before."""
    if before == after or after is None:
        return []
    if before is None:
        return ["What is said of it: new"]
    found = []
    old, new = ({one.language: one for one in listing.texts} for listing in (before, after))
    found += [
        f"Texts in '{language}': {'new' if language not in old else 'gone'}" for language in sorted(old.keys() ^ new.keys())
    ]
    for language in sorted(old.keys() & new.keys()):
        parts = [name for name, title in TEXTS.items() if getattr(old[language], name) != getattr(new[language], name)]
        if parts:
            found.append(f"Texts in '{language}': {', '.join(TEXTS[name] for name in parts)} changed")
    found += [f"{title} changed" for name, title in REST.items() if getattr(before, name) != getattr(after, name)]
    return found


TEXTS = {"name": "name", "line": "the one line", "how": "how to use it"}
REST = {
    "categories": "Categories", "keywords": "Keywords", "icon": "Icon", "clip": "Clip", "made_by": "Who made it",
    "licence": "Licence",
}  # fmt: skip


def _layer(old: Layer, new: Layer) -> list[str]:
    name, found = new.name, []
    if old.name != new.name:
        found.append(f"{old.name} is called {new.name}")
    if old.on != new.on:
        found.append(f"{name}: switched {'on' if new.on else 'off'}")
    if old.blend != new.blend:
        found.append(f"{name}: {new.blend}, was {old.blend}")
    if old.opacity != new.opacity:
        found.append(f"{name}: opacity {_plain(new.opacity)}, was {_plain(old.opacity)}")
    titles = {port.name: port.title.lower() for port in (*old.controls(), *new.controls())}
    for control in dict.fromkeys((*old.values, *new.values)):
        one, other = old.values.get(control), new.values.get(control)
        if one != other:
            words = _plain(other), _plain(one)
            short = all(words) and other is not None and one is not None
            found.append(f"{name}: {titles.get(control, control)} " + (f"{words[0]}, was {words[1]}" if short else "changed"))
    if old.mask != new.mask:
        found.append(f"{name}: mask {'gone' if new.mask is None else 'new' if old.mask is None else 'changed'}")
    if old.drives != new.drives:
        found.append(f"{name}: motions changed")
    if old.recipe != new.recipe or old.kind != new.kind:
        found.append(f"{name}: recipe changed")
    return found


def _plain(value: Any) -> str:
    """A value in few letters; nothing where it is too long to be read."""
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(value, int | float):
        return f"{value:.3g}"
    return value if isinstance(value, str) and len(value) <= 24 else ""
