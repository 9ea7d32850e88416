"""What Today returns and its API hands on."""

from typing import Any, Literal

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words
from tarn.apps.people.wanting import WantGrade
from tarn.core.cards import CardOf, Shown


class WantOut(TypedDict):
    """Something that wants a hand: how many, the sentence after it, what is beside it, and the button with the page it
    leads to. A line that could not be reckoned has no button and says why."""

    key: str
    grade: WantGrade
    count: int
    text: Words
    beside: Words
    button: Words
    to: str
    search: dict[str, str]


class AsideOut(TypedDict):
    """A line somebody put aside: until when; none for what is done until something new comes, or is not for them."""

    key: str
    text: Words
    how: Literal["until", "done", "never"]
    until: str | None


class FirstStepOut(TypedDict):
    """A step on the way to the first sweep."""

    key: str
    text: Words
    done: bool
    to: str


class TodayOut(TypedDict):
    """What wants a hand, the most pressing first, what is put aside, and how many lines were done today; on an
    installation that is still empty the way to the first sweep."""

    wants: list[WantOut]
    aside: list[AsideOut]
    done: int
    first: list[FirstStepOut]


class CardPart(TypedDict):
    """A part of what a card shows: how many, and the question that opens exactly these; `parts`: what it is made of."""

    label: Words
    count: int
    filter: str | None
    parts: list["CardPart"]


class CardPoint(TypedDict):
    """How many it was on a day."""

    day: str
    count: int


class CardColumn(TypedDict):
    name: str
    label: Words
    type: str


class CardAnswer(TypedDict):
    """What a card shows. `trouble`: why it shows nothing; `waits`: it was not come to yet, ask again. `amount`: a
    figure that is no number of things; `before`: how many it was so many days before. `filter` or `report`: what opens
    all of it, as of `at`."""

    key: str
    trouble: Words
    waits: bool
    milliseconds: int
    count: int | None
    amount: float | None
    before: int | None
    whole: int | None
    filter: str | None
    report: str | None
    at: str | None
    parts: list[CardPart]
    points: list[CardPoint]
    columns: list[CardColumn]
    rows: list[list[Any]]
    assets: list[int | None]


class CardOut(TypedDict):
    """A card as it is kept: see `core/cards.py`."""

    key: str
    title: Words
    of: CardOf
    shown: Shown
    filter: str
    whole: str
    report: str
    text: str
    by: str
    and_by: str
    sum: str
    columns: list[str]
    days: int
    at: str
    wide: int
    high: int


class BoardOut(TypedDict):
    """A board with its cards in their order; `ships`: it cannot be changed, only copied. `drawer`: cards that can be
    put on it."""

    key: str
    name: Words
    ships: bool
    mine: bool
    access: str
    role: str
    made_by: str
    version: int
    cards: list[CardOut]
    drawer: list[CardOut]


class BoardsOut(TypedDict):
    """The boards one may look at, and the key of the one that is looked at; `bands`: by what questions are divided."""

    chosen: str
    bands: list[str]
    boards: list[BoardOut]
