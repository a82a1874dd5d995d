"""Effects that cling to a face or stand behind it: paint, pins, rings in depth, a room, retouch and make-up."""

from __future__ import annotations

from typing import Any

from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.motions import Drive

RINGS = (
    (24, (255, 214, 140), 172.0, 26.0, False),
    (36, (176, 220, 226), 168.0, 18.0, True),
    (12, (255, 244, 222), 160.0, 34.0, False),
)
"""Of the compass: marks, colour, radius, width, and whether it turns backwards."""

HERON: list[dict[str, Any]] = [
    {"fill": "#e6e2d6", "soft": 46.0, "opacity": 0.85, "points": [
        [0.5, 0.13], [0.3, 0.15], [0.13, 0.27], [0.1, 0.42], [0.22, 0.5], [0.36, 0.56], [0.44, 0.66], [0.5, 0.68]]},
    {"fill": "#1f2b36", "soft": 10.0, "grown": 2.0, "points": [
        [0.46, 0.3], [0.36, 0.27], [0.24, 0.3], [0.08, 0.4], [0.03, 0.49], [0.14, 0.455], [0.26, 0.44], [0.36, 0.425],
        [0.43, 0.42], [0.475, 0.38]]},
    {"fill": "#d8912c", "soft": 14.0, "grown": 3.0, "opacity": 0.92, "points": [
        [0.5, 0.3], [0.472, 0.36], [0.455, 0.44], [0.43, 0.53], [0.455, 0.58], [0.5, 0.66]]},
    {"fill": "#1f2b36", "soft": 8.0, "grown": 2.0, "points": [[0.5, 0.1], [0.46, 0.13], [0.47, 0.2], [0.5, 0.27]]},
    {"fill": "#1f2b36", "soft": 10.0, "grown": 2.0, "opacity": 0.9, "points": [
        [0.5, 0.8], [0.46, 0.815], [0.475, 0.9], [0.5, 0.95]]},
]  # fmt: skip
"""A heron's face: shapes of a painting, the lowest first."""


def layer(identity: str, kind: str, name: str, blend: str = "normal", opacity: float = 1.0, **values: Any) -> Layer:
    """A layer with values."""
    return Layer(id=identity, name=name, kind=kind, blend=blend, opacity=opacity, values=values)


