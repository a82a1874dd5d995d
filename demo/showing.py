"""Publish some of the demo's effects: six are in the showcase, one is in review, one was returned with a reason."""

from __future__ import annotations

from pathlib import Path

from demo.saying import IN_REVIEW, RETURNED, TAKEN
from sunglaze.core.package.published import publish_package
from sunglaze.store import effects, publishing
from sunglaze.store.database import open_database
from sunglaze.store.files import material_of


def publish(folder: Path) -> list[str]:
    """Names of the effects that were published; those that were before are left alone."""
    made = []
    with open_database(folder).begin() as session:
        known = {one.effect_id for one in publishing.publications(session)}
        for key in (*TAKEN, IN_REVIEW, RETURNED[0]):
            said = publishing.listing(session, key)
            if key in known or said is None or not effects.exists(session, key):
                continue
            kept = effects.get(session, key)
            package = publish_package(kept.effect, material_of(session, kept.effect), said)
            row = publishing.publish(session, kept, package, said)
            publishing.move(session, row.code, "in review")
            if key in TAKEN:
                publishing.move(session, row.code, "taken")
            elif key == RETURNED[0]:
                publishing.move(session, row.code, "returned", RETURNED[1])
            made.append(kept.effect.name)
    return made
