"""Cards of boards: a question or a report, and how it is shown. Data, so that boards can be kept, copied and shared."""

from typing import Annotated, Literal, get_args

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

CardOf = Literal["question", "report", "text"]
Shown = Literal["figure", "bars", "ring", "stacked", "heat", "line", "list", "map", "text"]
SHOWN: dict[CardOf, tuple[Shown, ...]] = {
    "question": ("figure", "bars", "ring", "stacked", "heat", "line", "list", "map"),
    "report": ("figure", "bars", "ring", "list"),
    "text": ("text",),
}
"""How each sort of card may be shown."""
BY_TWO: tuple[Shown, ...] = ("stacked", "heat")
BY_ONE: tuple[Shown, ...] = ("bars", "ring", *BY_TWO)
WIDEST, HIGHEST = 4, 3
MOST_CARDS, MOST_POINTS = 30, 13
"""Points of a line: as many days, evenly apart, the last of them the day asked of."""
DAY = 86_400

assert {s for of in SHOWN.values() for s in of} == set(get_args(Shown))


class CardError(ValueError):
    """A card that cannot be; `field` says what is wrong with it."""

    def __init__(self, field: str, message: str) -> None:
        self.field = field
        super().__init__(message)


class Card(BaseModel):
    """A card. `of`: a question (`filter`), a report (by its key) or words (`text`). `by` and `and_by`: what a
    question's parts are by, or the column a report's lines are counted by; `sum`: the column that a figure adds up.
    `whole`: the question a ring's share is of. `days`: how far back a trend or a comparison goes. `at`: the day it is
    pinned to (ISO 8601), else the day the board is asked of. `wide` and `high`: in fields of the board."""

    model_config = ConfigDict(extra="forbid")

    key: Annotated[str, StringConstraints(min_length=1, max_length=60, pattern=r"^[\w.:-]+$")]
    title: Annotated[str, StringConstraints(max_length=80)] = ""
    of: CardOf = "question"
    shown: Shown = "figure"
    filter: Annotated[str, StringConstraints(max_length=4_000)] = ""
    whole: Annotated[str, StringConstraints(max_length=4_000)] = ""
    report: Annotated[str, StringConstraints(max_length=40)] = ""
    text: Annotated[str, StringConstraints(max_length=4_000)] = ""
    by: Annotated[str, StringConstraints(max_length=80)] = ""
    and_by: Annotated[str, StringConstraints(max_length=80)] = ""
    sum: Annotated[str, StringConstraints(max_length=80)] = ""
    columns: Annotated[list[Annotated[str, StringConstraints(max_length=80)]], Field(max_length=6)] = []
    days: Annotated[int, Field(ge=1, le=730)] = 90
    at: Annotated[str, StringConstraints(max_length=30)] = ""
    wide: Annotated[int, Field(ge=1, le=WIDEST)] = 1
    high: Annotated[int, Field(ge=1, le=HIGHEST)] = 1


def checked(card: Card) -> Card:
    """Return a card that hangs together. Raises CardError naming what does not."""
    if card.shown not in SHOWN[card.of]:
        raise CardError("shown", f"A {card.of} is shown as one of: {', '.join(SHOWN[card.of])}.")
    if card.of == "report" and not card.report:
        raise CardError("report", "Say which report.")
    if card.of == "text" and not card.text.strip():
        raise CardError("text", "A card of words needs some.")
    share = card.shown == "ring" and card.of == "question" and card.whole
    if card.shown in BY_ONE and not card.by and not share:
        raise CardError("by", "Say by what it is divided.")
    if card.shown in BY_TWO and not card.and_by:
        raise CardError("and_by", "Say by what else it is divided.")
    return card


def days_of(until: int, days: int) -> list[int]:
    """Return the moments of a line that ends at one: as many as there are points, or days where those are fewer. Those
    before the last are beginnings of days, so that what was reckoned of them serves all day."""
    points = min(MOST_POINTS, days + 1)
    evenly = (until - round(days * DAY * n / (points - 1)) for n in range(points - 1, 0, -1))
    return [*(moment - moment % DAY for moment in evenly), until]
