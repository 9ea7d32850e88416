"""The filter language over HTTP: completion, its three faces, its fields."""

from typing import Any, Literal

from django.http import HttpRequest
from ninja import Router, Schema
from ninja.errors import HttpError

from tarn.apps.estate.asking.ask import context, words_of
from tarn.apps.estate.models import KeptSet, Phrase
from tarn.apps.estate.register.strata import bands_there_are
from tarn.apps.estate.selections.results import (
    FieldOut,
    FilterFaces,
    ListColumn,
    ListOut,
    OfferOut,
    ProblemOut,
    RegistryOut,
    WrittenOut,
)
from tarn.apps.people.scope import visible
from tarn.apps.people.speaking import asked_in_words
from tarn.core.fields import FIELDS, GROUPS, TYPES, Field
from tarn.core.filters.check import check
from tarn.core.filters.complete import complete
from tarn.core.filters.draft import DraftGroup, draft_of, problems_of, tree_of
from tarn.core.filters.narrow import excluding, narrowed, widened
from tarn.core.filters.parse import FilterError, parse
from tarn.core.filters.tree import EVERYTHING, from_json, to_json, to_text
from tarn.core.item import Section
from tarn.core.items import SECTIONS

router = Router(tags=["questions"])


class FilterIn(Schema):
    text: str | None = None
    tree: dict[str, Any] | None = None


class TextIn(Schema):
    text: str


class NarrowIn(Schema):
    filter: str
    condition: str
    how: Literal["narrow", "widen", "exclude"] = "narrow"


@router.get("/filter/complete", response=list[OfferOut])
def offers(request: HttpRequest, text: str = "", cursor: int | None = None) -> list[OfferOut]:
    """Return what may stand at the cursor of a filter."""
    at = len(text) if cursor is None else cursor
    phrases = list(Phrase.objects.values_list("name", flat=True))
    sets = list(visible(KeptSet).values_list("name", flat=True))
    return [
        {"text": o.text, "kind": o.kind, "detail": o.detail, "start": o.start}
        for o in complete(text, at, words_of, phrases, sets)
    ]


@router.post("/filter/draft", response=DraftGroup)
def draft(request: HttpRequest, data: TextIn) -> DraftGroup:
    """Turn a filter's text into what is built on a screen."""
    return draft_of(parse(data.text))


@router.post("/filter/written", response=WrittenOut)
def written(request: HttpRequest, data: DraftGroup) -> WrittenOut:
    """Write what was built on a screen as text; what is not whole yet is left out.

    `problems`: what is wrong with an item, by its id; the text is empty where there are any.
    """
    asked = context(None)
    wrong = problems_of(data, lambda node: check(parse(to_text(node)), asked))
    if wrong:
        return WrittenOut(text="", problems=[ProblemOut(id=item, detail=told) for item, told in wrong.items()])
    text = to_text(tree_of(data) or EVERYTHING)
    try:
        check(parse(text), asked)
    except FilterError as error:
        return WrittenOut(text="", problems=[ProblemOut(id=data.id, detail=error.message)])
    return WrittenOut(text=text, problems=[])


@router.post("/filter/narrowed", response=TextIn)
def narrow(request: HttpRequest, data: NarrowIn) -> TextIn:
    """Return a filter narrowed by a condition, widened by it again, or without what it asks for."""
    change = {"narrow": narrowed, "widen": widened, "exclude": excluding}[data.how]
    made = change(parse(data.filter), parse(data.condition))
    text = to_text(made)
    check(parse(text), context(None))
    return TextIn(text=text)


@router.post("/filter", response=FilterFaces)
def faces(request: HttpRequest, data: FilterIn) -> FilterFaces:
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
    return {"text": to_text(tree), "tree": to_json(tree), "sentence": asked_in_words(tree)}


def _list(section: Section) -> ListOut:
    """Return what a list is called, and how the dossier shows it."""
    columns: list[ListColumn] = [
        {"name": n, "label": a.heading(n), "type": a.type, "unit": a.unit, "none": a.none}
        for n, a in section.attributes.items()
        if a.shown
    ]
    return {
        "name": section.name,
        "one": section.one,
        "many": section.many,
        "heading": section.heading,
        "columns": columns,
    }


@router.get("/fields", response=RegistryOut)
def fields(request: HttpRequest) -> RegistryOut:
    """Return the registry of fields: those of assets and those of lists in brackets."""

    def shape(f: Field) -> FieldOut:
        return {"name": f.name, "type": f.type, "label": f.heading, "meaning": f.meaning, "choices": list(f.choices)}

    return {
        "fields": [shape(f) for f in FIELDS.values()],
        "groups": {g: [shape(f) for f in known.values()] for g, known in GROUPS.items()},
        "types": TYPES,
        "lists": [_list(section) for section in SECTIONS.values()],
        "bands": bands_there_are(),
    }
