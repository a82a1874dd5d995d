"""Pre-flight: what may keep an effect from being taken or worn, each as a check that passes, wants a look, or stops it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.cameras import Camera, colours
from sunglaze.core.camera.cast import SCRIPTS, Sitting, StandIn
from sunglaze.core.camera.people import PEOPLE
from sunglaze.core.colour.inspection import inspect
from sunglaze.core.effect.address import DIAL
from sunglaze.core.effect.compiling import Compiled, compile_effect
from sunglaze.core.effect.document import UNNAMED, Effect
from sunglaze.core.effect.listing import ICON, ICON_FRAME, IconAt, Listing
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.references import LookupRef
from sunglaze.core.engine.playback import Playback, played_to
from sunglaze.core.errors import GlazeError
from sunglaze.core.face.model import APPROXIMATE
from sunglaze.core.face.regions import OF_HANDS
from sunglaze.core.material.files import encode_png
from sunglaze.core.moment.moment import RATE, Moment, Reads
from sunglaze.core.moment.rehearsal import Rehearsed
from sunglaze.core.prints.costs import PHONE, cost
from sunglaze.core.review.flashing import MOST, Flashing, flashing
from sunglaze.core.review.judging import flat_shifts
from sunglaze.core.review.legible import LEAST, words_of
from sunglaze.core.review.measures import bordered, covered, moved_skin_shift
from sunglaze.core.review.profiles import Profile
from sunglaze.core.targets.memory import parts_of

SMALL, LARGE = (90, 160), (270, 480)
SECONDS = 4.0
FLAT = 0.03
"""The share of a picture that may have another colour than the rest where it counts as one colour."""
SHIFTS, APART = 2.0, 5.0
"""How many times the median somebody's skin may shift before it wants a look, and the least shift (CIEDE2000) that does."""
FLASH_SCRIPTS = {"talk": SECONDS, "open": 1.0, "near": 2.0, "two": 3.0}
"""Seconds of each script in which flashing is looked for."""
SKIN_FRAMES = (0, 45, 90)
"""Where skin is looked at: at the start, and when what begins or answers to a rehearsal may have set in."""
TOLD = 0.02
"""The share of ten degrees of the field that flashes, from which on it is told as a number and shown; up to half of that flashes
where somebody just talks in the sun."""
HIDDEN = 0.8
"""The share of the eyes or of the mouth that may be covered."""
TRACKED = {*APPROXIMATE, "person", OF_HANDS}
"""Masks that a real camera has."""
State = Literal["passed", "look", "stops"]
Mend = Literal["remove layers that are off", "fill the listing"]
Bytes = NDArray[np.uint8]
Patience = Callable[[], None]


@dataclass(frozen=True)
class Check:
    """What was found. `layer`: where to look, where it is one layer's. `weighs`: whether making it lighter mends it; `mend`: what
    mends it at a press. `strip`: a PNG of pictures side by side that show it."""

    id: str
    title: str
    state: State
    words: str
    layer: str | None = None
    weighs: bool = False
    mend: Mend | None = None
    strip: bytes | None = None


def preflight(
    effect: Effect,
    material: Material,
    profile: Profile,
    weighed: Callable[[], tuple[int, str]],
    patience: Patience = lambda: None,
    said: Listing | None = None,
) -> Iterator[Check]:
    """All checks, each as it is made. `weighed`: bytes of its package that are worn, and the name of what takes most of them;
    `patience` is called now and then and raises what shall end it; `said`: its listing. Raises BadEffect for an effect that does
    not compile."""
    compiled = compile_effect(effect, material)
    yield from _named(effect, profile)
    yield from _listed(said, profile)
    yield _weight(profile, *weighed())
    yield from _on_the_phone(compiled, profile)
    yield from _empty(effect, compiled, material)
    yield from _lookups(effect, material)
    yield from _masks(compiled)
    yield from _words(effect, compiled, material, patience)
    for one in (_flashes, _skin, _features, _border, _dials, _people):
        patience()
        yield from one(effect, compiled, patience)


