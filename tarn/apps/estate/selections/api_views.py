"""Kept views over HTTP: thin; parse, call, shape."""

from typing import Any, Literal

from django.http import HttpRequest
from ninja import Router, Schema, Status

from tarn.apps.estate.models import KeptView
from tarn.apps.estate.selections import views as kept
from tarn.apps.people.answers import or_404

router = Router(tags=["sets"])


class KeptViewIn(Schema):
    name: str
    filter: str = ""
    columns: list[str] = []
    sort: str = ""
    bands: list[str] = []
    access: Literal["all", "read", "own"] = "all"


class KeptViewOut(KeptViewIn):
    id: int
    made_by: str


@router.get("/views", response=list[KeptViewOut])
def views(request: HttpRequest) -> Any:
    """Return the kept views of the register."""
    return kept.views()


@router.post("/views", response=list[KeptViewOut])
def keep(request: HttpRequest, data: KeptViewIn) -> Any:
    """Keep a view: question, columns, order and bands; one of that name is kept anew. Returns all."""
    kept.keep_view(request.user, kept.WantedView(**data.dict()))
    return kept.views()


@router.delete("/views/{number}", response={204: None})
def drop(request: HttpRequest, number: int) -> Status[None]:
    """Drop a view."""
    or_404(KeptView, lambda n: kept.drop_view(request.user, n), number, "view")
    return Status(204, None)
