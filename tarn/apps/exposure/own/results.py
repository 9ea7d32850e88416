"""What reads of our own rules return and the API hands on."""

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words


class OwnRuleOut(TypedDict):
    """A rule, and what it finds on a selection: `devices` now, `late` of them past their promise; `since`: since when
    the first of them is open. `wrong`: what is wrong with its filter by now; `sentence`: the filter in English."""

    id: int
    name: Words
    filter: str
    sentence: Words
    wrong: Words
    grade: str
    days: int | None
    promised: int | None
    verb: str
    what: Words
    todo: Words
    shipped: bool
    in_force: bool
    made_by: str
    made_at: str
    version: int
    devices: int
    late: int
    since: str | None
    opens: str


class OwnRulesOut(TypedDict):
    """The rules, those that find most of the gravest first, and the words a change of one may begin with."""

    rules: list[OwnRuleOut]
    verbs: list[str]
    grades: list[str]


class OwnRuleTriedOut(TypedDict):
    """What a filter would find now, and a few of the devices."""

    devices: int
    of: int
    sentence: Words
    names: list[str]