def _named(effect: Effect, profile: Profile) -> Iterator[Check]:
    long, unnamed = len(effect.name) > profile.longest_name, effect.name == UNNAMED
    words = "it has a name" if not unnamed else "it has no name of its own yet"
    if long:
        words = f"its name has {len(effect.name)} letters; {profile.longest_name} are the most"
    yield Check("name", "Name", "stops" if long else "look" if unnamed else "passed", words)
    off = [layer for layer in effect.layers if not layer.on and "layer:on" not in layer.drives]
    if off:
        names = ", ".join(layer.name for layer in off)
        words = f"{names}: switched off, and carried along all the same"
        yield Check("off", "Layers switched off", "look", words, off[0].id, mend="remove layers that are off")


def _listed(said: Listing | None, profile: Profile) -> Iterator[Check]:
    """Texts, categories, keywords and clip: there, and within the profile."""
    if said is None:
        words = "nothing is said of it yet: texts, categories, keywords and clip"
        yield Check("texts", "Texts", "look", words, mend="fill the listing")
        return
    missing = [what for what, there in (("one line", said.texts[0].line), ("how it is used", said.texts[0].how)) if not there]
    long = [
        f"{what} in {texts.language} has {len(text)} letters, {most} are the most"
        for texts in said.texts
        for what, text, most in (
            ("the name", texts.name, profile.longest_name),
            ("the line", texts.line, profile.longest_line),
            ("how it is used", texts.how, profile.longest_how),
        )
        if len(text) > most
    ]
    count = len(said.texts)
    complete = "complete, in " + ("one language" if count == 1 else f"{count} languages")
    words = "; ".join(long) or (f"{' and '.join(missing)} missing" if missing else complete)
    yield Check("texts", "Texts", "stops" if long else "look" if missing else "passed", words)
    for key, title, count, most in (
        ("categories", "Categories", len(said.categories), profile.categories),
        ("keywords", "Keywords", len(said.keywords), profile.keywords),
    ):
        words = f"{count} of {most}" if count else "none: nobody finds it by them"
        yield Check(key, title, "stops" if count > most else "passed" if count else "look", words)
    if said.clip is None:
        yield Check("clip", "Preview clip", "look" if profile.clip_seconds else "passed", "there is none")
    else:
        words = f"{said.clip.seconds:g} s" + (
            f"; {profile.clip_seconds:g} s are the most" if said.clip.seconds > profile.clip_seconds else ""
        )
        yield Check("clip", "Preview clip", "stops" if said.clip.seconds > profile.clip_seconds else "passed", words)
    yield _icon(said.icon, profile)
    if not said.made_by or not said.licence:
        yield Check("licence", "Who made it", "look", "say who made it, and under which licence its material stands")


def _icon(at: IconAt, profile: Profile) -> Check:
    """The icon is as large as it is wanted, and not enlarged for that."""
    if profile.icon > ICON:
        words = f"it has {ICON} pixels a side, and {profile.icon} are wanted: hand one over beside the package"
        return Check("icon", "Icon", "stops", words)
    cut = round(at.side * ICON_FRAME[0])
    if at.picture is None and cut < profile.icon:
        words = f"it is cut from {cut} pixels of a frame and enlarged to {ICON}: choose a wider part"
        return Check("icon", "Icon", "look", words, mend="fill the listing")
    return Check("icon", "Icon", "passed", f"{ICON} pixels a side, of {profile.icon} wanted")


def _weight(profile: Profile, weight: int, heaviest: str) -> Check:
    much = f"{weight / 1e6:.2f} of {profile.bytes / 1e6:g} MB"
    if weight > profile.bytes:
        return Check("weight", "Weight", "stops", f"{much}; most of it is {heaviest}", weighs=True)
    close = weight > 0.9 * profile.bytes
    words = f"{much}; little room is left" if close else much
    return Check("weight", "Weight", "look" if close else "passed", words, weighs=close)


