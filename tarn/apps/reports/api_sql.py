"""Statements of one's own over HTTP, administrators only: thin; parse, call, shape."""

from django.http import HttpRequest
from ninja import Router, Schema
from ninja.errors import HttpError

from tarn.apps.estate.selections import statements
from tarn.apps.estate.selections.results import ViewOut
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import NotAllowed, require
from tarn.apps.people.scope import scope
from tarn.apps.reports.results import StatementOut

router = Router(tags=["reports"])


class StatementIn(Schema):
    statement: str


def _may(request: HttpRequest) -> None:
    require(request.user, "statements")
    if scope() is not None:
        raise NotAllowed("A statement reads all organisations' devices; you are limited to some.")


@router.get("/sql/views", response=list[ViewOut])
def views(request: HttpRequest) -> list[ViewOut]:
    """Return the views a statement may read, with their columns."""
    _may(request)
    return statements.described()


@router.post("/sql", response=StatementOut)
def carry_out(request: HttpRequest, data: StatementIn) -> StatementOut:
    """Carry a reading statement out: at most ten seconds and ten thousand rows."""
    _may(request)
    if len(data.statement) > 20_000:
        raise HttpError(422, "A statement of more than 20,000 characters is too long.")
    try:
        table = statements.carry_out(data.statement)
    except statements.StatementError as error:
        raise Invalid("statement", str(error)) from None
    record(request.user, "asked by SQL", f"{len(table.rows)} rows", detail={"statement": data.statement})
    return {"columns": table.columns, "rows": [list(r) for r in table.rows], "cut": table.cut, "seconds": table.seconds}
