"""The licences room over HTTP: thin; parse, call, shape."""

from datetime import date
from typing import Any, Literal

from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema, Status
from ninja.errors import HttpError

from tarn.apps.estate.asking.ask import read_dial
from tarn.apps.licences.actions import keys as key_actions
from tarn.apps.licences.actions import licences as licence_actions
from tarn.apps.licences.actions import pins as pin_actions
from tarn.apps.licences.actions.bundles import take_away
from tarn.apps.licences.actions.records import take_in_records
from tarn.apps.licences.models import Key, Licence, Purchase
from tarn.apps.licences.reads import keys, licences, positions
from tarn.apps.licences.reads.given import day_of
from tarn.apps.people.answers import or_404

router = Router(tags=["licences"])


class MetricOut(Schema):
    name: str
    unit: str
    text: str


class LicenceName(Schema):
    id: int
    name: str


class BalanceOut(Schema):
    key: str
    name: str
    products: list[str]
    metric: str
    unit: str
    pack: int
    needed: int
    entitled: int | None
    assigned: int
    short: int
    spare: int
    installations: int
    licences: list[LicenceName]
    cure: str | None
    spare_value: str | None


class PositionsOut(Schema):
    day: str
    currency: str
    balances: list[BalanceOut]
    cure: str
    uncosted: int
    spare_value: str
    ending: int


class WorkingLine(Schema):
    sign: str
    figure: int
    text: str
    note: str


class FreeOut(Schema):
    asset: int
    name: str
    why: str
    person: str


class CureOut(Schema):
    free: list[FreeOut]
    freed: int
    buy: int
    packs: int
    price: str | None
    cost: str | None
    decides: bool


class NotCovered(Schema):
    licence: str
    reason: str


class UncoveredOut(Schema):
    asset: int
    name: str
    person: str
    product: str
    release: str
    since: str
    reasons: list[NotCovered]


class LeftOutUse(Schema):
    asset: int
    name: str
    reason: str
    product: str


class DepartmentOut(Schema):
    name: str
    covered: int
    uncovered: int


class WhyOut(BalanceOut):
    working: list[WorkingLine]
    cures: list[CureOut]
    uncovered: list[UncoveredOut]
    uncovered_all: int
    left_out: list[LeftOutUse]
    departments: list[DepartmentOut]
    warnings: list[str]


class LicenceRow(Schema):
    id: int
    name: str
    publisher: str
    metric: str
    unit: str
    products: list[str]
    quantity: int | None
    used: int
    price: str | None
    starts: str | None
    ends: str | None
    maintained_until: str | None
    in_force: bool
    unknown: list[str]


class PurchaseOut(Schema):
    id: int
    day: str
    quantity: int
    price: str
    currency: str
    order: str
    supplier: str
    counts: bool


class CoveredUse(Schema):
    asset: int
    name: str
    person: str
    product: str
    release: str
    right: str
    pinned: bool


class BearerOut(Schema):
    units: int
    text: str
    uses: list[CoveredUse]


class LicenceOut(LicenceRow):
    release: str
    downgrade: bool
    second_device: bool
    guests: str
    per_host: int
    per_processor: int
    pack: int
    formula: str
    departments: list[str]
    without_limit: bool
    keys_wanted: bool
    transferable: bool
    cost: str
    cost_currency: str
    cost_every: str
    note: str
    version: int
    purchases: list[PurchaseOut]
    bearers: list[BearerOut]
    bearers_all: int


class LicenceIn(Schema):
    name: str
    metric: str
    products: list[str]
    publisher: str = ""
    release: str = ""
    downgrade: bool = False
    second_device: bool = False
    guests: Literal["own", "host"] = "own"
    per_host: int = 1
    per_processor: int = 0
    pack: int = 1
    formula: str = ""
    departments: list[str] = []
    without_limit: bool = False
    starts: date | None = None
    ends: date | None = None
    maintained_until: date | None = None
    keys_wanted: bool = False
    transferable: bool = True
    cost: str = ""
    cost_currency: str = ""
    cost_every: str = ""
    note: str = ""
    organisation: int | None = None
    version: int = 0


class PurchaseIn(Schema):
    day: date
    quantity: int
    price: str
    currency: str = ""
    order: str = ""
    supplier: str = ""


class KeysIn(Schema):
    keys: str
    activations: int | None = None


class KeyDevice(Schema):
    asset: int
    name: str


class LicenceKeyOut(Schema):
    id: int | None
    licence: int | None
    licence_name: str
    product: str
    tail: str
    activations: int | None
    devices: list[KeyDevice]
    problem: str


class KeysOut(Schema):
    keys: list[LicenceKeyOut]


class KeyShown(Schema):
    key: str


class SaidIn(Schema):
    product: str
    assets: list[int]
    says: Literal["", "licence", "exempt", "disputed"]
    licence: int | None = None
    why: str = ""
    until: date | None = None


class NeedIn(Schema):
    product: str
    needed: bool = True


class RecordsIn(Schema):
    file: str


class RecordsOut(Schema):
    fresh: int
    known: int


class CountOut(Schema):
    count: int


@router.get("/licences/metrics", response=list[MetricOut])
def metrics(request: HttpRequest) -> Any:
    """What licences may be counted by, each explained."""
    return licences.metrics()


