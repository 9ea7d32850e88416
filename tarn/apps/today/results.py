"""What Today returns and its API hands on."""

from typing import Literal

from typing_extensions import TypedDict

from tarn.apps.people.wanting import WantGrade


class WantOut(TypedDict):
    """Something that wants a hand: how many, the sentence after it, what is beside it, and the button with the page it
    leads to. A line that could not be reckoned has no button and says why."""

    key: str
    grade: WantGrade
    count: int
    text: str
    beside: str
    button: str
    to: str
    search: dict[str, str]


class AsideOut(TypedDict):
    """A line somebody put aside: until when; none for what is done until something new comes, or is not for them."""

    key: str
    text: str
    how: Literal["until", "done", "never"]
    until: str | None


class FirstStepOut(TypedDict):
    """A step on the way to the first sweep."""

    key: str
    text: str
    done: bool
    to: str


class TodayOut(TypedDict):
    """What wants a hand, the most pressing first, what is put aside, and how many lines were done today; on an
    installation that is still empty the way to the first sweep."""

    wants: list[WantOut]
    aside: list[AsideOut]
    done: int
    first: list[FirstStepOut]
