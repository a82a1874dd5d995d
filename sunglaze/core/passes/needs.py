"""Whether values are made by looking at faces, be it through the pictures that they read."""

from __future__ import annotations

from collections.abc import Iterable

from sunglaze.core.face.model import of_points
from sunglaze.core.language.expression import Value
from sunglaze.core.language.moments import is_of_faces
from sunglaze.core.language.pictures import Picture


def looks_at_faces(values: Iterable[Value]) -> bool:
    """Whether numbers of faces, meshes of them, or regions that are drawn from their points are read to compute these. What lies
    below a layer, which is read by its name, is not followed."""
    seen: set[object] = set()
    stack: list[object] = list(values)
    while stack:
        one = stack.pop()
        if isinstance(one, tuple):
            stack.extend(one)
        elif isinstance(one, Value) and one.digest not in seen:
            seen.add(one.digest)
            if one.op == "moment" and is_of_faces(one.attribute[0]):
                return True
            stack += [one.arguments, one.attribute]
        elif isinstance(one, Picture) and one.name not in seen:
            seen.add(one.name)
            meshed = one.vertices is not None and one.vertices.kind == "face"
            if meshed or (one.source == "region" and of_points(one.id)):
                return True
            stack += [one.values, one.enabled, one.shows, one.soon, one.of, one.wide]
            stack += one.vertices.numbers if one.vertices else ()
    return False
