"""The licences room over HTTP: thin; parse, call, shape."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Router, Status
from ninja.errors import HttpError

from tarn.apps.estate.asking.dial import day_of, read_dial
from tarn.apps.licences.actions import keys as key_actions
from tarn.apps.licences.actions import licences as licence_actions
from tarn.apps.licences.actions import pins as pin_actions
from tarn.apps.licences.actions.bundles import take_away
from tarn.apps.licences.actions.records import take_in_records
from tarn.apps.licences.inputs import KeysIn, LicenceIn, NeedIn, PurchaseIn, RecordsIn, SaidIn
from tarn.apps.licences.models import Key, Licence, Purchase
from tarn.apps.licences.reads import judging, keys, licences, outlook, positions
from tarn.apps.licences.reads.remedying import remedied
from tarn.apps.licences.results import (
    ChangedBalance,
    CountOut,
    HiredOut,
    IdleOut,
    KeysAdded,
    KeyShown,
    KeysOut,
    LicenceName,
    LicenceOut,
    LicenceRow,
    MetricOut,
    NextYearOut,
    PositionsOut,
    PurchaseLine,
    RecordsOut,
    RemedyOut,
    TrendPoint,
    WarningOut,
    WhyOut,
)
from tarn.apps.people.answers import Day, or_404

router = Router(tags=["licences"])


@router.get("/licences/metrics", response=list[MetricOut])
def metrics(request: HttpRequest) -> list[MetricOut]:
    """What licences may be counted by, each explained."""
    return licences.metrics()


@router.get("/licences/positions", response=PositionsOut)
def all_positions(request: HttpRequest, as_of: str | None = None) -> PositionsOut:
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
def one_position(request: HttpRequest, key: str, as_of: str | None = None) -> WhyOut:
    """One balance with its working, line by line, its cures, and what nothing covers."""
    why = positions.why(key, read_dial(as_of))
    if why is None:
        raise HttpError(404, "Nothing is owned or used of this on that day.")
    return why


@router.get("/licences/positions/{key}/trend", response=list[TrendPoint])
def position_trend(request: HttpRequest, key: str, as_of: str | None = None) -> list[TrendPoint]:
    """How need and right of a balance stood on days of the past year."""
    if positions.why(key, read_dial(as_of)) is None:
        raise HttpError(404, "Nothing is owned or used of this on that day.")
    return outlook.trend(key, read_dial(as_of))


@router.get("/licences/changes", response=list[ChangedBalance])
def changes(request: HttpRequest, since: Day, as_of: str | None = None) -> list[ChangedBalance]:
    """The balances that stood otherwise at the end of a day."""
    return outlook.changed_since(since, read_dial(as_of))


@router.get("/licences/remedy", response=RemedyOut)
def remedy(request: HttpRequest, as_of: str | None = None, free: bool = True) -> RemedyOut:
    """The cheapest way to put every shortfall right at once, as steps to take."""
    return remedied(read_dial(as_of), free)


@router.get("/licences/idle", response=list[IdleOut])
def all_idle(request: HttpRequest, as_of: str | None = None) -> list[IdleOut]:
    """Installations that could be given up: the holder has left, or nobody has used them for long."""
    return judging.idle(read_dial(as_of))


@router.get("/licences/warnings", response=list[WarningOut])
def all_warnings(request: HttpRequest, as_of: str | None = None) -> list[WarningOut]:
    """What is wrong with licences and keys, or about to be."""
    return judging.warnings(read_dial(as_of))


@router.get("/licences/purchases", response=list[PurchaseLine])
def all_purchases(request: HttpRequest, as_of: str | None = None) -> list[PurchaseLine]:
    """All purchase lines, the latest first."""
    return outlook.purchases(read_dial(as_of))


@router.get("/licences/next-year", response=NextYearOut)
def next_year(request: HttpRequest, as_of: str | None = None) -> NextYearOut:
    """What licences will cost within a year: payments, renewals, and what is short."""
    return outlook.next_year(read_dial(as_of))


@router.get("/licences/hired", response=HiredOut)
def if_hired(request: HttpRequest, department: str, number: int, as_of: str | None = None) -> HiredOut:
    """What it takes if a department hires so many."""
    try:
        return outlook.hired(department, number, read_dial(as_of))
    except ValueError as wrong:
        raise HttpError(422, str(wrong)) from None


@router.get("/licences", response=list[LicenceRow])
def all_licences(request: HttpRequest, as_of: str | None = None) -> list[LicenceRow]:
    """All licences, with how much of each is owned and drawn on."""
    return licences.listed(read_dial(as_of))


@router.post("/licences", response={201: LicenceName})
def enter_licence(request: HttpRequest, body: LicenceIn) -> Any:
    """Enter a licence; what it holds is added by purchases."""
    return Status(201, licence_actions.make_licence(request.user, body))


@router.get("/licences/keys", response=KeysOut)
def all_keys(request: HttpRequest, as_of: str | None = None) -> KeysOut:
    """Keys entered and found, with the devices each is on and what is wrong with it."""
    return keys.keys(read_dial(as_of))


@router.post("/licences/keys/{number}/show", response=KeyShown)
def show_key(request: HttpRequest, number: int) -> KeyShown:
    """A key in full; that it was looked at is noted."""
    return {"key": or_404(Key, lambda n: key_actions.show_key(request.user, n), number, "key")}


@router.delete("/licences/keys/{number}", response={204: None})
def withdraw_key(request: HttpRequest, number: int) -> Any:
    """Withdraw a key."""
    or_404(Key, lambda n: key_actions.drop_key(request.user, n), number, "key")
    return Status(204, None)


@router.post("/licences/said", response=CountOut)
def say_of(request: HttpRequest, body: SaidIn) -> CountOut:
    """Say of a product on devices: covered by this licence, exempt, disputed; or take back what was said."""
    return {"count": pin_actions.say(request.user, body, day_of(None))}


@router.post("/licences/needs", response={204: None})
def needs_licence(request: HttpRequest, body: NeedIn) -> Any:
    """Say that a product may not be used without a licence, or that it may."""
    pin_actions.need(request.user, body.product, body.needed)
    return Status(204, None)


@router.post("/licences/use-records", response=RecordsOut)
def use_records(request: HttpRequest, body: RecordsIn) -> RecordsOut:
    """Take in records of use (product, person, device, begins, ends): what concurrent use is reckoned from."""
    fresh, known = take_in_records(request.user, body.file)
    return {"fresh": fresh, "known": known}


@router.delete("/licences/purchases/{number}", response={204: None})
def drop_purchase(request: HttpRequest, number: int) -> Any:
    """Drop a purchase line."""
    or_404(Purchase, lambda n: licence_actions.drop_purchase(request.user, n), number, "purchase")
    return Status(204, None)


@router.get("/licences/{number}", response=LicenceOut)
def one_licence(request: HttpRequest, number: int, as_of: str | None = None) -> LicenceOut:
    """One licence with its purchases, and who draws on it by which right."""
    licence = licences.opened(number, read_dial(as_of))
    if licence is None:
        raise HttpError(404, f"There is no licence {number}.")
    return licence


@router.put("/licences/{number}", response=LicenceName)
def change_licence(request: HttpRequest, number: int, body: LicenceIn) -> Any:
    """Change a licence from the version the edit was made from."""
    return or_404(Licence, lambda n: licence_actions.change_licence(request.user, n, body), number, "licence")


@router.delete("/licences/{number}", response={204: None})
def drop_licence(request: HttpRequest, number: int) -> Any:
    """Drop a licence with its purchases and keys; it can be undone."""
    or_404(Licence, lambda n: licence_actions.drop_licence(request.user, n), number, "licence")
    return Status(204, None)


@router.post("/licences/{number}/purchases", response={201: CountOut})
def add_purchase(request: HttpRequest, number: int, body: PurchaseIn) -> Any:
    """Add a purchase line; a quantity below nothing gives units back."""
    made = or_404(Licence, lambda n: licence_actions.buy(request.user, n, body), number, "licence")
    return Status(201, {"count": made.quantity})


@router.post("/licences/{number}/keys", response={201: KeysAdded})
def add_keys(request: HttpRequest, number: int, body: KeysIn) -> Any:
    """Add pasted keys, parted by whatever parts them; says what was taken and what came twice."""
    made = or_404(
        Licence, lambda n: key_actions.add_keys(request.user, n, body.keys, body.activations), number, "licence"
    )
    return Status(201, made)
