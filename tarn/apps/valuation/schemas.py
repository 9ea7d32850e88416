"""The shapes of what is asked of and answered by the calls on worth and cost."""

from ninja import Schema

from tarn.apps.valuation.inputs import ScenarioSettings


class ValuationVersion(Schema):
    version: int


class Sums(Schema):
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


class MoneyRow(Schema):
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
    why: str


class WithoutBook(Schema):
    why: str
    devices: int


class OnNoDevice(Schema):
    name: str
    month: str


class MoneyOut(Schema):
    day: str
    currency: str
    by: str
    whole: Sums
    groups: list[MoneyGroup]
    rows: list[MoneyRow]
    apart: list[WithoutBook]
    without_rate: list[str]
    loose: list[OnNoDevice]


class RevisionOut(Schema):
    day: str
    months_left: int
    residual: str


class TermsOut(Schema):
    cost: str
    residual: str
    months: int
    start: str
    method: str
    convention: str
    factor: int
    revisions: list[RevisionOut]


class OwnTerms(Schema):
    version: int
    why: str
    made_by: str


class ScheduleYear(Schema):
    year: int
    charge: str
    derecognised: str
    book: str


class ScheduleMonth(Schema):
    month: str
    charge: str
    derecognised: str
    book: str


class Parting(Schema):
    book: str
    gain: str


class CostLine(Schema):
    part: str
    what: str
    amount: str


class AssetMoneyOut(Schema):
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


class RuleChangeOut(Schema):
    day: str
    months: int
    residual: str


class DepreciationRuleOut(Schema):
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


class DepreciationRulesOut(Schema):
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


class ScenarioOut(Schema):
    id: int
    name: str
    filter: str
    settings: ScenarioSettings
    made_by: str
    version: int


class RefreshIn(Schema):
    filter: str = ""
    settings: ScenarioSettings
    beside: int | None = None
    most: int = 200


class QuarterOut(Schema):
    name: str
    begins: str
    devices: int
    cost: str
    budget: str | None
    waiting: int


class SideBySide(Schema):
    id: int
    name: str
    planned: int
    devices: int
    cost: str
    currency: str
    quarters: list[QuarterOut]


class PlannedKind(Schema):
    kind: str
    devices: int
    planned: int
    life: int | None
    price: str | None
    memory: float | None


class PlannedRow(Schema):
    id: int
    name: str | None
    number: str | None
    kind: str | None
    place: str | None
    department: str | None
    due: str
    quarter: str
    price: str
    why: str
    moved: bool


class PlannedOut(Schema):
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
    factors: dict[str, str]
