"""What a compiled effect costs a phone, as far as it can be told without one."""

from __future__ import annotations

from sunglaze.core.effect.compiling import Compiled
from sunglaze.core.passes.program import sequence_of

PHONE = (720, 1280)
"""Pixels of the screen that texture memory is counted for."""


def cost(compiled: Compiled) -> tuple[int, int]:
    """Passes of a frame as the controls stand, and bytes of textures: targets of passes, pictures and their smaller copies, two
    pictures of each sequence. An estimate."""
    program = compiled.program.final
    passes = program.settled(compiled.inputs.uniforms)
    targets = [one.target for one in passes if one.target is not None]
    targets += [one.target for one in program.plan.meshes]
    pixels = PHONE[0] * PHONE[1]
    much = sum(pixels // one.reduce**2 * (4 if one.channels > 2 else one.channels) * (4 if one.precise else 2) for one in targets)
    inputs = compiled.inputs
    of_stills = {name: still.frame().nbytes for name in program.assets if (still := inputs.asset(name)) is not None}
    of_sequences = {name: one.frame(0).nbytes for name, one in inputs.sequences.items()}
    much += sum(of_stills.values()) + 2 * sum(of_sequences.values())
    # All smaller copies of a picture together take a third of what it takes.
    copied = {sequence_of(one.of) if one.of.shows is not None else one.of.id for one in program.plan.copies}
    much += sum((of_stills | of_sequences).get(name, 0) // 3 for name in copied)
    return len(passes) + len(program.plan.meshes), int(much)
