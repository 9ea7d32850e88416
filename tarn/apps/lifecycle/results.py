"""What is told here: the reads return it, the API hands it on as it is."""

from ninja import Schema
from typing_extensions import TypedDict

from tarn.apps.estate.papers.results import PaperOut
from tarn.apps.estate.register.results import NamedDevice
from tarn.apps.people.answers import Day
from tarn.apps.people.speaking import Words


class ContractRow(TypedDict):
    id: int
    name: str
    provider: str
    kind: str
    number: str
    state: str
    starts: str
    ends: str | None
    notice_by: str | None
    days_left: int | None
    notice_days: int | None
    renews: int
    times: int
    cost: str | None
    currency: str
    every: str
    covers: str
    devices: int
    decided: str


class CoveredName(TypedDict):
    name: str
    there: bool


class DecidedOut(TypedDict):
    at: int
    who: str
    verb: str
    why: Words


class FormerOut(TypedDict):
    """What was agreed before, up to a day."""

    until: str
    provider: str
    cost: str | None
    currency: str
    every: str


class ContractOut(ContractRow):
    agreed_until: str | None
    notice: int
    notices: list[int]
    first_payment: str | None
    note: str
    version: int
    assets: list[NamedDevice]
    gone: list[NamedDevice]
    licences: list[CoveredName]
    people: list[CoveredName]
    former: list[FormerOut]
    history: list[DecidedOut]


class ContractName(Schema):
    id: int
    name: str


class EndingOut(TypedDict):
    stream: str
    name: str
    day: str
    path: str
    count: int | None
    notice_by: str | None
    missed: bool
    decided: str
    goes_on: bool
    over: bool


class RiverOut(TypedDict):
    day: str
    since: str
    months: list[str]
    streams: list[str]
    endings: list[EndingOut]
    first_notice: EndingOut | None


class PaymentOut(TypedDict):
    name: str
    what: Words
    path: str
    day: str
    amount: str
    currency: str
    own: str | None
    renewal: bool


class MonthOut(TypedDict):
    month: str
    total: str
    currencies: dict[str, str]
    payments: list[PaymentOut]


class CashOut(TypedDict):
    currency: str
    months: list[MonthOut]
    total: str
    apart: list[str]


class OrderLineOut(TypedDict):
    id: int
    kind: str
    manufacturer: str
    model: str
    quantity: int
    received: int
    price: str
    currency: str
    warranty: int
    cost_centre: str
    last: str | None


class OrderOut(TypedDict):
    id: int
    number: str
    supplier: str
    day: str
    expected: str | None
    open: bool
    late: bool
    note: str
    lines: list[OrderLineOut]


class OrderName(Schema):
    id: int
    number: str


class ReceivedOut(TypedDict):
    assets: list[int]


class FeedOut(TypedDict):
    path: str


class SupportEndOut(TypedDict):
    id: int
    name: str
    release: str
    day: Day | None
    released: Day | None


class SupportEndsTaken(TypedDict):
    taken: int


class BookVersion(Schema):
    version: int


class AcknowledgeAt(TypedDict):
    asset: int
    path: str


class StepDone(TypedDict):
    assets: int
    entry: int
    acknowledge: list[AcknowledgeAt]


class HandOverOut(TypedDict):
    id: int
    asset: int
    name: str | None
    number: str | None
    kind: str | None
    serial: str | None
    model: str | None
    person: str
    department: str
    place: str
    receiver: str
    lent: bool
    given_at: str
    given_by: str
    due: str | None
    overdue: int
    acknowledged_at: str | None
    acknowledged_by: str
    left: bool


class StepTakenOut(TypedDict):
    anchor: str
    step: str
    begins: str
    to: str
    at: str
    who: str
    why: Words
    method: str
    erasure: str
    proceeds: str | None
    costs: str | None
    currency: str
    receiver: str
    due: str | None
    acknowledged_at: str | None
    returned_at: str | None
    condition: str


class StepWithPapers(StepTakenOut):
    papers: list[PaperOut]


class CoverRow(TypedDict):
    name: str
    who: str
    begins: str | None
    ends: str | None
    level: str
    claim: str
    holds: bool


class CoverOut(TypedDict):
    in_cover: bool
    says: Words
    until: str | None
    days_left: int | None
    conflict: Words
    covers: list[CoverRow]


class StockGroup(TypedDict):
    kind: str
    manufacturer: str
    model: str
    place: str
    number: int
    bought: int
    warranty: str | None
    filter: str


class ComingLine(TypedDict):
    order: str
    supplier: str
    expected: str | None
    late: bool
    kind: str
    manufacturer: str
    model: str
    number: int


class StockOut(TypedDict):
    total: int
    lying: list[StockGroup]
    coming: list[ComingLine]


class EntryOut(TypedDict):
    entry: int


class AcknowledgePath(TypedDict):
    path: str


class ToAcknowledge(TypedDict):
    name: str
    number: str
    kind: str
    serial: str
    model: str
    receiver: str
    given_by: str
    given_on: str
    due: str | None
    done: bool
    acknowledged_by: str
