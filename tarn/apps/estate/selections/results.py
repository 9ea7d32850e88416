"""What is told here: the reads return it, the API hands it on as it is."""

from typing import Any

from typing_extensions import TypedDict

from tarn.apps.estate.register.results import NamedDevice
from tarn.apps.people.speaking import Words


class SetOut(TypedDict):
    """A kept set. `members`: what it was made of where that is no filter, numbers picked by hand or address ranges."""

    id: int
    name: str
    kind: str
    filter: str
    members: list[str]
    folder: str
    note: str
    access: str
    made_by: str
    version: int
    count: int


class UseOut(TypedDict):
    what: Words
    name: str
    where: str


class PointOut(TypedDict):
    at: str
    devices: int


class CameAndWentOut(TypedDict):
    since: str
    came: int
    left: int
    stayed: int
    came_rows: list[NamedDevice]
    left_rows: list[NamedDevice]


class SetPageOut(SetOut):
    sentence: Words
    year: list[PointOut]
    uses: list[UseOut]
    moved: CameAndWentOut


class OfferOut(TypedDict):
    text: str
    kind: str
    detail: Words
    start: int


class FieldOut(TypedDict):
    name: str
    type: str
    label: Words
    meaning: Words
    choices: list[str]


class FilterFaces(TypedDict):
    text: str
    tree: dict[str, Any]
    sentence: Words


class ProblemOut(TypedDict):
    id: int
    detail: Words


class WrittenOut(TypedDict):
    text: str
    problems: list[ProblemOut]


class ListColumn(TypedDict):
    name: str
    label: Words
    type: str
    unit: str
    none: str


class ListOut(TypedDict):
    """A list of evidence: what one and many of it are called, and the columns the dossier shows."""

    name: str
    one: Words
    many: Words
    heading: Words
    columns: list[ListColumn]


class RegistryOut(TypedDict):
    """The fields that can be asked for: those of assets, those of lists in brackets, and the types they have."""

    fields: list[FieldOut]
    groups: dict[str, list[FieldOut]]
    types: dict[str, Words]
    lists: list[ListOut]
    bands: list[str]


class ViewOut(TypedDict):
    name: str
    meaning: Words
    columns: list[str]
