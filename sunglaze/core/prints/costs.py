"""What a compiled effect costs a phone, as far as it can be told without one."""

from __future__ import annotations

from sunglaze.core.effect.compiling import Compiled

PHONE = (720, 1280)
"""Pixels of the screen that texture memory is counted for."""


def cost(compiled: Compiled) -> tuple[int, int]:
    """Passes of a frame, and bytes of textures: targets of passes, pictures, two pictures of each sequence. An estimate."""
    program = compiled.program.final
    targets = [one.target for one in program.plan.passes if one.target is not None]
    targets += [one.target for one in program.plan.meshes]
    pixels = PHONE[0] * PHONE[1]
    much = sum(pixels // one.reduce**2 * (4 if one.channels > 2 else one.channels) * (4 if one.precise else 2) for one in targets)
    much += sum(picture.frame().nbytes for name in program.assets if (picture := compiled.inputs.asset(name)) is not None)
    much += 2 * sum(one.frame(0).nbytes for one in compiled.inputs.sequences.values())
    return len(program.plan.passes) + len(program.plan.meshes), int(much)
