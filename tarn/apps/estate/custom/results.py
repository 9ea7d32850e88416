"""What is told here: the reads return it, the API hands it on as it is."""

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words


class OwnFieldOut(TypedDict):
    id: int
    name: str
    type: str
    unit: str
    choices: list[str]
    help: Words
    group: str
    required: bool
    kinds: list[str]
    position: int
    many: bool
    template: str
    listed: bool
    version: int
    filled: int


class OwnKindOut(TypedDict):
    id: int | None
    name: str
    parent: str
    icon: str
    names: dict[str, str]
    hidden: list[str]
    version: int
    assets: int
    fields: list[str]


class OwnOverview(TypedDict):
    kinds: list[OwnKindOut]
    fields: list[OwnFieldOut]


class OwnOut(OwnOverview):
    types: dict[str, Words]
