"""Demo effects that answer: to a face, a finger, a cue, the wearer's dials."""

from __future__ import annotations

from typing import Any

from sunglaze.core.effect.document import Effect, Layer, LayerMask
from sunglaze.core.effect.motions import Cue, Dial, Drive
from sunglaze.core.moment.rehearsal import Finger, Rehearsal, Step


def taps(*frames: int, length: int) -> Rehearsal:
    """A finger that taps the middle of the picture at these frames, each time for a tenth of a second."""
    steps = [Step(frame=frame + late, touch=Finger(down=not late)) for frame in frames for late in (0, 3)]
    return Rehearsal(steps=tuple(steps), frames=length)


def layer(identity: str, kind: str, name: str, drives: dict[str, Drive] | None = None, **more: Any) -> Layer:
    return Layer(id=identity, kind=kind, name=name, drives=drives or {}, **more)


PERSON = LayerMask(kind="region", values={"region": "person", "soft": 2.0})
BEHIND = LayerMask(kind="region", values={"over": True, "soft": 8.0})
TAP = Cue(id="tap", name="Tap", kind="tap")


def effects(evening: Layer, fog: dict[str, Any]) -> dict[str, Effect]:
    """By their ids. `evening`: a warm grade; `fog`: the loop of a bank of fog, as a control plays it."""
    mouth = Cue(id="mouth-opens", name="Mouth opens", kind="mouth-opens", values={"who": "any", "threshold": 0.3, "band": 0.1})
    return {
        "demo-hold-still": Effect(
            name="Hold still",
            layers=[
                layer("grey", "black-and-white", "Box camera"),
                layer(
                    "strips", "freeze", "Four at a time",
                    values={"cue": "tap", "parts": 4, "direction": "one above another", "flash": 0.8},
                ),
                layer("paper", "fill", "Warm paper", blend="multiply", opacity=0.5, values={"colour": "#f6e9cf"}),
                layer("grain", "film-grain", "Grain", values={"amount": 0.3}),
            ],
            cues=[TAP],
            rehearsal=taps(45, 90, 135, 180, 240, length=285),
        ),
        "demo-slow-shutter": Effect(
            name="Slow shutter",
            layers=[
                layer(
                    "night", "tone-and-colour", "After the lamps",
                    values={"exposure": -0.1, "contrast": 1.15, "warmth": -0.12, "saturation": 1.1},
                ),
                layer("glow", "glow", "Lamps in the mist", blend="screen", opacity=0.5),
                layer(
                    "trails", "trails", "The shutter stays open", values={"how": "lighten", "length": 0.94, "grow": 1.02},
                ),
                layer(
                    "held", "freeze", "Kept for a moment",
                    values={"cue": "tap", "how": "for a time", "seconds": 2.0, "flash": 0.5},
                ),
                layer("dark", "vignette", "Dark corners", blend="multiply"),
            ],
            cues=[TAP],
            rehearsal=taps(60, 150, length=240),
        ),
        "demo-harbour-master": Effect(
            name="Harbour master",
            layers=[
                evening.model_copy(update={"drives": {"strength": Drive(
                    kind="dial", values={"dial": "grade", "low": 0.0, "high": 1.0}
                )}}),
                layer("follow", "face-follow", "Never out of sight", values={"size": 0.3, "place": [0.5, 0.4]}),
                layer("dark", "vignette", "Spyglass", blend="multiply", values={"amount": 0.7}),
            ],
            dials=[Dial(id="grade", title="Evening", start=0.75)],
        ),
        "demo-coming-ashore": Effect(
            name="Coming ashore",
            layers=[
                layer("tone", "tone-and-colour", "Low sun", values={"warmth": 0.14, "contrast": 1.06, "exposure": 0.05}),
                layer(
                    "follow", "face-follow", "Comes nearer",
                    values={"by": "fixed zoom", "zoom": 1.9, "ease": 1.8, "place": [0.5, 0.38], "seconds": 0.4},
                ),
                layer("glow", "glow", "Light on the water", blend="screen", opacity=0.5),
            ],
        ),
        "demo-lighthouse": Effect(
            name="Lighthouse",
            layers=[
                layer(
                    "beam", "colour-fringes", "The lamp goes round", mask=PERSON,
                    drives={
                        f"{part}_shift.0": Drive(kind="pulse", values={"low": 0.0, "high": way * 0.05, "seconds": 1.0})
                        for part, way in (("red", 1), ("blue", -1))
                    },
                ),
                layer("night", "fill", "Towards night", blend="multiply", opacity=0.35, values={"colour": "#3b4f8a"}),
            ],
        ),
        "demo-two-shores": Effect(
            name="Two shores",
            layers=[
                layer(
                    "fog", "reveal", "Fog behind, or all round", mask=BEHIND,
                    drives={"layer:mask": Drive(kind="cued-ramp", values={
                        "cue": "tap", "low": 1.0, "high": 0.0, "how": "there, and back by the next", "seconds": 0.6, "back": 0.6,
                    })},
                    values={"picture": fog, "use": True, "part": "red", "over": True, "edge": 0.66, "soft": 0.5, "tint": 0.18,
                            "paper": "#eef2f3"},
                ),
                layer(
                    "horn", "glow", "A lamp when one calls", blend="screen",
                    drives={"layer:on": Drive(kind="cued-ramp", values={
                        "cue": "mouth-opens", "low": 0.0, "high": 1.0, "how": "while it holds", "seconds": 0.15, "back": 0.8,
                    })},
                ),
            ],
            cues=[TAP, mouth],
            rehearsal=taps(60, 150, length=210),
        ),
    }  # fmt: skip
