"""Kept sets and phrases over HTTP: thin; parse, call, shape."""

import time
from typing import Annotated, Any

from django.http import HttpRequest
from ninja import Query, Router, Status
from ninja.errors import HttpError

from tarn.apps.estate.asking.ask import context, definition_at
from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.estate.models import KeptSet, Phrase
from tarn.apps.estate.selections import keep
from tarn.apps.estate.selections import keep_phrases as phrase_actions
from tarn.apps.estate.selections import sets as reads
from tarn.apps.estate.selections.inputs import PhraseIn, SetIn
from tarn.apps.estate.selections.results import SetOut, SetPageOut, UseOut
from tarn.apps.people.scope import visible
from tarn.apps.people.speaking import asked_in_words
from tarn.core.filters.check import check
from tarn.core.filters.parse import parse

router = Router(tags=["sets"])


class PhraseOut(PhraseIn):
    products: list[str]
    uses: list[UseOut]


def _held(number: int) -> KeptSet:
    kept_set = visible(KeptSet).filter(pk=number).first()
    if kept_set is None:
        raise HttpError(404, f"There is no set {number}.")
    return kept_set


def _row(held: KeptSet, at: int | None) -> SetOut:
    text = definition_at(held, at)
    return {
        "id": held.pk,
        "name": held.name,
        "kind": held.kind,
        "folder": held.folder,
        "note": held.note,
        "access": held.access,
        "version": held.version,
        "made_by": held.made_by.username if held.made_by else "",
        "filter": text,
        "members": reads.made_of(held.kind, text),
        "count": reads.number(text, at),
    }


@router.get("/sets", response=list[SetOut])
def sets(request: HttpRequest, as_of: str | None = None) -> list[SetOut]:
    """Return the kept sets, each with how many assets it holds."""
    at = read_dial(as_of)
    return [_row(s, at) for s in visible(KeptSet).select_related("made_by").order_by("folder", "name")]


@router.post("/sets", response=SetOut)
def new_set(request: HttpRequest, data: SetIn) -> SetOut:
    """Keep a selection as a set: live by a filter, picked by hand, or by address ranges."""
    return _row(keep.keep_set(request.user, data), None)


@router.get("/sets/{number}", response=SetPageOut)
def one_set(
    request: HttpRequest,
    number: int,
    as_of: str | None = None,
    days: Annotated[int, Query(ge=1, le=4000)] = 30,
    since: str | None = None,
) -> SetPageOut:
    """Return a set: its members over a year, who came and went in so many days, and what uses it.

    `since`: an earlier day to hold it against, in place of `days`.
    """
    held, at = _held(number), read_dial(as_of)
    tree = parse(definition_at(held, at))
    check(tree, context(at))
    until = at or int(time.time())
    earlier = (read_dial(since) or until) if since else until - days * 86_400
    if earlier > until:
        raise HttpError(422, f"{since} comes after {as_of or 'today'}; a set is held against an earlier day.")
    return {
        **_row(held, at),
        "sentence": asked_in_words(tree),
        "year": reads.year(held, at),
        "uses": reads.uses(held),
        "moved": reads.moved(held, earlier, at),
    }


@router.put("/sets/{number}", response=SetOut)
def change_set(request: HttpRequest, number: int, data: SetIn) -> SetOut:
    """Change a set, made from the version it was read at; past days keep the definition they had."""
    _held(number)
    return _row(keep.change_set(request.user, number, data), None)


@router.delete("/sets/{number}", response={204: None})
def end_set(request: HttpRequest, number: int) -> Status[None]:
    """Drop a kept set; the assets stay. Refused while something speaks of it."""
    _held(number)
    keep.drop_set(request.user, number)
    return Status(204, None)


@router.get("/phrases", response=list[PhraseOut])
def phrases(request: HttpRequest) -> Any:
    """Return the phrases filters may use, what each names now, and what speaks of it."""
    return reads.phrases()


@router.post("/phrases", response=PhraseIn)
def new_phrase(request: HttpRequest, data: PhraseIn) -> Any:
    """Make a phrase."""
    return phrase_actions.save_phrase(request.user, data)


@router.put("/phrases/{name}", response=PhraseIn)
def change_phrase(request: HttpRequest, name: str, data: PhraseIn) -> Any:
    """Change a phrase; every filter that speaks of it follows."""
    try:
        return phrase_actions.save_phrase(request.user, data, name)
    except Phrase.DoesNotExist:
        raise HttpError(404, f"There is no phrase @{name}.") from None


@router.delete("/phrases/{name}", response={204: None})
def end_phrase(request: HttpRequest, name: str) -> Status[None]:
    """Drop a phrase no filter speaks of."""
    try:
        phrase_actions.drop_phrase(request.user, name)
    except Phrase.DoesNotExist:
        raise HttpError(404, f"There is no phrase @{name}.") from None
    return Status(204, None)
