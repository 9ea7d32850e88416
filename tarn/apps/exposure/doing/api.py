"""Proposed changes over HTTP: thin; parse, call, shape."""

from typing import Annotated, Any, Literal

from django.http import HttpRequest
from ninja import Query, Router, Status

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.exposure.doing import change as actions
from tarn.apps.exposure.doing import first as changes
from tarn.apps.exposure.doing import given
from tarn.apps.exposure.doing.change_page import change_page
from tarn.apps.exposure.doing.results import BudgetOut, ChangePage, ChangeWordId, GivenWorkOut, WhatToDoFirst
from tarn.apps.exposure.inputs import ChangeWordIn, WorkIn
from tarn.apps.exposure.models import ChangeWord, GivenWork
from tarn.apps.people.answers import or_404

router = Router(tags=["exposure"])

Known = Literal["then", "now"]


@router.get("/exposure/first", response=WhatToDoFirst)
def first(request: HttpRequest, filter: str = "", as_of: str | None = None, known: Known = "then") -> WhatToDoFirst:
    """Return the changes that end what is open, in the order of what each ends."""
    return changes.first(question(filter, read_dial(as_of)), known)


@router.get("/exposure/first/budget", response=BudgetOut)
def budget(
    request: HttpRequest,
    number: Annotated[int, Query(ge=1, le=200)],
    filter: str = "",
    as_of: str | None = None,
    known: Known = "then",
) -> BudgetOut:
    """Return the so many changes that end the most, proved to be the best."""
    return changes.budgeted(question(filter, read_dial(as_of)), number, known)


@router.get("/exposure/changes/{path:key}", response=ChangePage | None)
def change(request: HttpRequest, key: str, filter: str = "", as_of: str | None = None) -> ChangePage | None:
    """Return one proposed change: why it stands where it does, whether it may be made, and how; null where it ends
    nothing here by now."""
    return change_page(question(filter, read_dial(as_of)), key)


@router.post("/exposure/change-words", response=ChangeWordId)
def say(request: HttpRequest, data: ChangeWordIn) -> ChangeWordId:
    """Put a change first, or refuse it."""
    return {"id": actions.say_of_change(request.user, data).pk}


@router.delete("/exposure/change-words/{number}", response={204: None})
def unsay(request: HttpRequest, number: int) -> Any:
    """Take back what was said of a change."""
    or_404(ChangeWord, lambda n: actions.take_word_back(request.user, n), number, "word")
    return Status(204, None)


@router.get("/exposure/work", response=list[GivenWorkOut])
def work(request: HttpRequest) -> list[GivenWorkOut]:
    """Return the work that was given, and how far it is by evidence."""
    return given.listed()


@router.post("/exposure/work", response=list[GivenWorkOut])
def give(request: HttpRequest, data: WorkIn) -> list[GivenWorkOut]:
    """Give a change to a person by a day, or to a service desk as a ticket."""
    actions.give(request.user, data)
    return given.given_for(data.key)


@router.delete("/exposure/work/{number}", response={204: None})
def take_back(request: HttpRequest, number: int) -> Any:
    """Take work back that was given."""
    or_404(GivenWork, lambda n: actions.take_work_back(request.user, n), number, "work")
    return Status(204, None)
