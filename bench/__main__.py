"""Run the measurements and print them, or those whose titles hold a word that is given; `--write` puts all of them into
docs/performance.md."""

from __future__ import annotations

import os
import platform
import sys
from datetime import date
from pathlib import Path

from bench import (
    building,
    camera,
    chain,
    clips,
    damage,
    effects,
    faces,
    felt,
    filters,
    following,
    lookups,
    opening,
    phones,
    proofs,
    sequences,
    stream,
)

SECTIONS = {
    "Felt": felt.measure,
    "Tetrahedral and trilinear lookup, 33 steps, 720 by 1280, 8 bits": lookups.measure,
    "A chain of full-frame work, four ways": chain.measure,
    "Gaussian blur": filters.measure,
    "Layers, pixels and building": building.measure,
    "Ready-made layers": effects.measure,
    "The stand-in camera, 720 by 1280": camera.measure,
    "The stream": stream.measure,
    "Sequences": sequences.measure,
    "Lossy damage of lookup pictures": damage.measure,
    "Clips": clips.measure,
    "Face follow": following.measure,
    "What clings to faces": faces.measure,
    "Two that cling to faces, stacked": faces.pairs,
    "Proof sheets": proofs.measure,
    "First picture on a phone": opening.measure,
    "A phone's GPU, on paper, 1080 by 1920": phones.measure,
}


def processor() -> str:
    names = [line.split(":")[1].strip() for line in Path("/proc/cpuinfo").read_text().splitlines() if "model name" in line]
    return names[0] if names else platform.processor()


def main() -> None:
    text = [
        "# Performance",
        "",
        f"Measured by `./run bench --write` on {date.today():%d %B %Y}: {processor()}, {os.cpu_count()} cores, a shared and",
        "noisy machine. Compare within one table only; ways of one job run in turns.",
        "",
    ]
    words = [word.lower() for word in sys.argv[1:] if not word.startswith("--")]
    wanted = {title: measure for title, measure in SECTIONS.items() if not words or any(word in title.lower() for word in words)}
    if not wanted:
        sys.exit(f"No measurement has {' or '.join(words)} in its title. There are: {'; '.join(SECTIONS)}.")
    for title, measure in wanted.items():
        print(f"\n## {title}\n", flush=True)
        lines = measure()
        print("\n".join(lines), flush=True)
        text += [f"## {title}", "", *lines, ""]
    if "--write" in sys.argv and not words:
        Path("docs/performance.md").write_text("\n".join(text))


main()
