"""The estate over HTTP: thin; parse, call, shape."""

import csv
import io
import time
from collections.abc import Iterator
from typing import Annotated, Any

from django.http import HttpRequest, StreamingHttpResponse
from ninja import Body, Field, Query, Router, Schema, Status
from ninja.errors import HttpError

from tarn.apps.estate.asking.ask import count, ids, question
from tarn.apps.estate.asking.dial import iso, read_dial, zone
from tarn.apps.estate.custom.fields import tags_there_are
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register import decide as decide_actions
from tarn.apps.estate.register import dossier as dossiers
from tarn.apps.estate.register import history as histories
from tarn.apps.estate.register import intake as intakes
from tarn.apps.estate.register import reidentify
from tarn.apps.estate.register.pages import GIVEN, everything, field_named, marks, page
from tarn.apps.estate.register.results import (
    AskOut,
    BandOut,
    ChangeOut,
    DecisionOut,
    DossierOut,
    MovedOut,
    PeekOut,
    Plate,
    RibbonDay,
    TakenOut,
    WaitingDevice,
)
from tarn.apps.estate.register.strata import DEFAULT_BANDS, bands_there_are, strata
from tarn.apps.estate.register.streaming import stream
from tarn.apps.people.roles import NotAllowed, may, require
from tarn.apps.people.scope import scope
from tarn.core.item_words import without_secrets
from tarn.core.items import SECTIONS
from tarn.core.sections import OWN
from tarn.core.senders import check_sent
from tarn.core.sightings import read_sighting
from tarn.core.text import cell
from tarn.core.truth import SPOKEN, STOCK_TAKING

router = Router(tags=["estate"])

DEFAULT_COLUMNS = "name,kind,os.name,os.version,address,memory,place,person,last_seen,sources,software.count"


class DecisionIn(Schema):
    assets: list[int] = []
    filter: str | None = None
    expected: int | None = None
    standing: str | None = None
    aside_reason: str | None = None
    kind: str | None = None
    state: str | None = None
    person: str | None = None
    department: str | None = None
    organisation: str | None = None
    place: str | None = None
    manufacturer: str | None = None
    model: str | None = None
    note: str | None = None
    importance: str | None = None
    rack: str | None = None
    rack_unit: int | None = Field(None, ge=1, le=100)
    rack_height: int | None = Field(None, ge=1, le=100)
    fed_by: str | None = None
    own: dict[str, str | bool | float | None] | None = None


class EmptyIn(Schema):
    assets: list[int] = []
    filter: str | None = None
    expected: int | None = None
    fields: list[str]


class TagsIn(Schema):
    assets: list[int] = []
    filter: str | None = None
    expected: int | None = None
    add: list[str] = []
    remove: list[str] = []


class RulingIn(Schema):
    sighting: str
    asset: str | None = None


class MergeIn(Schema):
    other: int


class SplitIn(Schema):
    sightings: list[str] = []
    sources: list[str] = []


@router.get("/assets", response=AskOut)
def ask(
    request: HttpRequest,
    filter: str = "",
    fields: str = DEFAULT_COLUMNS,
    sort: str = "name",
    offset: Annotated[int, Query(ge=0)] = 0,
    limit: Annotated[int, Query(ge=0, le=500)] = 100,
    as_of: str | None = None,
) -> AskOut:
    """Ask the register: a page of assets, how many answer in all, and the question in English."""
    at = read_dial(as_of)
    asked = question(filter, at)
    total = count(asked)
    whole = count(question("", at)) if filter.strip() else total
    rows = page(asked, [f for f in fields.split(",") if f], sort, offset, limit) if limit else []
    marks(rows)
    return {"total": total, "of": whole, "sentence": asked.sentence, "as_of": iso(at), "rows": rows}


@router.get("/assets.csv")
def export(
    request: HttpRequest, filter: str = "", fields: str = DEFAULT_COLUMNS, sort: str = "name", as_of: str | None = None
) -> StreamingHttpResponse:
    """Return the whole selection as CSV (RFC 4180), a row an asset."""
    names = [f for f in fields.split(",") if f]
    asked = question(filter, read_dial(as_of))
    for name in [*names, *([] if sort.lstrip("-") == GIVEN else [sort.lstrip("-")])]:
        field_named(name)
    response = StreamingHttpResponse(stream(_csv(asked, names, sort)), content_type="text/csv; charset=utf-8")
    day = as_of or time.strftime("%Y-%m-%d")
    response["Content-Disposition"] = f'attachment; filename="assets-{day[:10]}.csv"'
    return response


