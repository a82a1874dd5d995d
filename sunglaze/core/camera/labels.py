"""What the exact truth of the stand-in camera tells apart: materials of performers, and parts of places."""

(
    NOTHING, SKIN, NECK, HAIR, EYE, LIPS, TEETH, MOUTH, HAND, CLOTH, HEADWEAR, GLASSES, BROW, BEARD,
    TONGUE, EAR, OTHER_HAND,
) = range(17)  # fmt: skip
SKY, GROUND, BUILDING, SEA = range(1, 5)