def _on_the_phone(compiled: Compiled, profile: Profile) -> Iterator[Check]:
    count, much = cost(compiled)
    words = f"about {much / 1e6:.0f} MB at {PHONE[0]} by {PHONE[1]} (an estimate)"
    yield Check("memory", "Memory of the phone", "look" if much > profile.texture_bytes else "passed", words)
    yield Check("passes", "Passes over the picture", "look" if count > profile.passes else "passed", f"{count} a frame")


def _empty(effect: Effect, compiled: Compiled, material: Material) -> Iterator[Check]:
    """Layers that wait for material, and change nothing without it."""
    empty = []
    for layer in effect.layers:
        wants = [port for port in layer.controls() if port.kind.name in ("asset", "lookup", "mesh", "painting")]
        if layer.on and wants and not any(layer.values.get(port.name) for port in wants):
            others = [one if one is not layer else layer.model_copy(update={"on": False}) for one in effect.layers]
            without = compile_effect(effect.model_copy(update={"layers": others}), material)
            if np.array_equal(_one(compiled), _one(without)):
                empty.append(layer)
    if empty:
        names = ", ".join(layer.name for layer in empty)
        yield Check("material", "Material", "look", f"{names}: nothing is chosen for it, so it shows nothing", empty[0].id)
    else:
        yield Check("material", "Material", "passed", "every layer has what it needs")


def _one(compiled: Compiled, number: int = 12) -> Bytes:
    camera, program = StandIn(*SMALL, Sitting("lamp-tender")), compiled.program.final
    shown = Playback().at(program, compiled.inputs, camera, camera.moment(number, program.reads))
    return parts_of(shown, SMALL[0])[:, :, :3].copy()


def _lookups(effect: Effect, material: Material) -> Iterator[Check]:
    looked = [(layer, one.typed) for layer in effect.layers for one in layer.everything_set() if isinstance(one.typed, LookupRef)]
    damaged = [layer for layer, ref in looked if ref in material.luts and inspect(material.luts[ref]).damaged]
    if damaged:
        names = ", ".join(dict.fromkeys(layer.name for layer in damaged))
        words = f"{names}: damaged by a lossy file; take the lookup from before that"
        yield Check("lookup", "Lookups", "look", words, damaged[0].id)
    elif looked:
        yield Check("lookup", "Lookups", "passed", "none was damaged by a lossy file")


def _masks(compiled: Compiled) -> Iterator[Check]:
    missing = [name for name in compiled.program.final.regions if name not in TRACKED]
    words = f"no real camera tells {', '.join(missing)}; there these masks are empty"
    words = words if missing else "a real camera has all of them"
    yield Check("masks", "Masks", "look" if missing else "passed", words)


def _words(effect: Effect, compiled: Compiled, material: Material, patience: Patience) -> Iterator[Check]:
    """Words can be read, and stand inside every screen."""
    for one in words_of(effect, compiled, material, patience):
        name, said = one.layer.name, []
        if one.contrast < LEAST:
            said.append(f"its contrast is {one.contrast:.1f} at {one.light}, and {LEAST:g} is the least (WCAG 1.4.3)")
        if one.outside:
            said.append(f"it comes too near to the edge on {', '.join(one.outside)}")
        words = f"'{name}': {'; '.join(said)}" if said else f"'{name}' can be read on every screen"
        yield Check(f"words {one.layer.id}", "Words", "look" if said else "passed", words, one.layer.id if said else None)


def _frames(
    effect: Effect, compiled: Compiled, seconds: float, sitting: Sitting, patience: Patience, size: tuple[int, int] = SMALL
) -> Iterator[Bytes]:
    """Pictures (rows, columns, 3) as the effect shows them, one after another; its rehearsal is before the camera."""
    camera = StandIn(*size, sitting)
    source = Rehearsed(camera, effect.rehearsal) if effect.rehearsal is not None else camera
    program, playback = compiled.program.final, Playback()
    for number in range(round(seconds * RATE)):
        patience()
        shown = playback.at(program, compiled.inputs, source, source.moment(number, program.reads))
        yield parts_of(shown, size[0])[:, :, 2::-1]


