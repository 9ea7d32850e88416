"""Fields and kinds of the company's own over HTTP, and assets entered by hand: thin; parse, call, shape."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Status
from ninja.errors import HttpError

from tarn.apps.estate.custom import change as actions
from tarn.apps.estate.custom import fields as reads
from tarn.apps.estate.custom.inputs import OwnFieldIn, OwnKindIn
from tarn.apps.estate.custom.results import OwnOut
from tarn.apps.estate.models import OwnField, OwnKind
from tarn.core.own import TYPES

router = Router(tags=["kinds"])


def _found(what: str, call: Any) -> Any:
    try:
        return call()
    except (OwnField.DoesNotExist, OwnKind.DoesNotExist):
        raise HttpError(404, f"There is no such {what}.") from None


def _all() -> OwnOut:
    return {**reads.overview(), "types": TYPES}


@router.get("/kinds", response=OwnOut)
def kinds(request: HttpRequest) -> OwnOut:
    """Return all kinds with the fields assets of them have, and the company's own fields."""
    return _all()


@router.post("/kinds", response=OwnOut)
def new_kind(request: HttpRequest, data: OwnKindIn) -> OwnOut:
    """Make a kind of the company's own."""
    actions.make_kind(request.user, data)
    return _all()


@router.put("/kinds/{number}", response=OwnOut)
def change_kind(request: HttpRequest, number: int, data: OwnKindIn) -> OwnOut:
    """Change a kind; its name stays."""
    _found("kind", lambda: actions.change_kind(request.user, number, data))
    return _all()


@router.delete("/kinds/{number}", response={204: None})
def drop_kind(request: HttpRequest, number: int) -> Status[None]:
    """Drop a kind that no asset is of."""
    _found("kind", lambda: actions.drop_kind(request.user, number))
    return Status(204, None)


@router.post("/own-fields", response=OwnOut)
def new_field(request: HttpRequest, data: OwnFieldIn) -> OwnOut:
    """Make a field of the company's own."""
    actions.make_field(request.user, data)
    return _all()


@router.put("/own-fields/{number}", response=OwnOut)
def change_field(request: HttpRequest, number: int, data: OwnFieldIn) -> OwnOut:
    """Change a field; where values would not fit it is refused unless `anyway`. Values are kept either way."""
    _found("field", lambda: actions.change_field(request.user, number, data))
    return _all()


@router.delete("/own-fields/{number}", response={204: None})
def drop_field(request: HttpRequest, number: int) -> Status[None]:
    """Drop a field; its values stay in the evidence and come back when this is undone."""
    _found("field", lambda: actions.drop_field(request.user, number))
    return Status(204, None)
