"""What values ask to be known of a moment, be it through the pictures that they read."""

from __future__ import annotations

from collections.abc import Iterable

from sunglaze.core.language.expression import Value
from sunglaze.core.language.moments import is_of_faces
from sunglaze.core.language.pictures import Picture
from sunglaze.core.moment.moment import Reads


def reads_of(values: Iterable[Value]) -> Reads:
    """What is read of moments to compute these. What lies below a layer, which is read by its name, is not followed."""
    seen: set[object] = set()
    faces, picture = False, False
    regions: set[str] = set()
    stack: list[object] = list(values)
    while stack:
        one = stack.pop()
        if isinstance(one, tuple):
            stack.extend(one)
            continue
        if not isinstance(one, Value | Picture):
            continue
        key = one.digest if isinstance(one, Value) else one.name
        if key in seen:
            continue
        seen.add(key)
        if isinstance(one, Value):
            faces |= one.op == "moment" and is_of_faces(one.attribute[0])
            stack += [one.arguments, one.attribute]
        else:
            picture |= one.source == "camera"
            regions |= {one.id} if one.source == "region" else set()
            stack += [one.values, one.enabled, one.shows, one.soon]
            if one.vertices is not None:
                faces |= one.vertices.kind == "face"
                stack.append(one.vertices.numbers)
    return Reads(picture, tuple(sorted(regions)), faces)
