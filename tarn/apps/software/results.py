"""What is told here: the reads return it, the API hands it on as it is."""

from typing_extensions import TypedDict

from tarn.apps.estate.register.results import NamedDevice
from tarn.apps.estate.software.results import ListedOut, ProductFigures, ReleaseFigures, WeekOut
from tarn.apps.people.speaking import Words


class ProductRow(ProductFigures):
    verdict: str
    mixed: bool
    why: Words


class OverviewOut(TypedDict):
    products: list[ProductRow]
    devices: int
    hidden: int


class ReleaseOut(ReleaseFigures):
    verdict: str


class ProductOut(TypedDict):
    id: int
    name: str
    publisher: str
    devices: int
    releases: list[ReleaseOut]
    listed: list[ListedOut]
    year: list[WeekOut]
    verdict: str
    why: Words


class WaveOut(TypedDict):
    product: int | None
    thing: str
    verb: str
    before: list[str]
    after: str | None
    devices: int
    days: list[int]
    looks_like: Words
    first: str
    last: str
    verdict: str
    assets: list[int]
    numbers: list[str]


class WavesOut(TypedDict):
    waves: list[WaveOut]
    changes: int
    since: str
    until: str


class SoftwareRulingOut(TypedDict):
    id: int
    subject: str
    name: str
    low: str
    high: str
    department: str
    verdict: str
    until: int | None
    over: bool
    why: Words
    review_at: int | None
    begins: int
    ends: int | None
    made_by: str
    words: Words
    products: list[str]


class RuledOut(TypedDict):
    made: int


class ConditionOut(TypedDict):
    name: str
    filter: str
    sentence: Words
    lacking: str
    never: str
    have: int
    lack: int
    unread: int


class LackingOut(NamedDevice):
    lacks: list[str]
    unread: list[str]


class BaselineResult(TypedDict):
    devices: int
    whole: int
    lack: int
    unread: int
    rules: list[ConditionOut]
    rows: list[LackingOut]


class BaselineOut(BaselineResult):
    id: int
    name: str
    filter: str
    version: int
