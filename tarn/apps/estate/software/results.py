"""What is told here: the reads return it, the API hands it on as it is."""

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words


class ChangedOut(TypedDict):
    changed: int


class RenamedOut(TypedDict):
    name: str
    before: str
    after: str


class ProductFigures(TypedDict):
    """A product over a selection: devices, `before` those a while earlier, releases."""

    id: int
    name: str
    publisher: str
    devices: int
    before: int
    releases: int
    newest: str
    role: str
    first_seen: str | None


class ReleaseFigures(TypedDict):
    version: str
    devices: int
    since: str | None
    newest: bool


class ListedOut(TypedDict):
    name: str
    publisher: str
    role: str
    edition: str
    arch: str
    language: str
    understood: bool
    why: list[Words]
    devices: int


class WeekOut(TypedDict):
    at: str
    devices: int


class ProductSpread(TypedDict):
    """One product over a selection: its releases, the names it is listed under, its year."""

    id: int
    name: str
    publisher: str
    devices: int
    releases: list[ReleaseFigures]
    listed: list[ListedOut]
    year: list[WeekOut]


class NamelessOut(TypedDict):
    """A listed name that no rule makes sense of, and why not."""

    name: str
    publisher: str
    devices: int
    why: list[Words]


class AdministratorOut(TypedDict):
    name: str
    kind: str
    person: str
    members: list[str]
    devices: int
    filter: str
    approved: bool


class AdministratorsOut(TypedDict):
    rows: list[AdministratorOut]
    phrase: str
    devices: int
    unread: int


class FigureOut(TypedDict):
    """A number of devices and the filter that opens them."""

    devices: int
    filter: str


class ProtectionStateOut(FigureOut):
    label: Words


class ProtectionProductOut(TypedDict):
    name: str
    there: FigureOut
    on: FigureOut
    current: FigureOut


class ProtectionOut(TypedDict):
    devices: int
    states: list[ProtectionStateOut]
    none: FigureOut
    unread: FigureOut
    two: FigureOut
    products: list[ProtectionProductOut]