def _flashes(effect: Effect, compiled: Compiled, patience: Patience) -> Iterator[Check]:
    """The worst of what scripts show, with the rehearsal before each."""
    seen = {}
    for script, least in FLASH_SCRIPTS.items():
        seconds = max(least, effect.rehearsal.frames / RATE if effect.rehearsal is not None and script == "talk" else 0.0)
        seen[script] = list(_frames(effect, compiled, min(seconds, 20.0), Sitting("lamp-tender", script), patience))
    found = {script: flashing(pictures, RATE) for script, pictures in seen.items()}
    for n, (kind, title) in enumerate((("flash", "Flashing"), ("red", "Red flashing"))):
        script = max(found, key=lambda one: (found[one][n].share, found[one][n].flashes))
        worst = found[script][n]
        strip = _second(seen[script], worst.start) if worst.share >= TOLD else None
        words = _flash_words(worst) + ("" if script == "talk" or not worst.flashes else f" ({SCRIPTS[script].lower()})")
        yield Check(kind, title, "passed" if worst.passes else "stops", words, strip=strip)


def _second(pictures: list[Bytes], start: float) -> bytes:
    """A PNG of every second picture of a second, side by side, each half as large as it was."""
    first = round(start * RATE)
    return encode_png(np.hstack([one[::2, ::2] for one in pictures[first : first + RATE : 2]]), 9)


def _flash_words(worst: Flashing) -> str:
    if not worst.flashes:
        return "it does not flash"
    much = f"{100 * worst.share:.0f} %" if worst.share >= TOLD else f"less than {100 * TOLD:.0f} %"
    share = f"over {much} of what is looked at"
    if worst.passes:
        few = worst.flashes <= MOST
        return f"at most {worst.flashes} in a second" if few else f"{worst.flashes} in a second, but only {share}"
    where = f"{worst.flashes} flashes in the second from {worst.start:.1f} s, {share}"
    return f"{where}; {MOST} are the most (WCAG 2.3.1). Make it slower, smaller or weaker"


def _skin(effect: Effect, compiled: Compiled, patience: Patience) -> Iterator[Check]:
    """How far everybody's skin shifts, at some moments: no one's much farther than the others'; and ten flat tones."""
    program = compiled.program.final
    shifts: dict[int, dict[str, float]] = {number: {} for number in SKIN_FRAMES}
    for who, person in PEOPLE.items():
        camera, playback = StandIn(*SMALL, Sitting(who, "still")), Playback()
        source = Rehearsed(camera, effect.rehearsal) if effect.rehearsal is not None else camera
        for number in SKIN_FRAMES:
            patience()
            moment = source.moment(number, Reads(True, tuple({*program.reads.regions, "face skin"}), True))

            def shown(other: Moment, playback: Playback = playback, source: Camera | Rehearsed = source) -> Bytes:
                return parts_of(playback.at(program, compiled.inputs, source, other), SMALL[0])[:, :, 2::-1].copy()

            bare = np.ascontiguousarray(colours(camera.frame(number), SMALL[0]))
            shift = moved_skin_shift(bare, shown(moment), moment, moment.regions["face skin"][..., 0], shown)
            assert shift is not None, "everybody who keeps still shows skin"
            shifts[number][person.role] = shift[0]

    def apart(by: dict[str, float]) -> float:
        return max(by.values()) - SHIFTS * float(np.median(list(by.values())))

    worst = max(shifts.values(), key=apart)
    middle, (most, far) = float(np.median(list(worst.values()))), max(worst.items(), key=lambda one: one[1])
    tones = flat_shifts(program, compiled.inputs, patience)
    flat = f"ten flat tones by {tones.min():.1f} to {tones.max():.1f}"
    if far > APART and far > SHIFTS * middle:
        times = far / max(middle, 1e-6)
        words = f"it shifts the {most.lower()}'s skin by {far:.1f}, {times:.1f} times as far as most, {flat} (CIEDE2000)"
        yield Check("skin", "Skin of everybody", "look", words)
    else:
        words = f"it shifts all about alike, by {middle:.1f} in the middle, {flat} (CIEDE2000)"
        yield Check("skin", "Skin of everybody", "passed", words)


