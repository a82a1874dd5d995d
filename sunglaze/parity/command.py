"""`sunglaze parity`: every node and random graphs, four ways, with the worst figures."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator
from dataclasses import asdict

from sunglaze.core.errors import GlazeError
from sunglaze.core.nodes.catalogue import CATALOGUE
from sunglaze.parity.comparing import Outcome, compare
from sunglaze.parity.generating import graph_case, mesh_case, node_cases
from sunglaze.parity.gpu import Gpu, gpu


def wanted_nodes(which: str) -> list[str]:
    """Kinds of nodes: all, none, or those named, parted by commas. Raises GlazeError for one that is not there."""
    if which in ("all", "none"):
        return list(CATALOGUE) if which == "all" else []
    named = [name.strip() for name in which.split(",")]
    for name in named:
        if name not in CATALOGUE:
            raise GlazeError(f"there is no node '{name}'; --nodes takes all, none, or kinds parted by commas")
    return named


def outcomes(nodes: Iterable[str], graphs: int, meshes: int, seed: int, page: Gpu | None) -> Iterator[Outcome]:
    """Every case compared, one after another: nodes by kind, so many random graphs and meshes."""
    for kind in nodes:
        for case in node_cases(CATALOGUE[kind], seed):
            yield compare(case, page)
    for number in range(graphs):
        yield compare(graph_case(seed * 100_000 + number), page)
    for number in range(meshes):
        yield compare(mesh_case(seed * 100_000 + number), page)


def run(nodes: str, graphs: int, meshes: int, seed: int, on_gpu: bool, as_json: bool) -> tuple[str, bool]:
    """What to print, and whether all is within the bounds."""
    named = wanted_nodes(nodes)
    if on_gpu:
        with gpu() as page:
            found = list(outcomes(named, graphs, meshes, seed, page))
    else:
        found = list(outcomes(named, graphs, meshes, seed, None))
    parts: dict[str, list[Outcome]] = {"nodes": [], "graphs": [], "meshes": []}
    for one in found:
        parts[{"graph": "graphs", "mesh": "meshes"}.get(one.name.partition(" ")[0], "nodes")].append(one)
    good = all(o.good for o in found)
    if as_json:
        plain = {**{what: _summary(part) for what, part in parts.items()}, "all": [asdict(o) for o in found]}
        return json.dumps(plain), good
    lines = [line for what, part in parts.items() for line in _in_words(what, part)]
    return "\n".join(lines), good


def _summary(found: list[Outcome]) -> dict[str, object]:
    cpu = max(found, key=lambda o: o.cpu, default=None)
    seen = max((o for o in found if o.gpu is not None), key=lambda o: o.gpu or 0.0, default=None)
    return {
        "cases": len(found),
        "outside": [o.name for o in found if not o.good],
        "worst_cpu": cpu and {"name": cpu.name, "off": cpu.cpu},
        "worst_gpu": seen and {"name": seen.name, "off": seen.gpu},
        "left_out": sum(o.left_out for o in found) / max(1, len(found)),
    }


def _in_words(what: str, found: list[Outcome]) -> list[str]:
    if not found:
        return []
    cpu = max(found, key=lambda o: o.cpu)
    outside = [o for o in found if not o.good]
    lines = [
        f"{what}: {len(found)} cases, {len(outside)} outside the bounds",
        f"  NumPy, steps and machine code: at most {cpu.cpu:.1e} apart ({cpu.name})",
    ]
    if any(o.gpu is not None for o in found):
        seen = max(found, key=lambda o: o.gpu or 0.0)
        lines.append(f"  NumPy and GPU: at most {seen.gpu:.2f} of 255 apart ({seen.name})")
    share = sum(o.left_out for o in found) / len(found)
    lines.append(f"  left out at edges: {100 * share:.3f} %")
    return [*lines, *(f"  outside: {o.name}: {o.cpu:.1e}, {o.gpu}, finite {o.finite}" for o in outside)]
