"""Layers as tests make them."""

from __future__ import annotations

from typing import Any

from sunglaze.core.effect.document import Layer
from sunglaze.core.effect.references import LookupRef


def fill(identity: str, colour: str = "#a8420d", name: str | None = None, **common: Any) -> Layer:
    """A fill; `common` is what every layer has: on, blend, opacity."""
    return Layer(id=identity, name=name or identity, kind="fill", values={"colour": colour}, **common)


def grade(identity: str, ref: LookupRef, name: str | None = None, **values: Any) -> Layer:
    """A lookup grade; `values` are its controls: strength, interpolation."""
    return Layer(id=identity, name=name or identity, kind="lookup-grade", values={"lookup": {"asset": ref.asset}, **values})
