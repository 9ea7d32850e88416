"""Formulas: arithmetic over named numbers and days, read without running anything."""

import ast
import operator
import re
from collections.abc import Callable, Collection
from datetime import date, datetime
from typing import Any

TODAY = "today"
"""The day a formula is reckoned on; whoever reckons gives it."""


class FormulaError(ValueError):
    """A formula that is no arithmetic; the message says where."""


_OPERATORS: dict[type, Callable[[float, float], float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
}


class Formula:
    """Arithmetic over columns: + - * /, parentheses, numbers, names: `memory`, `asset.cores`, `field("Berth")`.

    `days`: names of what is a day (ISO 8601); of those, and of `today`, differences are reckoned, in days.
    Raises FormulaError where it is anything else.
    """

    def __init__(self, text: str, where: str, days: Collection[str] = ()) -> None:
        self.text, self._where, self._days = text, where, frozenset((*days, TODAY))
        self.names: set[str] = set()
        try:
            parsed = ast.parse(text.strip(), mode="eval").body
        except SyntaxError as error:
            raise FormulaError(f"{where}: the formula breaks off at character {error.offset}.") from None
        self._run = self._made(parsed)
        if self._is_day(parsed):
            raise FormulaError(
                f"{where}: the result is a day and no number; take one day from another: today - bought."
            )

    def _is_day(self, node: ast.AST) -> bool:
        """Whether a part is a day. Raises FormulaError for arithmetic that days have not."""
        match node:
            case ast.BinOp(left, op, right):
                days = self._is_day(left) + self._is_day(right)
                if days and not (days == 2 and isinstance(op, ast.Sub)):
                    said = ast.unparse(node)
                    raise FormulaError(
                        f"{self._where}: “{said}”: a day is only taken from another day, which gives days."
                    )
                return False
            case ast.UnaryOp(_, operand):
                if self._is_day(operand):
                    raise FormulaError(f"{self._where}: “{ast.unparse(node)}”: a day has no opposite.")
                return False
        return self._name(node) in self._days

    @staticmethod
    def _name(node: ast.AST) -> str:
        match node:
            case ast.Name() | ast.Attribute():
                name = ast.unparse(node)
                return name if re.fullmatch(r"[A-Za-z_]\w*(\.[A-Za-z_]\w*)*", name) else ""
            case ast.Call(func=ast.Name(id="field"), args=[ast.Constant(value=str() as own)], keywords=[]):
                return f"field:{own}"
        return ""

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
        if name := self._name(node):
            self.names.add(name)
            return lambda row: _as_number(row.get(name))
        raise FormulaError(f"{self._where}: “{ast.unparse(node)}” is no arithmetic; use + - * / and columns.")

    def value(self, row: dict[str, Any]) -> float | None:
        """Return its value for a row; None where something it needs is not known."""
        got = self._run(row)
        return None if got is None else round(got, 6)


def _as_number(value: Any) -> float | None:
    """Return a number, or a day as days since the year 1; None for what is neither."""
    if isinstance(value, str) and len(value) >= 10:
        try:
            if len(value) == 10:
                return float(date.fromisoformat(value).toordinal())
            at = datetime.fromisoformat(value)
            return at.toordinal() + (at.hour * 3_600 + at.minute * 60 + at.second) / 86_400
        except ValueError:
            return None
    return float(value) if isinstance(value, (int, float)) and not isinstance(value, bool) else None
