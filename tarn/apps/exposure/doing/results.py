"""What reads of proposed changes return and the API hands on."""

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words


class CuredRelease(TypedDict):
    """The release to update to under a system."""

    under: str
    target: str


class ProposedChange(TypedDict):
    """A change that ends something. `verb`: what it does; `product`: to what, in words where it is no product; an
    update is to `target` or later, where that is one for all systems. `rule`: the rule of our own it ends, and `todo`
    how. `ends`: findings by grade that end with it after those before it; `left`: findings open after it. `due`: the
    earliest promised day. `disturbs`: "" where nobody tells. `word`: pin or refuse, where people say so."""

    key: str
    verb: str
    product: str
    todo: Words
    rule: str
    target: str
    targets: list[CuredRelease]
    devices: int
    advisories: int
    names: list[str]
    used: int
    score: float | None
    chance: float | None
    due: str | None
    disturbs: Words
    filter: str
    ends: dict[str, int]
    left: int
    word: str


class WhatToDoFirst(TypedDict):
    """The changes in their order; of `open` findings `stays` end with none of them."""

    open: int
    stays: int
    changes: list[ProposedChange]


class BudgetOut(TypedDict):
    """The best changes for a budget, proved: what they end by grade, and what the plain order ends with as many."""

    keys: list[str]
    ends: dict[str, int]
    in_order: dict[str, int]
    open: int


class RightsOut(TypedDict):
    """Of `of` devices with the product, how many have no right to the release by any licence, and why most often."""

    of: int
    without: int
    why: Words


class WhyNot(TypedDict):
    """Why Tarn cannot make a change itself, and on how many devices that is so."""

    why: Words
    devices: int


class DoableOut(TypedDict):
    """On how many of the devices Tarn can make the change itself, and why not on the others."""

    devices: int
    of: int
    why: list[WhyNot]


class ChangeWordOut(TypedDict):
    """What somebody said of a change."""

    id: int
    word: str
    reason: Words
    made_by: str
    made_at: str


class GivenWorkOut(TypedDict):
    """Work that was given: for how many devices, and on how many of them it is still open by evidence."""

    id: int
    key: str
    what: Words
    how: Words
    person: str
    day: str | None
    late: bool
    reference: str
    words: Words
    devices: int
    open: int
    wrong: Words
    filter: str
    made_by: str
    made_at: str


class DeskName(TypedDict):
    """A service desk that takes tickets in."""

    id: int
    name: str


class ChangeTask(TypedDict):
    """A task on devices that was asked for with this change's filter."""

    id: int
    kind: str
    state: str
    asked_at: str


class ChangePage(TypedDict):
    """A change as a whole: `filter` opens its devices within the selection; `task`: which task makes it, "" for none;
    `ruling`: what the company says of the product; `rights`: null where licences have no say; `measures`: the maker's,
    in its words; what people said of it, what was given, and the tasks asked for."""

    change: ProposedChange
    filter: str
    product_id: int | None
    task: str
    ruling: str
    ruling_why: str
    rights: RightsOut | None
    doable: DoableOut
    measures: list[str]
    desks: list[DeskName]
    words: list[ChangeWordOut]
    given: list[GivenWorkOut]
    tasks: list[ChangeTask]


class ChangeWordId(TypedDict):
    """The number a word on a change was kept under."""

    id: int
