"""What people say to Today."""

from typing import Any, Literal

from ninja import Field, Schema

from tarn.apps.people.answers import Day


class AsideIn(Schema):
    """Which line to put aside, and how; `until`: from which day on it is shown again."""

    key: str = Field(max_length=60)
    how: Literal["until", "done", "never"]
    until: Day | None = None


class BoardIn(Schema):
    """A board: its name, its cards in their order, those in its drawer, who sees it, and whose it is by role."""

    name: str = Field(max_length=200)
    cards: list[dict[str, Any]] = Field(max_length=100)
    drawer: list[dict[str, Any]] = Field(default_factory=list, max_length=200)
    access: Literal["all", "read", "own"] = "own"
    role: str = Field(default="", max_length=20)
    version: int | None = None
    organisation: int | None = None


class CardsIn(Schema):
    """The cards to answer, as of a day."""

    cards: list[dict[str, Any]] = Field(max_length=100)
    as_of: str | None = None


class ChosenIn(Schema):
    """The board to look at, by its key."""

    board: str = Field(max_length=40)