def _csv(asked: Any, names: list[str], sort: str) -> Iterator[str]:
    buffer = io.StringIO()
    writer = csv.writer(buffer)
    writer.writerow(names)
    for row in everything(asked, names, sort):
        # A cell that a spreadsheet would run as a formula is quoted as text.
        writer.writerow([cell(row[n]) for n in names])
        if buffer.tell() > 65_536:
            yield buffer.getvalue()
            buffer.seek(0)
            buffer.truncate()
    yield buffer.getvalue()


@router.get("/strata", response=list[BandOut])
def bands(
    request: HttpRequest, filter: str = "", bands: str = ",".join(DEFAULT_BANDS), as_of: str | None = None
) -> list[BandOut]:
    """Return what a selection is made of, a band a facet."""
    names = tuple(b for b in bands.split(",") if b)
    for name in names:
        if name not in bands_there_are():
            raise HttpError(422, f"There is no band “{name}”; of: {', '.join(bands_there_are())}.")
    return strata(question(filter, read_dial(as_of)), names)


def _existing(asset: int, at: int | None) -> Plate:
    found = dossiers.plate(asset, at)
    if found is None:
        known = dossiers.plate(asset, None)
        if known is None:
            raise HttpError(404, f"There is no asset {asset}.")
        raise HttpError(
            404, f"{known['number']} was not known yet on that day; it was first seen {known['first_seen']}."
        )
    return found


@router.get("/assets/{asset}", response=DossierOut)
def dossier(request: HttpRequest, asset: int, as_of: str | None = None) -> DossierOut:
    """Return everything held about an asset, with who says so."""
    at = read_dial(as_of)
    plate = _existing(asset, at)
    guess, sure, reasons = dossiers.guess(asset)
    items = dossiers.items(asset, at)
    if not may(request.user, "credentials"):
        items = {n: without_secrets(SECTIONS[n], listed) for n, listed in items.items()}
    return {
        "plate": plate,
        "claims": dossiers.claims(asset, at),
        "items": items,
        "software": dossiers.software(asset, at),
        "sightings": dossiers.sightings(asset, at),
        "guess": guess,
        "sure": sure,
        "guess_reasons": reasons,
        "began": plate["first_seen"],
        "as_of": iso(at),
    }


@router.get("/assets/{asset}/peek", response=PeekOut)
def peek(request: HttpRequest, asset: int, as_of: str | None = None) -> PeekOut:
    """Return an asset's plate and who says what, for a look beside the register."""
    at = read_dial(as_of)
    now = at or int(time.time())
    return {
        "plate": _existing(asset, at),
        "claims": dossiers.claims(asset, at),
        "ribbon": histories.ribbon(asset, now - 90 * 86_400, now, zone()),
        "until": iso(now),
    }


@router.get("/assets/{asset}/history", response=list[ChangeOut])
def history(
    request: HttpRequest, asset: int, days: Annotated[int, Query(ge=1, le=4000)] = 365, as_of: str | None = None
) -> list[ChangeOut]:
    """Return what changed on an asset in the days up to the dial's date, the newest first."""
    at = read_dial(as_of) or int(time.time())
    _existing(asset, read_dial(as_of))
    return histories.history(asset, max(at - days * 86_400, dossiers.theirs_since(asset)), at)


@router.get("/assets/{asset}/ribbon", response=list[RibbonDay])
def ribbon(request: HttpRequest, asset: int, days: Annotated[int, Query(ge=1, le=4000)] = 365) -> list[RibbonDay]:
    """Return the number of changes a day, for the ribbon."""
    _existing(asset, None)
    now = int(time.time())
    return histories.ribbon(asset, now - days * 86_400, now, zone())


@router.get("/sightings/{document}")
def sighting(request: HttpRequest, document: str) -> dict[str, Any]:
    """Return a sighting as the document that was taken in."""
    found = dossiers.document(document)
    if found is None:
        raise HttpError(404, f"There is no sighting “{document}”.")
    if not may(request.user, "credentials"):
        for reading in found["readings"]:
            if section := SECTIONS.get(reading["section"]):
                reading["items"] = without_secrets(section, reading["items"])
    return found


