"""Statements as JSON, so that they can be kept beside the document they were read of."""

from typing import Any

from pydantic import TypeAdapter

from tarn.core.exposure.told import Remedy, Score, Statement, Telling

_STATEMENT: TypeAdapter[Statement] = TypeAdapter(Statement)
_SCORES: TypeAdapter[tuple[Score, ...]] = TypeAdapter(tuple[Score, ...])
_REMEDIES: TypeAdapter[tuple[Remedy, ...]] = TypeAdapter(tuple[Remedy, ...])


def statement_json(statement: Statement) -> str:
    """Return a statement as JSON, what is empty left out."""
    return _STATEMENT.dump_json(statement, exclude_defaults=True).decode()


def read_statement(text: str) -> Statement:
    """Return a statement as it was kept."""
    return _STATEMENT.validate_json(text)


def more_of(telling: Telling) -> dict[str, Any]:
    """Return scores, weaknesses, remedies and links of a telling as JSON values, what is empty left out."""
    told = {
        "scores": _SCORES.dump_python(telling.scores, mode="json"),
        "weaknesses": list(telling.weaknesses),
        "remedies": _REMEDIES.dump_python(telling.remedies, mode="json"),
        "links": list(telling.links),
    }
    return {name: value for name, value in told.items() if value}
