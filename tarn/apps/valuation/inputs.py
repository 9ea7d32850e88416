"""What people say when they make or change something here; the API reads it, actions take it."""

from ninja import Schema

from tarn.apps.people.answers import Day


class RevisionIn(Schema):
    day: Day
    months_left: int
    residual: str = ""


class TermsIn(Schema):
    cost: str
    start: Day | None = None
    months: int
    residual: str = ""
    method: str = "straight line"
    convention: str = "full month"
    factor: int = 200
    revisions: list[RevisionIn] = []
    why: str = ""
    version: int = 0


class RuleChangeIn(Schema):
    day: Day
    months: int
    residual: str = ""


class DepreciationRuleIn(Schema):
    name: str
    filter: str = ""
    months: int
    residual: str = ""
    method: str = "straight line"
    convention: str = "full month"
    factor: int = 200
    changes: list[RuleChangeIn] = []
    organisation: int | None = None
    version: int = 0


class EnergyIn(Schema):
    price: str
    kinds: dict[str, tuple[float, float]]
    version: int


class ScenarioSettings(Schema):
    life: dict[str, int | None] = {}
    price: dict[str, str | None] = {}
    memory: dict[str, float | None] = {}
    earlier: dict[str, int | None] = {}
    budgets: list[str | None] = [None]
    quarters: int = 8


class ScenarioIn(Schema):
    name: str
    filter: str = ""
    settings: ScenarioSettings
    organisation: int | None = None
    version: int = 0


class RefreshIn(Schema):
    filter: str = ""
    settings: ScenarioSettings
    beside: int | None = None
    most: int = 200
