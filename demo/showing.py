"""Publish some of the demo's effects: six are in the showcase, one is in review, one was returned with a reason."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from demo.saying import IN_REVIEW, RETURNED, TAKEN
from sunglaze.core.package.published import publish_package
from sunglaze.store import effects, publishing
from sunglaze.store.database import open_database
from sunglaze.store.files import material_of


def publish(folder: Path) -> Iterator[str]:
    """Names of the effects as they are published, each kept at once; those that were before are left alone."""
    sessions = open_database(folder)
    for key in (*TAKEN, IN_REVIEW, RETURNED[0]):
        with sessions() as session:
            said = publishing.listing(session, key)
            if said is None or not effects.exists(session, key) or publishing.of_effect(session, key) is not None:
                continue
            kept = effects.get(session, key)
            package = publish_package(kept.effect, material_of(session, kept.effect), said)
        with sessions.begin() as session:
            row = publishing.publish(session, kept, package, said)
            publishing.move(session, row.code, "in review")
            if key in TAKEN:
                publishing.move(session, row.code, "taken")
            elif key == RETURNED[0]:
                publishing.move(session, row.code, "returned", RETURNED[1])
        yield kept.effect.name
