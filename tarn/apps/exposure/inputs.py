"""What people say of advisories and findings; the API reads it, actions take it."""

from typing import Literal

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
    """That what is open to an advisory is accepted until a day: on the devices a filter asks for, of one product where
    it is named."""

    advisory: str
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
