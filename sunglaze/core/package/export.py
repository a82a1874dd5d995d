"""An effect as a folder for any static file server: page, player, program, what it reads, and the trackers that it needs."""

from __future__ import annotations

import hashlib
import html
import io
import json
import zipfile
from pathlib import Path
from typing import Any

from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.literals import Material
from sunglaze.core.errors import BadFile
from sunglaze.core.face.regions import OF_HANDS
from sunglaze.core.language.moments import is_of_faces
from sunglaze.core.package.archive import write_package

_LEFT = ("manifest.json", "effect.json")
_PAGE = """<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1, viewport-fit=cover">
<title>{name}</title>
<link rel="icon" href="icon.png">
<style>
  html, body {{ margin: 0; height: 100%; background: #111; color: #fff; font: 17px/1.4 system-ui, sans-serif; }}
  canvas {{ position: fixed; inset: 0; width: 100%; height: 100%; object-fit: cover; }}
  .dials {{ position: fixed; inset: auto 16px 204px; max-width: 520px; margin: 0 auto; }}
  .kept {{ position: fixed; inset: auto 16px 204px; max-width: 520px; margin: 0 auto; }}
  main {{ position: fixed; inset: auto 0 0; pointer-events: none; padding: 40px 16px 16px; display: flex;
          flex-wrap: wrap; gap: 8px; align-items: center; background: linear-gradient(transparent, rgb(0 0 0 / 62%) 34%); }}
  h1 {{ font-size: 20px; margin: 0; flex: 1 0 100%; }}
  button {{ pointer-events: auto; font: inherit; color: inherit; background: rgb(0 0 0 / 55%); border: 1px solid #fff;
           min-height: 48px; padding: 0 18px; touch-action: none; user-select: none; }}
  button:focus-visible {{ outline: 3px solid #fff; outline-offset: 2px; }}
  #note {{ font-size: 12px; max-width: 40ch; }}
  #words {{ position: fixed; inset: 40% 24px auto; text-align: center; margin: 0; }}
  @media (orientation: landscape) and (max-height: 540px) {{
    main {{ inset: 0 0 0 auto; padding: 12px max(12px, env(safe-area-inset-right)) 12px 40px; flex-flow: column nowrap;
            justify-content: center; align-items: stretch; background: linear-gradient(90deg, transparent, rgb(0 0 0 / 62%)); }}
    h1 {{ position: fixed; inset: 14px auto auto max(16px, env(safe-area-inset-left)); text-shadow: 0 0 6px #000; }}
    #note {{ position: fixed; inset: 44px auto auto max(16px, env(safe-area-inset-left)); }}
    .dials, .kept {{ inset: auto 190px 12px max(16px, env(safe-area-inset-left)); }}
    #words {{ right: 190px; }}
  }}
  [hidden] {{ display: none; }}
</style>
<canvas role="img" aria-label="The camera through {name}"></canvas>
<p id="words" role="status">Starting …</p>
<main>
  <h1>{name}</h1>
  <small id="note" role="status"></small>
  <button id="again" hidden>Try again</button>
  <button id="bare">Hold: bare</button>
</main>
<script type="module" src="page.js"></script>
<script>if ('serviceWorker' in navigator) navigator.serviceWorker.register('worker.js')</script>
</html>
"""
_WORKER = """// Keeps the page on the phone: after the first visit it opens without a network.
const NAME = `${{self.registration.scope}} {state}`
const FILES = {files}
self.addEventListener('install', (event) => {{
  self.skipWaiting()
  event.waitUntil(caches.open(NAME).then((kept) => kept.addAll(FILES)))
}})
self.addEventListener('activate', (event) => {{
  const mine = NAME.slice(0, NAME.lastIndexOf(' '))
  const older = (all) => Promise.all(all.filter((one) => one !== NAME && one.startsWith(mine)).map((one) => caches.delete(one)))
  event.waitUntil(caches.keys().then(older).then(() => self.clients.claim()))
}})
self.addEventListener('fetch', (event) => {{
  if (event.request.method !== 'GET' || !event.request.url.startsWith(self.registration.scope)) return
  event.respondWith(caches.open(NAME).then(async (kept) => {{
    const known = await kept.match(event.request, {{ ignoreSearch: true }})
    if (known) return known
    const answer = await fetch(event.request)
    if (answer.ok && answer.type === 'basic') await kept.put(event.request, answer.clone())
    return answer
  }}))
}})
"""


def _trackers(program: dict[str, Any], dist: Path) -> dict[str, bytes]:
    """The trackers of what a program reads of a camera: of the person; of faces, and where it reads other regions, of both; of
    hands."""
    names = {
        str(picture["name"]).partition(":")[2] for picture in program["pictures"] if str(picture["name"]).startswith("region:")
    }
    regions = bool(names - {OF_HANDS})
    person = regions or any(one["person"] for one in program["passes"])
    faces = regions or any(step[0] == "moment" and is_of_faces(str(step[1])) for step in program["signals"]["steps"])
    faces = faces or any(one["kind"] == "face" for one in program["meshes"])
    wanted = {"selfie_segmentation": person, "face_mesh": faces, "hands": OF_HANDS in names}
    folders = [dist / "trackers" / name for name, needed in wanted.items() if needed]
    return {str(p.relative_to(dist)): p.read_bytes() for folder in folders for p in folder.rglob("*") if p.is_file()}


def _scripts(dist: Path) -> dict[str, bytes]:
    """The page's script, and the parts of it that it fetches where an effect needs them; builds before this one may have left
    theirs beside them."""
    player = dist / "player"
    found, names = {}, ["page.js"]
    parts = {one.name: f"assets/{one.name}" for one in (player / "assets").glob("*.js")}
    while names:
        name = names.pop()
        found[name] = (player / name).read_bytes()
        text = found[name].decode()
        names += [path for file, path in parts.items() if file in text and path not in {*found, *names}]
    return found


def page_files(effect: Effect, material: Material, dist: Path) -> dict[str, bytes]:
    """The files of the folder, by their names. `dist`: the built front end. Raises BadFile where the script is not built,
    BadEffect where the effect does not compile."""
    if not (dist / "player" / "page.js").is_file():
        raise BadFile("the player's page is not built; run ./run setup")
    files = {"index.html": _PAGE.format(name=html.escape(effect.name)).encode(), **_scripts(dist)}
    with zipfile.ZipFile(io.BytesIO(write_package(effect, material))) as archive:
        files |= {name: archive.read(name) for name in archive.namelist() if name not in _LEFT}
    trackers = _trackers(json.loads(files["program.json"]), dist)
    said = "".join(f"{name} {hashlib.sha256(data).hexdigest()}\n" for name, data in sorted((files | trackers).items()))
    state = hashlib.sha256(said.encode()).hexdigest()[:16]
    # A folder's own address is the page.
    kept = ["./", *sorted({*files, *trackers} - {"index.html"})]
    files["worker.js"] = _WORKER.format(state=state, files=json.dumps(kept)).encode()
    return files | trackers


def export_folder(effect: Effect, material: Material, out: Path, dist: Path) -> list[str]:
    """Write the folder `out`, which must be new or empty; names of its files. `dist`: the built front end.

    Raises BadFile where the folder holds something, or the script is not built; BadEffect where the effect does not compile.
    """
    if out.exists() and any(out.iterdir()):
        raise BadFile(f"{out} holds files already; choose a new folder")
    files = page_files(effect, material, dist)
    for name, data in files.items():
        path = out / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data)
    return sorted(files)
