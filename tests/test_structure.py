"""The packages of the core stand above each other: each imports those below it alone, and nothing of the rest of the program."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path

CORE = Path("sunglaze/core")
FLOORS = (
    "errors", "cache", "language", "moment", "material", "colour", "face", "passes", "nodes", "targets", "camera", "engine",
    "effect", "prints", "review", "package",
)  # fmt: skip
"""From below upwards; docs/architecture.md draws them."""
SERVICES = {"fastapi", "sqlalchemy", "uvicorn", "typer", "alembic"}


def imports(path: Path) -> Iterator[str]:
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            yield from (one.name for one in node.names)
        elif isinstance(node, ast.ImportFrom):
            yield node.module or ""


def test_core_imports_nothing_of_its_siblings() -> None:
    for path in CORE.rglob("*.py"):
        for name in imports(path):
            outside = name.startswith("sunglaze") and not name.startswith("sunglaze.core")
            assert not outside, f"{path} imports {name}"
            assert name.split(".")[0] not in SERVICES, f"{path} imports {name}"


def test_packages_of_the_core_import_downwards_only() -> None:
    known = {path.name.removesuffix(".py") for path in CORE.iterdir() if path.name not in ("__init__.py", "__pycache__")}
    assert known == set(FLOORS)
    wrong = []
    for path in CORE.rglob("*.py"):
        own = path.relative_to(CORE).parts[0].removesuffix(".py")
        for name in imports(path):
            parts = name.split(".")
            inside = parts[:2] == ["sunglaze", "core"] and len(parts) > 2 and own != "__init__"
            if inside and FLOORS.index(parts[2]) > FLOORS.index(own):
                wrong.append(f"{path} imports {name}")
    assert not wrong, "\n".join(wrong)


def test_no_file_holds_two_subjects() -> None:
    """No file much over four hundred lines; what is generated does not count."""
    long = {str(path): len(path.read_text().splitlines()) for path in Path("sunglaze").rglob("*.py")}
    long |= {
        str(path): len(path.read_text().splitlines()) for pattern in ("*.ts", "*.vue") for path in Path("web/src").rglob(pattern)
    }
    assert {path: lines for path, lines in long.items() if lines > 480 and "generated" not in path} == {}
