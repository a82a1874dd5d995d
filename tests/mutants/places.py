"""The places of a module that may be changed, and how: operators of Cosmic Ray, where a change can alter what the code does."""

from __future__ import annotations

import ast
from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from cosmic_ray.ast import ast_nodes, get_ast
from cosmic_ray.mutating import mutate_code
from cosmic_ray.plugins import get_operator

Spot = tuple[int, int]
ROOM_ALONE = {"_CHUNK", "MOST_KNOWN", "READ_ONES"}
"""Constants that say how much is held at a time: another number changes no answer."""
OPERATORS = [
    "core/" + name
    for name in (
        *("ReplaceBinaryOperator_" + pair for pair in ("Add_Sub", "Sub_Add", "Mul_Div", "Div_Mul", "FloorDiv_Mul", "Mod_Mul")),
        *(
            "ReplaceBinaryOperator_" + pair
            for pair in ("Pow_Mul", "BitAnd_BitOr", "BitOr_BitAnd", "LShift_RShift", "RShift_LShift")
        ),
        *("ReplaceComparisonOperator_" + pair for pair in ("Eq_NotEq", "NotEq_Eq", "Lt_LtE", "LtE_Lt", "Gt_GtE", "GtE_Gt")),
        *("ReplaceComparisonOperator_" + pair for pair in ("Lt_GtE", "GtE_Lt", "Gt_LtE", "LtE_Gt", "Is_IsNot", "IsNot_Is")),
        *("ReplaceUnaryOperator_" + pair for pair in ("USub_UAdd", "Delete_Not")),
        *("AddNot", "ReplaceTrueWithFalse", "ReplaceFalseWithTrue", "ReplaceAndWithOr", "ReplaceOrWithAnd"),
        *("ReplaceBreakWithContinue", "ReplaceContinueWithBreak", "ExceptionReplacer", "NumberReplacer", "ZeroIterationForLoop"),
    )
]


@dataclass(frozen=True)
class Place:
    """Where something may be changed, and the changes: an operator, and which of its places it is."""

    path: Path
    line: int
    changes: tuple[tuple[str, int], ...]

    def changed(self, change: tuple[str, int]) -> str:
        """The whole module with one change."""
        operator, occurrence = change
        code = mutate_code(self.path.read_text(), get_operator(operator)(), occurrence)
        assert code is not None
        return str(code)


def places(path: Path) -> list[Place]:
    """All places of a module, in their order. Types, what is imported for them, and how dataclasses are kept are left out."""
    source = path.read_text()
    silent, nodes = list(_silent(ast.parse(source))), list(ast_nodes(get_ast(source)))
    found: dict[Spot, list[tuple[str, int]]] = defaultdict(list)
    for name in OPERATORS:
        operator = get_operator(name)()
        occurrence = 0
        for node in nodes:
            for start, _ in operator.mutation_positions(node):
                if not any(first <= start < last for first, last in silent):
                    found[start].append((name, occurrence))
                occurrence += 1
    return [Place(path, line, tuple(changes)) for (line, _), changes in sorted(found.items())]


def _silent(module: ast.Module) -> Iterator[tuple[Spot, Spot]]:
    """From where to where nothing is computed: annotations, decorators of dataclasses and of what is kept, imports for types
    alone, and what changes room alone."""
    for node in ast.walk(module):
        types: Sequence[ast.AST | None] = []
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
            types = [node.returns, *(one for one in node.decorator_list if "cache" in ast.unparse(one))]
        elif isinstance(node, ast.arg | ast.AnnAssign):
            types = [node.annotation]
        elif isinstance(node, ast.ClassDef):
            types = [one for one in node.decorator_list if "dataclass" in ast.unparse(one)]
        elif (isinstance(node, ast.Assign) and ast.unparse(node.targets[0]) in ROOM_ALONE) or (
            isinstance(node, ast.If) and "TYPE_CHECKING" in ast.unparse(node.test)
        ):
            types = [node]
        for one in types:
            if one is not None:
                yield (one.lineno, one.col_offset), (one.end_lineno, one.end_col_offset)  # type: ignore[attr-defined,misc]
