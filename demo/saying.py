"""What is said of the demo's effects where they are published, and how far each has come in the review."""

from __future__ import annotations

import datetime
from dataclasses import dataclass

from sunglaze.core.effect.listing import ClipAt, IconAt, Listing, Seen, Texts

OPENING = datetime.date(2026, 6, 20)
"""The festival's first night."""
LICENCE = "CC0 1.0, drawn by code for the festival"


@dataclass(frozen=True)
class Say:
    """One line, how it is used, categories and keywords with commas; who wears it in its clip, doing what, in which light."""

    name: str
    line: str
    how: str
    categories: str
    keywords: str
    seen: str = "lamp-tender:talk:noon"
    by: str = "Lamp tender"
    begin: float = 0.0


SAID = {
    "demo-low-tide": Say(
        "Low-tide gold", "The last warm hour on the sands", "Look into the camera.", "colour",
        "gold, evening, warm, sun", "beekeeper:talk:noon", "Beekeeper",
    ),
    "demo-harbour-fog": Say(
        "Harbour fog", "Cold fog comes in over the pier", "Look into the camera.", "colour, weather", "fog, cold, harbour",
        "ferry-pilot:talk:noon", "Ferry pilot",
    ),
    "demo-faded-bill": Say(
        "Last year's bill", "As if you had hung in the window all winter", "Look into the camera.", "colour, film",
        "faded, paper, poster, old", "stilt-walker:talk:noon", "Stilt walker",
    ),
    "demo-storm-warning": Say(
        "Storm warning", "Chalk lines and spray before the weather turns", "Hold still, then turn.", "weather, drawn",
        "storm, chalk, outline, rain", "tide-reader:talk:shade", "Tide reader",
    ),
    "demo-lantern-walk": Say(
        "Lantern walk", "Blue hour, small lights, and when to meet", "Send it to whom you want to walk with.", "night, words",
        "lantern, dusk, blue, invitation", "kite-flyer:smile:dusk", "Kite flyer",
    ),
    "demo-buoy-lights": Say(
        "Buoy lights", "Red to port, green to starboard", "Stay between the lamps.", "night, colour", "buoy, red, green, lamps",
        "net-mender:talk:noon", "Net mender",
    ),
    "demo-spindrift": Say(
        "Spindrift", "Sea colours and glints of spray", "Look into the sun.", "colour, weather", "sea, spray, glitter, blue",
        "stilt-walker:smile:noon", "Stilt walker",
    ),
    "demo-regatta-board": Say(
        "Regatta board", "The score of the midsummer race", "Cheer for somebody.", "words", "race, score, boats",
        "kite-flyer:smile:noon", "Kite flyer",
    ),
    "demo-black-shore": Say(
        "Black shore", "Black sand, and a line that stands off you", "Turn your head slowly.", "drawn, film",
        "black and white, line, grain", "oyster-cook:talk:shade", "Oyster cook",
    ),
    "demo-foghorn": Say(
        "Foghorn", "Open your mouth and the harbour hears it", "Open your mouth wide.", "play, weather",
        "mouth, waves, horn, loud", "ferry-pilot:open:noon", "Ferry pilot",
    ),
    "demo-old-reel": Say(
        "Old reel", "A reel that lay in the boathouse for years", "Turn the dust up as you like.", "film",
        "film, dust, scratches, old", "net-mender:talk:lamp", "Net mender",
    ),
    "demo-signal-lost": Say(
        "Signal lost", "The picture jumps, your eyes stay", "Look straight into the camera.", "glitch",
        "glitch, signal, radio, broken", "lamp-tender:talk:dusk",
    ),
    "demo-fog-bank": Say(
        "Fog bank", "Out of white, piece by piece", "Wait until it drifts past you.", "weather, places", "fog, white, reveal",
        "beekeeper:talk:noon", "Beekeeper",
    ),
    "demo-kite-day": Say(
        "Kite day", "You and the sky are full of kites", "Lift your arms.", "places, play", "kites, sky, summer",
        "kite-flyer:talk:noon", "Kite flyer",
    ),
    "demo-shoal": Say(
        "Shoal", "Each glint is a fish that turns", "Move, and they turn.", "weather", "fish, silver, water, glints",
        "oyster-cook:talk:noon", "Oyster cook",
    ),
    "demo-half-light": Say(
        "Half-light", "Two pictures in one: yours, and one you bring", "Choose a photo of your own.", "film, play",
        "double exposure, photo, silhouette", "tide-reader:talk:noon", "Tide reader",
    ),
    "demo-hold-still": Say(
        "Hold still", "A box camera that takes four", "Tap the picture to take each.", "film, play", "box camera, four, freeze",
        "net-mender:smile:noon", "Net mender",
    ),
    "demo-slow-shutter": Say(
        "Slow shutter", "What moves draws a line behind it", "Move slowly; tap to keep a moment.", "film, play",
        "long exposure, trails, lamps", "kite-flyer:talk:noon", "Kite flyer",
    ),
    "demo-harbour-master": Say(
        "Harbour master", "It follows your face wherever you go", "Walk about.", "play", "follow, zoom, face",
        "ferry-pilot:edges:noon", "Ferry pilot",
    ),
    "demo-coming-ashore": Say(
        "Coming ashore", "Nearer, until you are here", "Come nearer.", "play, colour", "near, zoom, arrive",
        "beekeeper:near:noon", "Beekeeper",
    ),
    "demo-lighthouse": Say(
        "Lighthouse", "A beam goes round and finds you", "Turn your head with it.", "night, glitch", "beam, light, night, turn",
        "lamp-tender:talk:noon",
    ),
    "demo-two-shores": Say(
        "Two shores", "One of you on each side", "Stand beside somebody.", "two, play", "two, friends, horn",
        "lamp-tender:two:noon",
    ),
    "demo-tide-mask": Say(
        "Tide mask", "Painted for the opening night", "Open your mouth.", "faces, drawn", "mask, paint, black and white",
        "stilt-walker:talk:noon", "Stilt walker",
    ),
    "demo-salt-and-shells": Say(
        "Salt and shells", "What the tide left on your cheeks", "Shake your head.", "worn, faces", "shells, salt, jewels, sway",
        "tide-reader:talk:noon", "Tide reader",
    ),
    "demo-sunday-glasses": Say(
        "Sunday glasses", "Round glasses with lanterns on them", "Turn your head.", "worn", "glasses, lanterns, sunday",
        "oyster-cook:talk:noon", "Oyster cook",
    ),
    "demo-compass": Say(
        "Compass", "Three rings turn about your head", "Turn, and they turn with you.", "worn, play", "compass, rings, brass",
        "kite-flyer:talk:noon", "Kite flyer",
    ),
    "demo-boathouse": Say(
        "Boathouse", "Come in out of the wind", "Move: the room moves with you.", "places", "room, wood, boat, inside",
        "ferry-pilot:talk:shade", "Ferry pilot",
    ),
    "demo-soft-morning": Say(
        "Soft morning", "Rested, for two", "Wear it with somebody.", "faces, two", "make-up, skin, soft, morning",
        "lamp-tender:two:noon",
    ),
    "demo-first-ferry": Say(
        "First ferry", "Rested, with cold cheeks, in the first sun", "Look over the rail.", "faces, colour",
        "morning, make-up, skin, glow, ferry", "ferry-pilot:talk:shade", "Ferry pilot",
    ),
    "demo-drying-nets": Say(
        "Drying nets", "A fine net with corks along the brow", "Step back, and come close.", "faces, two",
        "net, mesh, corks, paint", "net-mender:near:noon", "Net mender",
    ),
    "demo-heron": Say(
        "Heron", "A heron's face, painted by hand", "Look sideways, as herons do.", "faces, drawn",
        "heron, bird, paint, feathers", "beekeeper:talk:noon", "Beekeeper",
    ),
    "demo-keeper-of-the-light": Say(
        "Keeper of the light", "A lighthouse to wear, and a gull", "Keep your head up.", "worn", "lighthouse, gull, hat",
        "stilt-walker:talk:noon", "Stilt walker",
    ),
}  # fmt: skip
TAKEN = ("demo-keeper-of-the-light", "demo-tide-mask", "demo-low-tide", "demo-old-reel", "demo-sunday-glasses", "demo-foghorn")
IN_REVIEW = "demo-kite-day"
RETURNED = (
    "demo-fog-bank",
    "At dusk the fog hides the eyes of most visitors for two seconds. Let it drift faster, or leave the eyes.",
)


def listing(say: Say) -> Listing:
    """As it is published."""
    who, script, light = say.seen.split(":")
    seen = Seen(who=who, script=script, light=light)
    return Listing(
        texts=(Texts(name=say.name, line=say.line, how=say.how),),
        categories=tuple(one.strip() for one in say.categories.split(",")),
        keywords=tuple(one.strip() for one in say.keywords.split(",")),
        icon=IconAt(seen=seen, seconds=0.6 if script != "open" else 0.5),
        clip=ClipAt(seen=seen, begin=say.begin, seconds=3.0),
        made_by=say.by,
        licence=LICENCE,
        date=OPENING,
    )
