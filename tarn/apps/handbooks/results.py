"""What is told of handbooks: the reads return it, the API hands it on as it is."""

from typing import Any

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words
from tarn.core.handbooks.differing import Difference
from tarn.core.handbooks.live import Filled


class ShippedOut(TypedDict):
    key: str
    name: Words
    text: Words


class HandbookLine(TypedDict):
    """A handbook in the list; `waits`: an issue waits for a second person."""

    id: int
    name: str
    text: str
    made_by: str
    organisation: str | None
    issued: int
    last: str | None
    waits: bool
    rule: str
    trouble: Words


class HandbooksOut(TypedDict):
    handbooks: list[HandbookLine]
    shipped: list[ShippedOut]


class LiveSettingOut(TypedDict):
    name: str
    label: Words
    kind: str
    needed: bool


class LiveKindOut(TypedDict):
    kind: str
    label: Words
    what: Words
    settings: list[LiveSettingOut]


class IssueLine(TypedDict):
    id: int
    number: int
    at: str
    state: str
    asked_by: str
    decided_by: str
    decided_at: str | None
    why: Words
    changed: int
    unsent: int
    trouble: Words


class HandbookOut(TypedDict):
    id: int
    name: str
    text: str
    document: dict[str, Any]
    place: str
    rule: str
    rule_words: Words
    to: list[str]
    formats: list[str]
    secret: str
    approved: bool
    next_at: str | None
    trouble: Words
    version: int
    issues: list[IssueLine]
    kinds: list[LiveKindOut]
    variables: dict[str, Words]


class IssueOut(IssueLine):
    """An issue with all that was filled in."""

    title: str
    document: dict[str, Any]
    filled: dict[str, Filled]
    variables: dict[str, Words]
    changes: list[Difference]


class StaleHandbook(TypedDict):
    version: int
    document: dict[str, Any]