@router.post("/sightings", response=list[TakenOut])
def hand_in(request: HttpRequest, document: Body[dict[str, Any]]) -> list[TakenOut]:
    """Hand in one sighting document. Refused whole, with every fault and its place, where it fails the schema."""
    require(request.user, "decide")
    if scope() is not None:
        raise NotAllowed("Whoever hands in sightings speaks for all organisations; you are limited to some.")
    read = read_sighting(document)
    if read.source.kind in SPOKEN:
        raise HttpError(422, "A hand's word is given through /api/decide, a rule's by a fill rule in force.")
    if read.source.kind == STOCK_TAKING:
        raise HttpError(422, "What a stock-taking says comes in when it is closed; note it under /api/counts.")
    check_sent(read, int(time.time()))
    return [
        {"document": t.document, "verdict": t.verdict, "asset": t.asset, "reasons": t.reasons} for t in take_in([read])
    ]


def _meant(data: DecisionIn | TagsIn | EmptyIn) -> list[int]:
    """Return the assets named, or those that answer the filter if as many were shown to whoever decides."""
    assets = data.assets if data.filter is None else ids(question(data.filter))
    if data.expected is not None and len(assets) != data.expected:
        raise HttpError(
            409, f"{data.expected} were shown and {len(assets)} answer by now. Nothing was changed; look again."
        )
    return assets


@router.get("/tags", response=dict[str, int])
def tags(request: HttpRequest) -> dict[str, int]:
    """Return the tags in use, each with on how many assets of the register."""
    return tags_there_are()


@router.post("/tags", response=DecisionOut)
def tag(request: HttpRequest, data: TagsIn) -> DecisionOut:
    """Give assets tags and take tags away; those they have beside stay."""
    assets = _meant(data)
    return {"assets": len(assets), "entry": decide_actions.tag(request.user, assets, data.add, data.remove)}


@router.post("/decide", response=DecisionOut)
def decide(request: HttpRequest, data: DecisionIn) -> DecisionOut:
    """Decide of assets, or of all that answer a filter: adopt, set aside, give a kind, a place, a holder.

    A field given as null is withdrawn. `expected`: how many were shown to whoever decides; where others answer the
    filter by now nothing is done.
    """
    facts = {k: getattr(data, k) for k in data.model_fields_set if k not in ("assets", "filter", "expected", "own")}
    facts |= {f"{OWN}{name}": value for name, value in (data.own or {}).items()}
    assets = _meant(data)
    if not facts:
        raise HttpError(422, "Say what is to be changed.")
    verb = {"register": "adopted", "set aside": "set aside", "intake": "sent back to intake"}.get(
        facts.get("standing") or "", "decided"
    )
    if facts.get("standing") == "set aside" and not facts.get("aside_reason"):
        raise HttpError(422, "Say why these are set aside: the reason stays with them.")
    if facts.get("standing") == "register":
        facts.setdefault("aside_reason", None)
    entry = decide_actions.decide(request.user, assets, facts, verb)
    return {"assets": len(assets), "entry": entry}


@router.post("/empty", response=DecisionOut)
def empty(request: HttpRequest, data: EmptyIn) -> DecisionOut:
    """Take back what anybody said of fields of assets, or of all that answer a filter; what is read shows again."""
    assets, entry = decide_actions.empty(request.user, _meant(data), data.fields)
    return {"assets": assets, "entry": entry}


@router.post("/identity/rulings", response={204: None})
def rule(request: HttpRequest, data: RulingIn) -> Status[None]:
    """Rule which asset an undecided sighting is of; no asset means a new one."""
    decide_actions.rule(request.user, data.sighting, data.asset)
    return Status(204, None)


@router.post("/assets/{asset}/merge", response=MovedOut)
def merge(request: HttpRequest, asset: int, data: MergeIn) -> MovedOut:
    """Hold another asset to be the same device; what is known of it becomes this one's. Can be undone."""
    return {"asset": asset, "entry": reidentify.merge(request.user, asset, data.other)}


@router.post("/assets/{asset}/split", response=MovedOut)
def split(request: HttpRequest, asset: int, data: SplitIn) -> MovedOut:
    """Hold some of an asset's sightings to be of another device, which becomes a new asset. Can be undone."""
    made, entry = reidentify.split(request.user, asset, data.sightings, data.sources)
    return {"asset": made, "entry": entry}


@router.get("/set-aside", response=list[WaitingDevice])
def set_aside(request: HttpRequest) -> list[WaitingDevice]:
    """Return the devices that were set aside, with the reason."""
    return intakes.waiting("set aside")
