"""What reads of kept services return."""

from typing import Literal

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words
from tarn.apps.services.results import EdgeEnd, FallenCount, LayersOut, SingleOut


class SignOut(TypedDict):
    """Something that is wrong with a service, in words; the devices it is about, and the filter that opens them."""

    key: str
    grade: Literal["bad", "warn"]
    text: Words
    devices: int
    filter: str | None


class MembershipRuleOut(TypedDict):
    """A rule for members of a part, and why."""

    filter: str
    why: Words


class ServicePartOut(TypedDict):
    """A part of a service: how many of its members it needs (0: all), and how many more of them may go."""

    name: str
    needs: int
    spare: int
    rules: list[MembershipRuleOut]
    members: FallenCount


class ServiceBrief(TypedDict):
    """A service and how it stands, what is worst first; `promise`: back within so many minutes."""

    id: int
    name: str
    purpose: str
    owner: str
    importance: str
    promise: int | None
    hours: str
    organisation: str | None
    members: FallenCount
    parts: list[ServicePartOut]
    signs: list[SignOut]


class ServiceEntry(TypedDict):
    """Where a service is reached, and the devices that answer to it."""

    host: str
    port: int | None
    devices: list[EdgeEnd]


class MemberOut(EdgeEnd):
    """A member of a part and why it is one; `hand`: by whose hand, if by one, and `out`: that it was taken out."""

    part: str
    because: list[Words]
    hand: int | None
    out: bool


class MemberChange(EdgeEnd):
    """That Tarn found a member gained or lost."""

    at: str
    came: bool
    part: str
    because: Words


class ServiceOut(ServiceBrief):
    """A service's page; `under`: the devices that stand on its members."""

    deputies: list[str]
    places: list[str]
    notes: str
    version: int
    organisation_id: int | None
    entries: list[ServiceEntry]
    rows: list[MemberOut]
    changes: list[MemberChange]
    singles: list[SingleOut]
    picture: LayersOut
    under: FallenCount


class ToldOut(TypedDict):
    """The report of a service's members that is watched."""

    report: str


class RehearsedPart(TypedDict):
    """How many members a part would have, and how many it would need."""

    name: str
    devices: int
    needed: int


class RehearsedMember(EdgeEnd):
    """Who would be a member, why, and whether that is new: comes, goes or stays."""

    part: str
    because: list[Words]
    change: str


class ServiceRehearsal(TypedDict):
    """What rules would make of a service."""

    parts: list[RehearsedPart]
    rows: list[RehearsedMember]
    devices: int
    trouble: list[Words]


class ShippedQuestionOut(TypedDict):
    """A question that ships: what it asks, the filter that asks it, and why a device it finds is one."""

    name: str
    filter: str
    why: Words


class ProposedService(TypedDict):
    """A service that is not kept yet and that talk speaks for: what many call, and what stands behind it."""

    name: str
    callers: FallenCount
    why: Words
    entries: list[ServiceEntry]
    parts: list[ServicePartOut]
