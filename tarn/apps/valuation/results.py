"""What is told here: the reads return it, the API hands it on as it is."""

from ninja import Schema
from typing_extensions import TypedDict

from tarn.apps.estate.register.results import NamedDevice
from tarn.apps.people.speaking import Words
from tarn.apps.valuation.inputs import ScenarioSettings


class ValuationVersion(Schema):
    version: int


class Sums(TypedDict):
    devices: int
    cost: str
    book: str
    depreciation: str
    contracts: str
    licences: str
    energy: str
    month: str


class MoneyGroup(Sums):
    name: str


class MoneyRow(TypedDict):
    id: int
    name: str | None
    number: str | None
    kind: str | None
    department: str | None
    place: str | None
    bought: str | None
    cost: str | None
    book: str | None
    depreciation: str
    contracts: str
    licences: str
    energy: str
    month: str
    why: Words


class WithoutBook(TypedDict):
    why: Words
    devices: int


class OnNoDevice(TypedDict):
    name: str
    month: str


class MoneyOut(TypedDict):
    day: str
    currency: str
    by: str
    whole: Sums
    groups: list[MoneyGroup]
    rows: list[MoneyRow]
    apart: list[WithoutBook]
    without_rate: list[str]
    loose: list[OnNoDevice]


class RevisionOut(TypedDict):
    day: str
    months_left: int
    residual: str


class TermsOut(TypedDict):
    cost: str
    residual: str
    months: int
    start: str
    method: str
    convention: str
    factor: int
    revisions: list[RevisionOut]


class OwnTerms(TypedDict):
    version: int
    why: Words
    made_by: str


class ScheduleYear(TypedDict):
    year: int
    charge: str
    derecognised: str
    book: str


class ScheduleMonth(TypedDict):
    month: str
    charge: str
    derecognised: str
    book: str


class Parting(TypedDict):
    book: str
    gain: str


class CostLine(TypedDict):
    part: str
    what: Words
    amount: str


class AssetMoneyOut(TypedDict):
    day: str
    currency: str
    by: str
    apart: str
    book: str | None
    terms: TermsOut | None
    own: OwnTerms | None
    years: list[ScheduleYear]
    months: list[ScheduleMonth]
    disposal: Parting | None
    month: list[CostLine]
    total: str


class RuleChangeOut(TypedDict):
    day: str
    months: int
    residual: str


class DepreciationRuleOut(TypedDict):
    id: int
    name: str
    filter: str
    months: int
    residual: str
    method: str
    convention: str
    factor: int
    changes: list[RuleChangeOut]
    version: int
    devices: int
    cost: str
    book: str


class DepreciationRulesOut(TypedDict):
    day: str
    currency: str
    methods: list[str]
    conventions: list[str]
    rules: list[DepreciationRuleOut]
    own: int
    apart: list[WithoutBook]


class EnergyOut(Schema):
    price: float
    kinds: dict[str, list[float]]
    version: int


class ScenarioOut(TypedDict):
    id: int
    name: str
    filter: str
    settings: ScenarioSettings
    made_by: str
    version: int


class QuarterOut(TypedDict):
    name: str
    begins: str
    devices: int
    cost: str
    budget: str | None
    waiting: int


class SideBySide(TypedDict):
    id: int
    name: str
    planned: int
    devices: int
    cost: str
    currency: str
    quarters: list[QuarterOut]


class PlannedKind(TypedDict):
    kind: str
    devices: int
    planned: int
    life: int | None
    price: str | None
    memory: float | None


class PlannedRow(NamedDevice):
    due: str
    quarter: str
    price: str
    why: Words
    moved: bool


class PlannedOut(TypedDict):
    day: str
    currency: str
    devices: int
    planned: int
    cost: str
    moved: int
    unpriced: int
    undated: int
    quarters: list[QuarterOut]
    kinds: list[PlannedKind]
    rows: list[PlannedRow]
    factors: dict[str, Words]
