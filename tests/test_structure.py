"""The packages of the core stand above each other: each imports those below it alone, and nothing of the rest of the program."""

from __future__ import annotations

import ast
import importlib
import json
import re
from collections.abc import Iterator
from pathlib import Path

CORE = Path("sunglaze/core")
FLOORS = (
    "errors", "cache", "disk_cache", "edition", "language", "moment", "material", "colour", "face", "passes", "nodes", "targets",
    "camera", "engine", "effect", "prints", "review", "package", "proof",
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


ARRAYS = re.compile(r"\b(NDArray|Floats|Bytes|Words|Surface|Array|Points|Mask|Doubles)\b")
SHAPE = re.compile(r"\(\.\.\.|\((\w| |,|\*|\+)*(,)(\w| |,|\.|\*|\+)*\)|\(\d+\)|[Ss]hape|\(n\)|\(rows|\(height")
ELSEWHERE = re.compile(r"[Aa]s (\w+ )+has")


def public_functions(path: Path) -> Iterator[ast.FunctionDef]:
    """Those of a module and of its public classes."""
    for one in ast.parse(path.read_text()).body:
        inside = one.body if isinstance(one, ast.ClassDef) and not one.name.startswith("_") else [one]
        yield from (f for f in inside if isinstance(f, ast.FunctionDef) and not f.name.startswith("_"))


def test_every_function_of_the_core_says_what_it_does() -> None:
    """Also those of classes that are a module's own; of overloads, the one that is run."""
    missing = []
    for path in sorted(CORE.rglob("*.py")):
        for one in ast.parse(path.read_text()).body:
            for function in one.body if isinstance(one, ast.ClassDef) else [one]:
                is_public = isinstance(function, ast.FunctionDef) and not function.name.startswith("_")
                if is_public and "overload" not in map(ast.unparse, function.decorator_list) and not ast.get_docstring(function):
                    missing.append(f"{path}:{function.lineno} {function.name}")
    assert not missing, "\n".join(missing)


def test_docstrings_give_the_shapes_of_arrays_and_what_is_raised() -> None:
    """Of the core but for the nodes, whose docstrings are the artists' help, and the performers, who are replaced."""
    missing = []
    for path in sorted(CORE.rglob("*.py")):
        if "performer" in path.parts or "nodes" in path.parts:
            continue
        for function in public_functions(path):
            said = ast.get_docstring(function) or ""
            raises = any(isinstance(one, ast.Raise) and one.exc for one in ast.walk(function))
            taken = " ".join(ast.unparse(a.annotation) for a in function.args.args if a.annotation)
            if raises and not re.search("[Rr]aises|Error|refused", said):
                missing.append(f"{path}: {function.name} does not say what it raises")
            if ARRAYS.search(taken) and not SHAPE.search(said) and not ELSEWHERE.search(said):
                missing.append(f"{path}: {function.name} gives no shape")
    assert not missing, "\n".join(missing)


WORDS = Path("web/src/words/en.json")
NAME = "Sun Glaze"
SPOKEN = r"(?:title|aria-label|aria-roledescription|placeholder|alt|label)"


def test_words_of_the_interface_stand_in_one_file() -> None:
    """Nothing that is read stands in a template itself; every key is used, and leads to words."""
    said = {f"{space}.{key}" for space, words in json.loads(WORDS.read_text()).items() for key in words}
    paths = [path for pattern in ("*.ts", "*.vue") for path in Path("web/src").rglob(pattern) if "generated" not in path.name]
    sources = {path: path.read_text() for path in paths}
    loose = []
    for path, text in sources.items():
        found = re.search(r"<template>\n(.*)\n</template>", text, re.S)
        body = re.sub(r"<!--.*?-->|\{\{.*?\}\}", "", found.group(1), flags=re.S) if found else ""
        attributes = re.findall(rf'\s{SPOKEN}="([^"]*[A-Za-z]{{2}}[^"]*)"', body)
        inside = re.sub(r'"[^"]*"', '""', body)
        texts = [words for words in re.findall(r">([^<>]*)<", inside) if re.search(r"[A-Za-z]{2}", words) and words != NAME]
        loose += [f"{path}: {words.strip()}" for words in [*attributes, *texts]]
    assert loose == []
    used = {key for text in sources.values() for key in re.findall(r"""\bt\(\s*['"`]([a-z]+\.\w+)""", text)}
    for text in sources.values():
        # What the player's pages say comes by the name of its space.
        if space := re.search(r"import \{ (\w+) as words \} from '[./]*words/en.json'", text):
            used |= {f"{space[1]}.{key}" for key in re.findall(r"\bwords\.(\w+)", text)}
    assert used == said


def test_what_measures_can_be_imported() -> None:
    """Whatever tests it borrows from may have moved."""
    for path in Path("bench").glob("*.py"):
        if not path.name.startswith("__"):
            importlib.import_module(f"bench.{path.stem}")