def _features(_: Effect, compiled: Compiled, __: Patience) -> Iterator[Check]:
    """Eyes and mouth are hidden where another picture of them in the camera makes no difference to what is shown."""
    program = compiled.program.final
    camera = StandIn(*LARGE, Sitting("lamp-tender", "still"))
    moment = camera.moment(0, Reads(True, tuple({*program.reads.regions, "eyes", "lips"}), True))

    def shown(other: Moment) -> Bytes:
        return parts_of(Playback().at(program, compiled.inputs, camera, other), LARGE[0])[:, :, :3].copy()

    hidden = []
    for region, title in (("eyes", "the eyes"), ("lips", "the mouth")):
        share = covered(shown(moment), moment, moment.regions[region][..., 0] > 127, shown)
        if share is not None and share > HIDDEN:
            hidden.append(title)
    words = f"{' and '.join(hidden)} cannot be seen" if hidden else "eyes and mouth can be seen"
    yield Check("features", "Eyes and mouth", "look" if hidden else "passed", words)


def _border(effect: Effect, compiled: Compiled, patience: Patience) -> Iterator[Check]:
    """A line of one colour along an edge that the camera's picture does not have."""
    sitting = Sitting("lamp-tender", "talk")
    camera, sides = StandIn(*SMALL, sitting), dict[str, None]()
    for number, shown in enumerate(_frames(effect, compiled, 1.0, sitting, patience)):
        if number % 10 == 9:
            sides |= dict.fromkeys(bordered(colours(camera.frame(number), SMALL[0]), shown))
    words = f"a line shows along the {' and '.join(sides)} edge" if sides else "the picture reaches every edge"
    yield Check("border", "Border", "look" if sides else "passed", words)


def _dials(effect: Effect, compiled: Compiled, _: Patience) -> Iterator[Check]:
    """With every dial at either end there is still a picture."""
    for dial in effect.dials:
        for end, number in (("lower", 0.0), ("upper", 1.0)):
            turned = {f"{DIAL}{name}": number for name in dial.numbers(dial.start)}
            inputs = replace(compiled.inputs, uniforms={**compiled.inputs.uniforms, **turned})
            camera = StandIn(*SMALL, Sitting("lamp-tender"))
            program = compiled.program.final
            shown = parts_of(Playback().at(program, inputs, camera, camera.moment(3, program.reads)), SMALL[0])[:, :, :3]
            if _is_flat(shown):
                yield Check("dials", "Dials", "look", f"with '{dial.title}' at its {end} end the picture is one colour")
                return
    if effect.dials:
        yield Check("dials", "Dials", "passed", "there is a picture with each at either end")


def _is_flat(shown: Bytes) -> bool:
    """Whether nearly all of a picture (rows, columns, 3) is one colour."""
    middle = np.median(shown.reshape(-1, 3), axis=0)
    return float((np.abs(shown - middle).max(axis=2) > 8).mean()) < FLAT


def _people(_: Effect, compiled: Compiled, patience: Patience) -> Iterator[Check]:
    """With nobody there, and with two, there is a picture all the same."""
    program, flat = compiled.program.final, []
    for title, script, number in (("nobody", "edges", 74), ("two people", "two", 45)):
        patience()
        camera = StandIn(*SMALL, Sitting("lamp-tender", script))
        shown = parts_of(played_to(program, compiled.inputs, camera, number).at(
            program, compiled.inputs, camera, camera.moment(number, program.reads)
        ), SMALL[0])[:, :, :3]  # fmt: skip
        if _is_flat(shown):
            flat.append(title)
    words = f"with {' and with '.join(flat)} the picture is one colour" if flat else "with nobody and with two there is a picture"
    yield Check("people", "Nobody, and two", "look" if flat else "passed", words)


def refused(error: GlazeError) -> list[Check]:
    """What is said of an effect that does not compile."""
    return [Check("compiles", "It runs", "stops", str(error), getattr(error, "layer", None))]
