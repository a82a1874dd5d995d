"""Put the demo's effects into a data folder: `python -m demo.seed FOLDER`. Effects that were made before are left alone."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from demo import answering, made, saying, showing, wearing
from sunglaze.core.effect.document import Effect, Layer, LayerGroup, LayerMask
from sunglaze.core.effect.motions import Dial, Drive
from sunglaze.core.material.glb import read_glb
from sunglaze.core.material.models import Model
from sunglaze.core.material.reels import read_zip
from sunglaze.store import effects, files, publishing, tracking
from sunglaze.store.database import open_database


def grade(session: Session, name: str, file: str, strength: float) -> Layer:
    data = made.file(file)
    asset = files.add(session, "lookup", file, data, files.lookup_facts(data))
    values = {"lookup": {"asset": asset.hash}, "strength": strength}
    return Layer(id="grade", name=name, kind="lookup-grade", values=values)


def fill(identity: str, name: str, blend: str, opacity: float, colour: str) -> Layer:
    return Layer(id=identity, name=name, kind="fill", blend=blend, opacity=opacity, values={"colour": colour})


def layer(identity: str, kind: str, name: str, blend: str = "normal", opacity: float = 1.0, **values: Any) -> Layer:
    return Layer(id=identity, name=name, kind=kind, blend=blend, opacity=opacity, values=values)


def lamp(identity: str, name: str, colour: str, left: float, shift: float) -> Layer:
    """A light from one side that swells and fades; `shift`: parts of a turn behind another one."""
    swell = Drive(kind="pulse", values={"low": 0.0, "high": 0.75, "seconds": 3.2, "how": "smooth", "shift": shift})
    round_light = LayerMask(kind="circle", values={"centre": [left, 0.42], "width": 1.3, "height": 1.3, "soft": 1.0})
    return Layer(
        id=identity, kind="fill", name=name, blend="hard-light", values={"colour": colour}, mask=round_light,
        drives={"layer:opacity": swell},
    )  # fmt: skip


def mesh(session: Session, name: str) -> str:
    """A mesh of the demo on the shelf; its hash."""
    data = made.file(name)
    return files.add(session, "mesh", name, data, files.mesh_facts(Model(read_glb(data), ()))).hash


def picture(session: Session, name: str) -> str:
    """A still of the demo on the shelf; its hash."""
    data = made.file(name)
    return files.add(session, "picture", name, data, files.picture_facts(data)).hash


def sequence(session: Session, name: str) -> dict[str, Any]:
    """A sequence of the demo on the shelf, as a control plays it."""
    data = made.file(name)
    reel = read_zip(data)
    row = files.add(session, "sequence", name, data, files.sequence_facts(reel))
    return {"asset": row.hash, "rate": reel.sequence.rate, "order": "loop", "shift": 0.0}


def moving(session: Session) -> dict[str, Effect]:
    """Effects with material that moves, or that the wearer brings along."""
    reel = made.file("old-reel.mp4")
    files.add(session, "footage", "old-reel.mp4", reel, tracking.footage_facts(reel))
    dust, jumps, fog = (sequence(session, f"{name}.zip") for name in ("old-reel", "lost-signal", "fog-bank"))
    sky, kites, photo, fish = (picture(session, f"{name}.png") for name in ("late-sky", "five-kites", "lighthouse", "shoal"))
    no_eyes = LayerMask(kind="region", values={"region": "eyes", "over": True, "soft": 12.0})
    return {
        "demo-old-reel": Effect(
            name="Old reel",
            layers=[
                grade(session, "Faded print", "window-poster.png", 0.85),
                layer("dust", "dust", "Dust from the reel", blend="screen", loop=dust, use=True, colour="#fff2d8").model_copy(
                    update={"drives": {"amount": Drive(kind="dial", values={"dial": "dust", "low": 0.0, "high": 1.0})}}
                ),
                layer("grain", "film-grain", "Grain", amount=0.3),
                layer("dark", "vignette", "The gate", blend="multiply", amount=0.6),
            ],
            dials=[Dial(id="dust", title="Dust", start=0.8)],
        ),
        "demo-signal-lost": Effect(
            name="Signal lost",
            layers=[
                grade(session, "Cold tube", "sea-fog.png", 0.6),
                layer("fringes", "colour-fringes", "A little off", amount=0.6),
                layer("jumps", "displace", "Bands that jump", picture=jumps, use=True, across=120.0, down=40.0).model_copy(
                    update={"mask": no_eyes}
                ),
                layer("tape", "tape", "Lines", opacity=0.4),
            ],
        ),
        "demo-fog-bank": Effect(
            name="Fog bank",
            layers=[
                layer("fog", "reveal", "Through the fog", picture=fog, use=True, part="red", over=True, edge=0.66, soft=0.5,
                      tint=0.18, paper="#eef2f3"),
            ],
        ),
        "demo-kite-day": Effect(
            name="Kite day",
            layers=[
                layer("sky", "cut-out", "Late sky behind", picture=sky, soften=2.5),
                layer("tone", "tone-and-colour", "Evening on the face", warmth=0.12, contrast=1.05),
                layer("kites", "picture", "Kites", picture=kites).model_copy(
                    update={"mask": LayerMask(kind="region", values={"region": "person", "over": True, "soft": 3.0})}
                ),
            ],
        ),
        "demo-shoal": Effect(
            name="Shoal",
            layers=[
                layer("deep", "two-colour-map", "Under water", opacity=0.6, dark="#06283a", middle="#2f7f8c", light="#eaf6ee"),
                layer("fish", "sparkle", "A shoal that turns", blend="screen", sheet=fish, use=True, glints=12, down=12,
                      across=11.0, amount=20.0, bright=0.12, edges=0.01, colour="#f2fbff"),
            ],
        ),
        "demo-half-light": Effect(
            name="Half-light",
            layers=[
                layer("two", "two-picture-exposure", "Your photo in the face", photo={"wearer": True, "asset": photo}, face=0.85),
                layer("grain", "film-grain", "Paper", amount=0.25),
            ],
        ),
    }  # fmt: skip


def seed(folder: Path) -> list[str]:
    """Names of the effects that were added."""
    added = []
    with open_database(folder).begin() as session:
        wanted = {
            "demo-faded-bill": Effect(
                name="Last year's bill",
                layers=[
                    grade(session, "Faded print", "window-poster.png", 1.0),
                    fill("black", "Full black", "soft-light", 0.18, "#000000"),
                    fill("paper", "Paper", "multiply", 0.35, "#f4e6cc"),
                ],
            ),
            "demo-harbour-fog": Effect(
                name="Harbour fog",
                layers=[
                    grade(session, "Cold fog", "sea-fog.png", 0.85),
                    fill("haze", "Haze", "screen", 0.22, "#8fa3ad"),
                ],
            ),
            "demo-low-tide": Effect(
                name="Low-tide gold",
                layers=[
                    grade(session, "Warm evening", "amber-shore.png", 0.72),
                    fill("glow", "Lantern glow", "soft-light", 0.25, "#e8862e"),
                ],
            ),
        }
        wanted["demo-storm-warning"] = Effect(
            name="Storm warning",
            layers=[
                layer("tone", "tone-and-colour", "Cold light", exposure=-0.15, contrast=1.25, saturation=0.8, warmth=-0.25),
                layer("glow", "glow", "Lamp glow", blend="screen", amount=0.6),
                layer("edges", "outline", "Chalk lines", blend="screen", opacity=0.55, colour="#bfe3ea"),
                layer("grain", "film-grain", "Spray", amount=0.35).model_copy(update={"group": "lens"}),
                layer("dark", "vignette", "Dark corners", blend="multiply").model_copy(update={"group": "lens"}),
            ],
            groups=[LayerGroup(id="lens", name="Wet lens")],
        )
        wanted["demo-lantern-walk"] = Effect(
            name="Lantern walk",
            layers=[
                layer("hues", "hue-curves", "Deep dusk", strength=0.9),
                Layer(
                    id="dusk", kind="fill", name="Blue hour", blend="multiply", opacity=0.75, values={"colour": "#5a6fa8"},
                    mask=LayerMask(kind="region", values={"over": True, "soft": 10.0}),
                ),
                layer("sparkle", "sparkle", "Lantern glints", blend="screen", colour="#ffd9a0", across=26.0, amount=8.0),
                layer("words", "text", "Meeting time", text={"text": "Lantern walk at nine", "width": 6.0}, size=0.6),
            ],
        )  # fmt: skip
        wanted["demo-buoy-lights"] = Effect(
            name="Buoy lights",
            layers=[
                layer(
                    "night", "tone-and-colour", "Night on the water", exposure=-0.7, contrast=1.15, saturation=0.75, warmth=-0.2
                ),
                lamp("port", "Port lamp", "#ff5a36", 0.05, 0.0),
                lamp("starboard", "Starboard lamp", "#3fd07a", 0.95, 0.5),
                layer("glow", "glow", "Mist round the lamps", blend="screen", amount=0.45),
                layer("dark", "vignette", "Dark corners", blend="multiply"),
            ],
        )
        wanted["demo-spindrift"] = Effect(
            name="Spindrift",
            layers=[
                layer("chart", "two-colour-map", "Sea and foam", opacity=0.55, dark="#0c2f45", middle="#4f8f9f", light="#fbf3e2"),
                layer("spray", "sparkle", "Spray in the sun", blend="screen", across=20.0, amount=7.0, colour="#ffffff"),
                layer("grain", "film-grain", "Salt", amount=0.25),
            ],
        )
        wanted["demo-regatta-board"] = Effect(
            name="Regatta board",
            layers=[
                layer("tone", "tone-and-colour", "Breeze", exposure=0.05, contrast=1.1, saturation=1.08, warmth=0.06),
                layer("sky", "colour-ramp", "Late sun", blend="soft-light", opacity=0.45, colour="#ffb56b", second="#1d4a63",
                      middle=[0.5, 0.42], length=1.6, turn=-18.0),
                layer("board", "frosted-panel", "Score", middle=[0.5, 0.86], width=0.88, height=0.26, rounding=0.05,
                      text={"text": "Race 3   Kite flyer 12\nStilt walker 9", "font": "figures", "width": 24.0, "align": "left"},
                      size=0.74, tint="#f6efdc", tinted=0.55, blur=22.0),
                layer("pennant", "text", "Heading", text={"text": "Midsummer regatta", "weight": 700}, at=[0.5, 0.09], size=0.72,
                      colour="#fff3d6", shade=0.35),
            ],
        )  # fmt: skip
        echo = layer(
            "line", "outline", "A line that stands off", blend="screen", colour="#f3f5f2", scale=1.045, shift=[0.012, -0.008],
            thickness=2.0, **{"from": 0.08, "to": 0.2},
        )  # fmt: skip
        wanted["demo-black-shore"] = Effect(
            name="Black shore",
            layers=[
                layer("grey", "black-and-white", "Black sand"),
                fill("black", "Full black", "soft-light", 0.32, "#000000"),
                echo.model_copy(update={"mask": LayerMask(kind="region", values={"over": True, "soft": 4.0})}),
                layer("grain", "film-grain", "Sand", amount=0.3, size=1.4),
                layer("dark", "vignette", "Towards the sea", blend="multiply", amount=0.5),
            ],
        )
        mouth = {"which": "mouth open", "who": "first", "least": 0.1, "most": 0.6}
        blown = Drive(kind="face-measure", values={**mouth, "low": 0.0, "high": 16.0, "seconds": 0.25})
        lit = Drive(kind="face-measure", values={**mouth, "low": 0.15, "high": 1.0, "seconds": 0.4})
        wanted["demo-foghorn"] = Effect(
            name="Foghorn",
            layers=[
                layer("tone", "tone-and-colour", "Grey morning", saturation=0.55, contrast=0.92, warmth=-0.12),
                layer(
                    "waves", "ripple", "What the mouth sends out", rings=True, length=90.0, speed=420.0, middle=[0.5, 0.62]
                ).model_copy(update={"drives": {"height": blown}}),
                layer("lamp", "glow", "The lamp", blend="screen").model_copy(update={"drives": {"layer:opacity": lit}}),
                layer("mist", "fill", "Mist", "screen", 0.18, colour="#9fb0b8"),
            ],
        )
        if not effects.exists(session, "demo-half-light"):
            wanted |= moving(session)
        if not effects.exists(session, "demo-two-shores"):
            wanted |= answering.effects(
                grade(session, "Warm evening", "amber-shore.png", 0.75), sequence(session, "fog-bank.zip")
            )
        if not effects.exists(session, "demo-drying-nets"):
            pieces = ("tide-mask", "net", "scallop", "sunday-glasses", "lantern", "boathouse")
            worn = {name: picture(session, f"{name}.png") for name in pieces}
            rings = [sequence(session, f"compass-ring-{n}.zip") for n, _ in enumerate(wearing.RINGS, 1)]
            meshes = {name: mesh(session, f"{name}.glb") for name in ("lighthouse", "gull")}
            wanted |= wearing.effects(worn, sequence(session, "salt.zip"), rings, meshes)
        for key, effect in wanted.items():
            if not effects.exists(session, key):
                effects.create(session, effect, "Demo effect", key)
                added.append(effect.name)
        for key, say in saying.SAID.items():
            if effects.exists(session, key) and publishing.listing(session, key) is None:
                publishing.keep_listing(session, key, saying.listing(say))
    return added


if __name__ == "__main__":
    for name in seed(Path(sys.argv[1])):
        print(f"added the demo effect '{name}'")
    for name in showing.publish(Path(sys.argv[1])):
        print(f"published the demo effect '{name}'")
