"""What a run found, shown and kept in docs/testing.md."""

from __future__ import annotations

from datetime import date
from pathlib import Path

DOCUMENT = Path(__file__).parents[2] / "docs" / "testing.md"
BEGIN, END = "<!-- ./run mutants writes from here -->", "<!-- to here -->"


def write(
    parts: list[tuple[str, int, int]], survivors: list[tuple[str, int, str]], minutes: float, seed: int, whole: bool
) -> None:
    """`parts`: name, changes made, changes that survived. Kept where all parts were run."""
    rows = [*parts, ("all", sum(part[1] for part in parts), sum(part[2] for part in parts))]
    lines = [
        f"{date.today():%d %B %Y}, seed {seed}, {minutes:.0f} minutes.",
        "",
        "| part | changes | noticed | survived | share |",
        "| --- | --- | --- | --- | --- |",
        *(f"| {name} | {ran} | {ran - lived} | {lived} | {lived / max(ran, 1):.1%} |" for name, ran, lived in rows),
        "",
        *(f"- {module}:{line}: `{difference}`" for module, line, difference in survivors),
    ]
    print("\n".join(lines))
    if whole and DOCUMENT.exists():
        before, rest = DOCUMENT.read_text().split(BEGIN)
        _, after = rest.split(END)
        DOCUMENT.write_text("\n".join([before + BEGIN, *lines, END]) + after)