def effects(worn: dict[str, str], salt: dict[str, Any], rings: list[dict[str, Any]], meshes: dict[str, str]) -> dict[str, Effect]:
    """By their keys. `worn`: pictures on the shelf by name; `salt` and `rings`: sequences as controls play them;
    `meshes`: on the shelf by name."""
    shell = {"picture": worn["scallop"], "wide": 2.6}
    sways = {"turn": Drive(kind="pulse", values={"low": -9.0, "high": 9.0, "seconds": 2.6, "how": "smooth"})}
    swings = {"swing": Drive(kind="pulse", values={"low": -6.0, "high": 6.0, "seconds": 3.4, "how": "smooth", "shift": 0.3})}
    return {
        "demo-tide-mask": Effect(
            name="Tide mask",
            layers=[
                layer("paint", "face-paint", "Salt and tide lines", picture=worn["tide-mask"], mouth=True, light=0.55),
                layer("grey", "black-and-white", "Black sand"),
                layer("tone", "tone-and-colour", "Hard light", contrast=1.2),
                layer("fringes", "colour-fringes", "Where it breaks", amount=0.5),
            ],
        ),
        "demo-drying-nets": Effect(
            name="Drying nets",
            layers=[
                layer("noon", "tone-and-colour", "Salt air", exposure=-0.06, contrast=1.1, saturation=0.85, warmth=-0.05),
                layer("net", "face-paint", "Nets over the fence", picture=worn["net"], light=0.5, who="everybody"),
                layer("gleam", "make-up", "Wet rope", lips=0.25, gloss=0.3, blush=0.0, contour=0.15, highlight=0.25, shadow=0.3,
                      shadow_colour="#2a5560", outer=0.2, liner=0.5, lashes=0.4, brows=0.1),
                layer("frame", "vignette", "Under the racks", blend="multiply", amount=0.4),
            ],
        ),
        "demo-heron": Effect(
            name="Heron",
            layers=[
                layer("face", "face-paint", "A heron's face", painting={"shapes": HERON}, light=0.75),
                layer("reeds", "tone-and-colour", "Early at the reeds", warmth=-0.12, contrast=1.06, saturation=0.92),
                layer("mist", "glow", "Mist", blend="screen", amount=0.22),
            ],
        ),
        "demo-salt-and-shells": Effect(
            name="Salt and shells",
            layers=[
                layer("skin", "even-skin", "Rested", strength=0.25, under=0.3),
                layer("cheeks", "pin", "A shell on each cheek", place="left cheek", both=True, turn=12.0, **shell).model_copy(
                    update={"drives": sways}
                ),
                layer("brow", "pin", "Salt at the brow", picture=salt, place="between the brows", wide=1.6, up=2.2),
                layer("temples", "pin", "At the temples", picture=salt, place="left temple", both=True, wide=1.2, up=1.6,
                      right=0.6),
                layer("gleam", "make-up", "Salt on the skin", lips=0.2, gloss=0.5, blush=0.15, contour=0.0, highlight=0.4,
                      shadow=0.2, shadow_colour="#9fc3cb", outer=0.0, liner=0.0, lashes=0.2, brows=0.0),
                layer("frame", "vignette", "Rock pool", blend="multiply", amount=0.55),
            ],
        ),
        "demo-sunday-glasses": Effect(
            name="Sunday glasses",
            layers=[
                layer("sun", "tone-and-colour", "Late morning", exposure=0.08, warmth=0.12, saturation=1.05),
                layer("glasses", "pin-with-pendant", "Glasses and lanterns", picture=worn["sunday-glasses"],
                      pendant=worn["lantern"], place="nose bridge", both=True, wide=14.6, up=-0.5, out=1.2, hides=False,
                      hook_right=-7.0, hook_up=0.2, hangs=3.4, small=2.6).model_copy(update={"drives": swings}),
            ],
        ),
        "demo-keeper-of-the-light": Effect(
            name="Keeper of the light",
            layers=[
                layer("evening", "tone-and-colour", "Before dusk", exposure=-0.2, warmth=0.16, contrast=1.08),
                layer("tower", "mesh", "The lighthouse", mesh={"asset": meshes["lighthouse"]}, wide=15.0, up=13.6, out=-1.2,
                      from_right=40.0, from_above=30.0),
                layer("gull", "mesh", "A gull that circles", mesh={"asset": meshes["gull"], "motion": "circles"},
                      wide=11.6, up=7.5, middle=False, from_right=40.0, from_above=30.0),
                layer("glow", "glow", "The lamp", blend="screen", amount=0.3),
            ],
        ),
        "demo-compass": Effect(
            name="Compass",
            layers=[
                layer("dusk", "tone-and-colour", "Dusk on the water", exposure=-0.35, warmth=-0.15, contrast=1.1),
                layer("far", "ring-in-depth", "Behind the head", blend="screen", picture=rings[1], wide=38.0, out=-12.0,
                      behind=True),
                layer("middle", "ring-in-depth", "About the face", blend="screen", picture=rings[0], wide=25.0, out=7.0),
                layer("near", "ring-in-depth", "Nearest", blend="screen", opacity=0.8, picture=rings[2], wide=15.0, out=18.0),
                layer("glow", "glow", "Lamp oil", blend="screen", amount=0.35),
            ],
        ),
        "demo-boathouse": Effect(
            name="Boathouse",
            layers=[
                layer("room", "deep-backdrop", "The boathouse", picture=worn["boathouse"], wall=0.4, vanishing=[0.5, 0.45],
                      depth=1.2, drift=0.5, wrap=0.35),
                layer("lamps", "tone-and-colour", "Lamplight", exposure=-0.12, warmth=0.18, contrast=1.06),
                layer("grain", "film-grain", "Grain", amount=0.2),
            ],
        ),
        "demo-soft-morning": Effect(
            name="Soft morning",
            layers=[
                layer("skin", "even-skin", "A quarter", strength=0.3, under=0.4, spots=0.3),
                layer("eyes", "eyes-and-teeth", "Awake", bright=0.3, teeth=0.35),
                layer("face", "make-up", "Faint", lips=0.22, blush=0.16, contour=0.1, highlight=0.16, shadow=0.14, outer=0.1,
                      liner=0.2, lashes=0.3, brows=0.1),
                layer("light", "fill", "Morning", "soft-light", 0.14, colour="#ffe6cc"),
            ],
        ),
        "demo-first-ferry": Effect(
            name="First ferry",
            layers=[
                layer("dawn", "tone-and-colour", "Before sunrise", exposure=-0.1, warmth=0.14, contrast=1.05, saturation=1.06),
                layer("skin", "even-skin", "Slept well", strength=0.25, under=0.35, spots=0.3),
                layer("face", "make-up", "Cold cheeks", lips=0.15, blush=0.3, contour=0.0, highlight=0.2, shadow=0.0, outer=0.0,
                      liner=0.0, lashes=0.15, brows=0.0),
                layer("glow", "glow", "Sun on the wake", blend="screen", amount=0.22),
                layer("frame", "vignette", "Cabin window", blend="multiply", amount=0.35),
            ],
        ),
    }  # fmt: skip
