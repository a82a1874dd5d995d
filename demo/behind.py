"""What the demo lets be made while the application runs already: frames of the cast, prints of its effects, machine code of them
and of all ready-made layers, publications. `python -m demo.behind FOLDER`; what was made before is left alone."""

from __future__ import annotations

import contextlib
import signal
import sys
from collections.abc import Iterator
from pathlib import Path

from sqlalchemy.orm import Session, sessionmaker

from demo.showing import publish
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.camera.kept import settle
from sunglaze.core.disk_cache import keep_beside
from sunglaze.core.edition import edition
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.shipped import shipped
from sunglaze.core.engine.running import prepare
from sunglaze.core.errors import GlazeError
from sunglaze.core.prints.whole import SIZE, effect_print
from sunglaze.core.review.preflight import FLASH_SCRIPTS, SMALL
from sunglaze.server.pictures import Pictures
from sunglaze.server.prints import name_of
from sunglaze.store import effects, tracking
from sunglaze.store.database import engine_for
from sunglaze.store.files import material_of

Sessions = sessionmaker[Session]


def film() -> None:
    """Frames of who sits there at first, as the workbench shows them, and those in which checks look for flashing."""
    seats = [StandIn(540, 960), *(StandIn(*SMALL, Sitting(script=script)) for script in FLASH_SCRIPTS)]
    for seat in seats:
        for number in range(seat.length):
            seat.frame(number)
            settle()


def draw(sessions: Sessions, pictures: Pictures) -> None:
    """Prints of all effects."""
    with sessions() as session:
        for kept in effects.every(session):
            name = name_of(session, effects.state(session, kept.id, kept.revision))
            if not pictures.has(name):
                own = tracking.own_camera(session, kept.effect, *SIZE)
                data = effect_print(kept.effect, material_of(session, kept.effect), own)
                pictures.keep(name, data)
                pictures.keep(pictures.latest(kept.id), data)


def alone() -> Iterator[Effect]:
    """Each ready-made layer by itself."""
    for kind, recipe in shipped().items():
        start = recipe.start
        yield Effect(name=kind, layers=[Layer(id="l", name=kind, kind=kind, blend=start.blend, opacity=start.opacity)])


def compile_all(sessions: Sessions) -> None:
    """Machine code of all effects and layers, which is kept beside the data."""
    with sessions() as session:
        wanted = [(kept.effect, material_of(session, kept.effect)) for kept in effects.every(session)]
    for effect, material in [*wanted, *((one, Material()) for one in alone())]:
        # One that lacks a file stays as it is: whoever opens it is told.
        with contextlib.suppress(GlazeError):
            prepare(compile_effect(effect, material).program.final, "bytes")


def main(folder: Path) -> None:
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    done, state = folder / "behind", edition()
    if done.is_file() and done.read_text() == state:
        return
    keep_beside(folder)
    sessions = sessionmaker(engine_for(folder), expire_on_commit=False)
    film()
    draw(sessions, Pictures(folder))
    compile_all(sessions)
    for _ in publish(folder):
        pass
    done.write_text(state)


if __name__ == "__main__":
    main(Path(sys.argv[1]))
