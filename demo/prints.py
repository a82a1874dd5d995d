"""Draw the prints that come with the demo's effects, so that the list has them at once: `python -m demo.prints`."""

from __future__ import annotations

import tempfile
from pathlib import Path

from sqlalchemy.orm import Session, sessionmaker

from demo.behind import draw
from demo.seed import seed
from sunglaze.server.pictures import Pictures
from sunglaze.store import effects
from sunglaze.store.database import engine_for

FOLDER = Path(__file__).parent / "shelf" / "prints"


def put(folder: Path) -> None:
    """Give a data folder those that lie here, as what was drawn last of its effects."""
    pictures = Pictures(folder)
    for file in sorted(FOLDER.glob("*.jpg")):
        name = pictures.latest(file.stem)
        if not pictures.has(name):
            pictures.keep(name, file.read_bytes())


def main() -> None:
    FOLDER.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        seed(folder)
        sessions, pictures = sessionmaker[Session](engine_for(folder), expire_on_commit=False), Pictures(folder)
        draw(sessions, pictures)
        with sessions() as session:
            for kept in effects.every(session):
                (FOLDER / f"{kept.id}.jpg").write_bytes(pictures.find(pictures.latest(kept.id)) or b"")


if __name__ == "__main__":
    main()
