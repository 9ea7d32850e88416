"""What people say of advisories and findings; the API reads it, actions take it."""

from typing import Any, Literal

from ninja import Schema


class OwnWordIn(Schema):
    """That a release is not affected after all. `thing`: the one it was met at; `reach`: how far the word goes."""

    advisory: str
    thing: int
    reach: Literal["release", "product", "advisory"] = "release"
    justification: Literal[
        "component_not_present",
        "vulnerable_code_not_present",
        "vulnerable_code_not_in_execute_path",
        "vulnerable_code_cannot_be_controlled_by_adversary",
        "inline_mitigations_already_exist",
    ] = "vulnerable_code_not_present"
    reason: str


class AcceptanceIn(Schema):
    """That what is open to an advisory, or to a rule of our `own`, is accepted until a day: on the devices a filter
    asks for, of one product where it is named."""

    advisory: str
    own: bool = False
    product: str = ""
    filter: str = ""
    until: str
    reason: str


class OutsideNameIn(Schema):
    """What a product is called outside: a key that was proposed, a CPE 2.3 name or a package URL; empty: nobody outside
    knows it."""

    product: str
    maker: str = ""
    name: str = ""


class PolicyIn(Schema):
    """How findings are graded: the tree as nested questions and grades; days promised by grade, null for no promise;
    whether only working days count, and which days off do not. `version`: of the policy it was made from."""

    tree: dict[str, Any] | str
    days: dict[str, int | None]
    working: bool = False
    holidays: list[str] = []
    version: int = 0


class ChangeWordIn(Schema):
    """What somebody says of a proposed change: that it goes first, or is not to be made, and why."""

    key: str
    word: Literal["pin", "refuse"]
    reason: str = ""


class WorkIn(Schema):
    """A proposed change given to be done on the devices of a selection: to a person by a day, or as a ticket of a
    service desk. `expected`: on how many devices it was shown."""

    key: str
    how: Literal["person", "ticket"]
    filter: str = ""
    person: str = ""
    day: str = ""
    words: str = ""
    source: int | None = None
    expected: int | None = None
