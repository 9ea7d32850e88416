"""The shapes of what the licences room takes and answers."""

from typing import Any

from ninja import Schema


class MetricOut(Schema):
    name: str
    unit: str
    text: str
    reads: list[str]
    records: bool


class LicenceName(Schema):
    id: int
    name: str


class ShareOut(Schema):
    name: str
    covered: int
    uncovered: int
    uses: int


class BalanceOut(Schema):
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
    licences: list[LicenceName]
    cure: str | None
    spare_value: str | None
    here: ShareOut | None


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
    anew: int
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


class WhyOut(BalanceOut):
    working: list[WorkingLine]
    cures: list[CureOut]
    uncovered: list[UncoveredOut]
    uncovered_all: int
    left_out: list[LeftOutUse]
    departments: list[ShareOut]
    warnings: list[str]
    spare_idle: int


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
    tags: list[str]


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


class FormerTerms(Schema):
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


class KeysIn(Schema):
    keys: str
    activations: int | None = None


class KeysAdded(Schema):
    count: int
    tails: list[str]
    twice: list[str]


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


class IdleOut(Schema):
    balance: str
    asset: int
    name: str
    person: str
    department: str
    product: str
    release: str
    licence: str
    licence_id: int | None
    why: str
    units: int
    worth: str | None
    currency: str


class WarningOut(Schema):
    sort: str
    text: str
    balance: str
    name: str
    licence: int | None


class RemedyStep(Schema):
    sort: str
    text: str
    why: str
    cost: str | None
    assets: list[int]
    product: str
    licence: int | None


class RemedyOut(Schema):
    day: str
    currency: str
    cost: str
    steps: list[RemedyStep]
    left: int
    unpriced: list[str]


class TrendPoint(Schema):
    day: str
    needed: int
    entitled: int | None
    short: int


class ExpectedLine(Schema):
    sort: str
    name: str
    licence: int | None
    day: str
    amount: str


class NextYearOut(Schema):
    day: str
    until: str
    currency: str
    lines: list[ExpectedLine]
    sums: dict[str, str]
    total: str
    apart: list[str]


class HiredBalance(Schema):
    name: str
    unit: str
    more: int
    short: int
    spare: int
    cost: str | None


class HiredOut(Schema):
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


class ChangedBalance(Schema):
    key: str
    name: str
    unit: str
    needed: list[int]
    entitled: list[int | None]
    short: list[int]
