"""Formulas: arithmetic over named numbers, read without running anything."""

import ast
import operator
import re
from collections.abc import Callable
from typing import Any


class FormulaError(ValueError):
    """A formula that is no arithmetic; the message says where."""


_OPERATORS: dict[type, Callable[[float, float], float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
}


class Formula:
    """Arithmetic over columns: + - * /, parentheses, numbers, names such as `memory` or `asset.cores`.

    Raises FormulaError where it is anything else.
    """

    def __init__(self, text: str, where: str) -> None:
        self.text, self._where = text, where
        self.names: set[str] = set()
        try:
            parsed = ast.parse(text.strip(), mode="eval").body
        except SyntaxError as error:
            raise FormulaError(f"{where}: the formula breaks off at character {error.offset}.") from None
        self._run = self._made(parsed)

    def _made(self, node: ast.AST) -> Callable[[dict[str, Any]], float | None]:
        match node:
            case ast.Constant(value=bool()):
                pass
            case ast.Constant(value=int() | float() as value):
                return lambda row: value
            case ast.BinOp(left, op, right) if type(op) in _OPERATORS:
                work, first, second = _OPERATORS[type(op)], self._made(left), self._made(right)

                def both(row: dict[str, Any]) -> float | None:
                    a, b = first(row), second(row)
                    if a is None or b is None or (work is operator.truediv and b == 0):
                        return None  # what is not known, or cannot be divided, has no value
                    return work(a, b)

                return both
            case ast.UnaryOp(ast.USub(), operand):
                inner = self._made(operand)
                return lambda row: None if (value := inner(row)) is None else -value
            case ast.Name() | ast.Attribute():
                name = ast.unparse(node)
                if re.fullmatch(r"[a-z_]+(\.[a-z_]+)*", name):
                    self.names.add(name)
                    return lambda row: _as_number(row.get(name))
        raise FormulaError(f"{self._where}: “{ast.unparse(node)}” is no arithmetic; use + - * / and columns.")

    def value(self, row: dict[str, Any]) -> float | None:
        """Return its value for a row; None where something it needs is not known."""
        got = self._run(row)
        return None if got is None else round(got, 6)


def _as_number(value: Any) -> float | None:
    return float(value) if isinstance(value, (int, float)) and not isinstance(value, bool) else None
