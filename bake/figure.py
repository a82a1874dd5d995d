"""A performer whole: all that is seen of it, posed, lit and looked at."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import sparse

from bake.body import Body, Pose
from bake.clothes import Collar, Garment, light_cloth
from bake.eyes import Eyes, lash_part
from bake.hair import grow
from bake.hands import Hands
from bake.headwear import Glasses, Shell
from bake.mouth import Mouth
from bake.people import Performer
from bake.picture import Picture, look, seen_vertices
from bake.stage import Part, Stage
from sunglaze.core.camera import labels


@dataclass(eq=False)
class Stood:
    """A performer in a pose. `plain`, `cloth`, `hair`: numbers of parts that are lit alike, cloth with what softens its light;
    `skin` and `balls`: the parts that the tracker's points lie on."""

    pose: Pose
    stage: Stage
    plain: list[int]
    cloth: dict[int, sparse.csr_matrix]
    hair: range
    skin: Part
    balls: list[Part]


class Figure:
    """A performer, made once; `frame` gives the pictures of its poses."""

    def __init__(self, performer: Performer) -> None:
        self.performer = performer
        self.body = body = Body(performer)
        self.eyes, self.mouth, self.garment, self.hands = Eyes(body), Mouth(body), Garment(body), Hands(body)
        kinds = [(performer.hair, labels.HAIR), (performer.brows, labels.BROW)]
        if performer.beard:
            kinds.append((performer.beard, labels.BEARD))
        worn = (("cap", performer.hat), ("scarf", performer.scarf))
        self.shells = [Shell(body, kind, colour) for kind, colour in worn if colour is not None]
        self.wrap = None
        if performer.scarf is not None:
            self.wrap = Collar(body, np.array(performer.scarf), 0.3, 0.2, 0.36, labels.HEADWEAR)
        self.glasses = Glasses(body) if performer.glasses else None
        grown = [grow(body, hair, label, self.shells) for hair, label in kinds]
        self.strands = [one for one in grown if one is not None]
        self.resting = body.surface.at(body.cage)

    def stood(self, pose: Pose, late: Pose | None = None) -> Stood:
        """All parts in a pose. `late`: the pose that ends of hair still follow."""
        body = self.body
        cage = body.posed_cage(pose)
        units = body.surface.at(cage)
        skin = body.part(pose)
        balls = self.eyes.parts(pose)
        parts = [skin, *balls, *self.mouth.parts(pose, cage)]
        plain = [3, 4, 5]
        parts += self.garment.parts(pose)
        cloth = {6: self.garment.soft, 7: self.garment.collar.soft}
        for shell in self.shells:
            cloth[len(parts)] = shell.soft
            parts.append(shell.part(pose))
        if self.wrap:
            cloth[len(parts)] = self.wrap.soft
            parts.append(self.wrap.part(pose))
        for part, soft in self.hands.parts(pose):
            cloth[len(parts)] = soft
            parts.append(part)
        for part in self.hands.hanging(pose):
            cloth[len(parts)] = self.hands.low_soft
            parts.append(part)
        if self.glasses:
            plain.append(len(parts))
            parts.append(self.glasses.part(pose))
        hair = range(len(parts), len(parts) + len(self.strands))
        parts += [strands.part(pose, late or pose, units, self.resting) for strands in self.strands]
        parts.append(lash_part(body, self.eyes, cage, pose))
        return Stood(pose, Stage(parts), plain, cloth, hair, skin, balls)

    def light(self, stood: Stood, face: bool = False) -> None:
        """Cast the rays that light what stands there, or its skin, eyes and mouth alone."""
        stage = stood.stage
        self.body.light(stage, 0, seen_vertices(stage, 0))
        for number in (1, 2):
            self.eyes.light(stage, number)
        for number in stood.plain:
            self.mouth.light(stage, number)
        if face:
            return
        for number, soft in stood.cloth.items():
            light_cloth(stage, number, seen_vertices(stage, number), soft)
        for strands, number in zip(self.strands, stood.hair, strict=True):
            strands.light(stage, number, stood.pose)

    def look(self, stood: Stood) -> Picture:
        """What the lens sees of what stands lit."""
        told = {
            "age": self.performer.wrinkles, "seed": self.performer.seed, "freckles": self.performer.freckles,
            "weave": {"knit": 1, "fine": 2, "none": 0}[self.performer.weave],
        }  # fmt: skip
        return look(stood.stage, told, self.eyes.shader(stood.pose))

    def frame(self, pose: Pose, late: Pose | None = None) -> Picture:
        """What the lens sees of a pose."""
        stood = self.stood(pose, late)
        self.light(stood)
        return self.look(stood)