@router.get("/licences/positions", response=PositionsOut)
def all_positions(request: HttpRequest, as_of: str | None = None) -> Any:
    """How what is owned stands against what is used, the costliest to cure first."""
    return positions.rows(read_dial(as_of))


@router.post("/licences/bundle")
def bundle(request: HttpRequest, as_of: str | None = None) -> HttpResponse:
    """The position of a day as a signed archive, with all it was reckoned from; `tarn verify-position` checks it."""
    name, content = take_away(request.user, read_dial(as_of))
    return HttpResponse(
        content,
        content_type="application/zip",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


@router.get("/licences/positions/{key}", response=WhyOut)
def one_position(request: HttpRequest, key: str, as_of: str | None = None) -> Any:
    """One balance with its working, line by line, its cures, and what nothing covers."""
    found = positions.why(key, read_dial(as_of))
    if found is None:
        raise HttpError(404, "Nothing is owned or used of this on that day.")
    return found


@router.get("/licences", response=list[LicenceRow])
def all_licences(request: HttpRequest, as_of: str | None = None) -> Any:
    """All licences, with how much of each is owned and drawn on."""
    return licences.listed(read_dial(as_of))


@router.post("/licences", response={201: LicenceName})
def enter_licence(request: HttpRequest, body: LicenceIn) -> Any:
    """Enter a licence; what it holds is added by purchases."""
    return Status(201, licence_actions.make_licence(request.user, body.dict()))


@router.get("/licences/keys", response=KeysOut)
def all_keys(request: HttpRequest, as_of: str | None = None) -> Any:
    """Keys entered and found, with the devices each is on and what is wrong with it."""
    return keys.keys(read_dial(as_of))


@router.post("/licences/keys/{number}/show", response=KeyShown)
def show_key(request: HttpRequest, number: int) -> Any:
    """A key in full; that it was looked at is noted."""
    return {"key": or_404(Key, lambda n: key_actions.show_key(request.user, n), number, "key")}


@router.delete("/licences/keys/{number}", response={204: None})
def withdraw_key(request: HttpRequest, number: int) -> Any:
    """Withdraw a key."""
    or_404(Key, lambda n: key_actions.drop_key(request.user, n), number, "key")
    return Status(204, None)


@router.post("/licences/said", response=CountOut)
def say_of(request: HttpRequest, body: SaidIn) -> Any:
    """Say of a product on devices: covered by this licence, exempt, disputed; or take back what was said."""
    return {"count": pin_actions.say(request.user, body.product, body.assets, body.dict(), day_of(None))}


@router.post("/licences/needs", response={204: None})
def needs_licence(request: HttpRequest, body: NeedIn) -> Any:
    """Say that a product may not be used without a licence, or that it may."""
    pin_actions.need(request.user, body.product, body.needed)
    return Status(204, None)


@router.post("/licences/use-records", response=RecordsOut)
def use_records(request: HttpRequest, body: RecordsIn) -> Any:
    """Take in records of use (product, person, device, begins, ends): what concurrent use is reckoned from."""
    fresh, known = take_in_records(request.user, body.file)
    return {"fresh": fresh, "known": known}


@router.delete("/licences/purchases/{number}", response={204: None})
def drop_purchase(request: HttpRequest, number: int) -> Any:
    """Drop a purchase line."""
    or_404(Purchase, lambda n: licence_actions.drop_purchase(request.user, n), number, "purchase")
    return Status(204, None)


@router.get("/licences/{number}", response=LicenceOut)
def one_licence(request: HttpRequest, number: int, as_of: str | None = None) -> Any:
    """One licence with its purchases, and who draws on it by which right."""
    found = licences.opened(number, read_dial(as_of))
    if found is None:
        raise HttpError(404, f"There is no licence {number}.")
    return found


@router.put("/licences/{number}", response=LicenceName)
def change_licence(request: HttpRequest, number: int, body: LicenceIn) -> Any:
    """Change a licence from the version the edit was made from."""
    return or_404(Licence, lambda n: licence_actions.change_licence(request.user, n, body.dict()), number, "licence")


@router.delete("/licences/{number}", response={204: None})
def drop_licence(request: HttpRequest, number: int) -> Any:
    """Drop a licence with its purchases and keys; it can be undone."""
    or_404(Licence, lambda n: licence_actions.drop_licence(request.user, n), number, "licence")
    return Status(204, None)


@router.post("/licences/{number}/purchases", response={201: CountOut})
def add_purchase(request: HttpRequest, number: int, body: PurchaseIn) -> Any:
    """Add a purchase line; a quantity below nothing gives units back."""
    made = or_404(Licence, lambda n: licence_actions.buy(request.user, n, body.dict()), number, "licence")
    return Status(201, {"count": made.quantity})


@router.post("/licences/{number}/keys", response={201: CountOut})
def add_keys(request: HttpRequest, number: int, body: KeysIn) -> Any:
    """Add pasted keys, all or none; what parts them is guessed."""
    made = or_404(
        Licence, lambda n: key_actions.add_keys(request.user, n, body.keys, body.activations), number, "licence"
    )
    return Status(201, {"count": made})
