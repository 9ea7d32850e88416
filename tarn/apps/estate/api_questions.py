"""The filter language over HTTP: completion, its three faces, its fields, kept sets and phrases."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema, Status
from ninja.errors import HttpError

from tarn.apps.estate.actions import keep
from tarn.apps.estate.asking.ask import context, count, question, read_dial, words_of
from tarn.apps.estate.models import KeptSet, Phrase
from tarn.apps.estate.reads.strata import BANDS
from tarn.apps.people.scope import visible
from tarn.core.fields import ASSET_FIELDS, GROUPS, TYPES
from tarn.core.filters.check import check
from tarn.core.filters.complete import complete
from tarn.core.filters.english import english
from tarn.core.filters.parse import parse
from tarn.core.filters.tree import from_json, to_json, to_text

router = Router(tags=["questions"])


class OfferOut(Schema):
    text: str
    kind: str
    detail: str
    start: int


class FieldOut(Schema):
    name: str
    type: str
    label: str
    meaning: str
    choices: list[str]


class SetIn(Schema):
    name: str
    filter: str


class SetOut(Schema):
    id: int
    name: str
    filter: str
    count: int


class PhraseOut(Schema):
    name: str
    meaning: str
    values: list[str]


class FilterFaces(Schema):
    text: str
    tree: dict[str, Any]
    sentence: str


class FilterIn(Schema):
    text: str | None = None
    tree: dict[str, Any] | None = None


@router.get("/filter/complete", response=list[OfferOut])
def offers(request: HttpRequest, text: str = "", cursor: int | None = None) -> Any:
    """Return what may stand at the cursor of a filter."""
    at = len(text) if cursor is None else cursor
    phrases = list(Phrase.objects.values_list("name", flat=True))
    sets = list(visible(KeptSet).values_list("name", flat=True))
    return [
        {"text": o.text, "kind": o.kind, "detail": o.detail, "start": o.start}
        for o in complete(text, at, words_of, phrases, sets)
    ]


@router.post("/filter", response=FilterFaces)
def faces(request: HttpRequest, data: FilterIn) -> dict[str, Any]:
    """Turn a filter's text into its tree or its tree into text, checked; with the English sentence."""
    if data.tree is not None:
        try:
            tree = from_json(data.tree)
            text = to_text(tree)
        except (ValueError, TypeError) as error:
            raise HttpError(422, f"The tree is no filter: {error}") from None
    else:
        text = data.text or ""
    tree = parse(text)
    check(tree, context(None))
    return {"text": to_text(tree), "tree": to_json(tree), "sentence": english(tree)}


@router.get("/fields")
def fields(request: HttpRequest) -> dict[str, Any]:
    """Return the registry of fields: those of assets and those of lists in brackets."""

    def shape(f: Any) -> dict[str, Any]:
        return {"name": f.name, "type": f.type, "label": f.heading, "meaning": f.meaning, "choices": list(f.choices)}

    return {
        "fields": [shape(f) for f in ASSET_FIELDS],
        "groups": {g: [shape(f) for f in known.values()] for g, known in GROUPS.items()},
        "types": TYPES,
        "bands": list(BANDS),
    }


@router.get("/sets", response=list[SetOut])
def sets(request: HttpRequest, as_of: str | None = None) -> Any:
    """Return the kept sets, each with how many assets it holds."""
    at = read_dial(as_of)
    return [
        {"id": s.pk, "name": s.name, "filter": s.filter, "count": count(question(s.filter, at))}
        for s in visible(KeptSet).order_by("name")
    ]


@router.post("/sets", response=SetOut)
def new_set(request: HttpRequest, data: SetIn) -> dict[str, Any]:
    """Keep a filter as a set."""
    if not data.name.strip():
        raise HttpError(422, "A set needs a name.")
    made = keep.keep_set(request.user, data.name, data.filter)
    return {"id": made.pk, "name": made.name, "filter": made.filter, "count": count(question(made.filter))}


@router.delete("/sets/{number}", response={204: None})
def end_set(request: HttpRequest, number: int) -> Status[None]:
    """Drop a kept set; the assets stay."""
    try:
        keep.drop_set(request.user, number)
    except KeptSet.DoesNotExist:
        raise HttpError(404, f"There is no set {number}.") from None
    return Status(204, None)


@router.get("/phrases", response=list[PhraseOut])
def phrases(request: HttpRequest) -> Any:
    """Return the phrases filters may use."""
    return Phrase.objects.order_by("name")
