"""What is told here: the reads return it, the API hands it on as it is."""

from typing import Any

from ninja import Schema
from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words


class MetricOut(TypedDict):
    name: str
    unit: str
    text: Words
    reads: list[str]
    records: bool


class LicenceName(Schema):
    id: int
    name: str


class LicenceRef(TypedDict):
    id: int
    name: str


class ShareOut(TypedDict):
    name: str
    covered: int
    uncovered: int
    uses: int


class BalanceOut(TypedDict):
    key: str
    name: str
    products: list[str]
    organisation: str
    metric: str
    unit: str
    pack: int
    needed: int
    entitled: int | None
    assigned: int
    short: int
    spare: int
    installations: int
    licences: list[LicenceRef]
    cure: str | None
    spare_value: str | None
    here: ShareOut | None


class PositionsOut(TypedDict):
    day: str
    currency: str
    balances: list[BalanceOut]
    cure: str
    uncosted: int
    spare_value: str
    ending: int


class WorkingLine(TypedDict):
    sign: str
    figure: int
    text: Words
    note: Words


class FreeOut(TypedDict):
    asset: int
    name: str
    why: Words
    person: str


class CureOut(TypedDict):
    free: list[FreeOut]
    freed: int
    buy: int
    packs: int
    price: str | None
    cost: str | None
    anew: int
    decides: bool


class NotCovered(TypedDict):
    licence: str
    reason: Words


class UncoveredOut(TypedDict):
    asset: int
    name: str
    person: str
    product: str
    release: str
    since: str
    reasons: list[NotCovered]


class LeftOutUse(TypedDict):
    asset: int
    name: str
    reason: Words
    product: str


class WhyOut(BalanceOut):
    working: list[WorkingLine]
    cures: list[CureOut]
    uncovered: list[UncoveredOut]
    uncovered_all: int
    left_out: list[LeftOutUse]
    departments: list[ShareOut]
    warnings: list[Words]
    spare_idle: int


class LicenceRow(TypedDict):
    id: int
    name: str
    publisher: str
    metric: str
    unit: str
    products: list[str]
    quantity: int | None
    used: int
    price: str | None
    paid: int
    starts: str | None
    ends: str | None
    maintained_until: str | None
    in_force: bool
    unknown: list[str]
    tags: list[str]


class PurchaseOut(TypedDict):
    id: int
    day: str
    quantity: int
    price: str
    currency: str
    order: str
    supplier: str
    counts: bool


class CoveredUse(TypedDict):
    asset: int
    name: str
    person: str
    product: str
    release: str
    right: Words
    pinned: bool


class BearerOut(TypedDict):
    units: int
    text: Words
    uses: list[CoveredUse]


class FormerTerms(TypedDict):
    until: str
    terms: dict[str, Any]


class LicenceOut(LicenceRow):
    records: bool
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
    edition: str
    shared: bool
    cost: str
    cost_currency: str
    cost_every: str
    note: str
    extra: dict[str, str]
    former: list[FormerTerms]
    version: int
    purchases: list[PurchaseOut]
    bearers: list[BearerOut]
    bearers_all: int


class KeysAdded(TypedDict):
    """What was taken of pasted keys: how many, the ends by which they are known again, and those that came twice or
    were there already, by their place and end."""

    count: int
    tails: list[str]
    twice: list[str]


class KeyDevice(TypedDict):
    asset: int
    name: str


class LicenceKeyOut(TypedDict):
    id: int | None
    licence: int | None
    licence_name: str
    product: str
    tail: str
    activations: int | None
    devices: list[KeyDevice]
    problem: Words


class KeysOut(TypedDict):
    keys: list[LicenceKeyOut]


class KeyShown(TypedDict):
    key: str


class RecordsOut(TypedDict):
    fresh: int
    known: int


class CountOut(TypedDict):
    count: int


class IdleOut(TypedDict):
    balance: str
    asset: int
    name: str
    person: str
    department: str
    product: str
    release: str
    licence: str
    licence_id: int | None
    why: Words
    units: int
    worth: str | None
    currency: str


class WarningOut(TypedDict):
    sort: str
    text: Words
    balance: str
    name: str
    licence: int | None


class RemedyStep(TypedDict):
    sort: str
    text: Words
    why: Words
    cost: str | None
    assets: list[int]
    product: str
    licence: int | None


class RemedyOut(TypedDict):
    day: str
    currency: str
    cost: str
    steps: list[RemedyStep]
    left: int
    unpriced: list[str]


class TrendPoint(TypedDict):
    day: str
    needed: int
    entitled: int | None
    short: int


class ExpectedLine(TypedDict):
    sort: str
    name: str
    licence: int | None
    day: str
    amount: str


class NextYearOut(TypedDict):
    day: str
    until: str
    currency: str
    lines: list[ExpectedLine]
    sums: dict[str, str]
    total: str
    apart: list[str]


class HiredBalance(TypedDict):
    name: str
    unit: str
    more: int
    short: int
    spare: int
    cost: str | None


class HiredOut(TypedDict):
    department: str
    number: int
    currency: str
    products: list[str]
    balances: list[HiredBalance]
    cost: str


class PurchaseLine(PurchaseOut):
    licence: int
    name: str
    total: str | None


class ChangedBalance(TypedDict):
    key: str
    name: str
    unit: str
    needed: list[int]
    entitled: list[int | None]
    short: list[int]
