"""What came of a soak, as a table for people."""

from __future__ import annotations

import os
import platform
import statistics
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from tests.soak.field import PATIENCE, Field
from tests.soak.watching import Sample

DOCUMENT = Path(__file__).parents[2] / "docs" / "reliability.md"
BEGIN, END = "<!-- soak -->", "<!-- end of soak -->"
FIFTHS = 5
MOST_NAMED = 12


@dataclass(frozen=True)
class Outcome:
    """`lost`: what was acknowledged and is gone; `grew`: what grew after the first fifth, both in words."""

    field: Field
    samples: Sequence[Sample]
    lost: Sequence[str]
    grew: Sequence[str]
    minutes: float

    @property
    def is_good(self) -> bool:
        """Whether all that is promised was held."""
        return not (self.lost or self.grew or self.field.trouble)


def table(outcome: Outcome) -> str:
    """The figures in fifths of the time, then what was met."""
    samples, field = outcome.samples, outcome.field
    parts = [samples[n * len(samples) // FIFTHS : (n + 1) * len(samples) // FIFTHS] for n in range(FIFTHS)]
    lines = [
        f"{outcome.minutes:.0f} minutes on {date.today():%d %B %Y}, {os.cpu_count()} processors ({platform.machine()}),",
        "each kept busy by a loop besides. Middle values of each fifth of the time; memory is what is resident.",
        "",
        "| | " + " | ".join(f"fifth {n + 1}" for n in range(FIFTHS)) + " |",
        "| --- |" + " --- |" * FIFTHS,
    ]
    rows: list[tuple[str, Callable[[Sample], float]]] = [
        ("server, MB", lambda one: one.server[0]),
        ("server, open files", lambda one: one.server[1]),
        ("server, threads", lambda one: one.server[2]),
        ("rendering process, MB", lambda one: one.rendering[0]),
        ("rendering process, open files", lambda one: one.rendering[1]),
        ("rendering process, threads", lambda one: one.rendering[2]),
        ("drawing process, MB", lambda one: one.drawing[0]),
        ("drawing process, open files", lambda one: one.drawing[1]),
        ("drawing process, threads", lambda one: one.drawing[2]),
    ]
    for name, of in rows:
        lines.append(
            f"| {name} | " + " | ".join(f"{statistics.median(map(of, part)):.0f}" if part else "-" for part in parts) + " |"
        )
    for name, count in (("pictures a second, all viewers", "frames"), ("saves a second", "saves")):
        rates = [_rate(part, count) for part in parts]
        lines.append(f"| {name} | " + " | ".join(f"{rate:.1f}" for rate in rates) + " |")
    met = ", ".join(f"{count} times {name}" for name, count in field.mishaps.items()) or "nothing"
    slowest = ", ".join(f"{name} {took:.1f} s" for name, took in field.longest.most_common(8))
    refused = ", ".join(f"{count} by {status}" for status, count in sorted(field.refused.items())) or "none"
    lines += [
        "",
        f"- Made to go wrong: {met}.",
        f"- {field.requests:,} requests; the slowest of a kind, but for a minute after each of these: {slowest}.",
        f"- Refused: {refused}.",
        f"- Acknowledged: {len(field.saved):,} saves, {len(field.kept):,} files, "
        f"{sum(field.published.values()):,} published versions; lost of them: {len(outcome.lost)}.",
        f"- Most memory: server {max((one.server[0] for one in samples), default=0):.0f} MB, "
        f"rendering process {max((one.rendering[0] for one in samples), default=0):.0f} MB, "
        f"drawing process {max((one.drawing[0] for one in samples), default=0):.0f} MB.",
    ]
    lines += _named("Lost", outcome.lost) + _named("Grew", outcome.grew)
    lines += _named(f"Unanswered for {PATIENCE:.0f} s, or answered by a fault", field.trouble)
    lines.append("" if not outcome.is_good else "\nNothing was lost, nothing waited, nothing grew.")
    return "\n".join(lines)


def _named(title: str, words: Sequence[str]) -> list[str]:
    more = [f"  - and {len(words) - MOST_NAMED} more"] if len(words) > MOST_NAMED else []
    return [f"- **{title}**:", *(f"  - {one}" for one in words[:MOST_NAMED]), *more] if words else []


def _rate(part: Sequence[Sample], count: str) -> float:
    if len(part) < 2:
        return 0.0
    return float(getattr(part[-1], count) - getattr(part[0], count)) / max(1e-6, part[-1].seconds - part[0].seconds)


def write(text: str) -> None:
    """Put the table into the document, between its marks."""
    before, rest = DOCUMENT.read_text().split(BEGIN)
    _, after = rest.split(END)
    DOCUMENT.write_text(f"{before}{BEGIN}\n{text}\n{END}{after}")
