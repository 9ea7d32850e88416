"""What reads of services return and the API hands on."""

from typing import Literal

from typing_extensions import TypedDict


class EdgeEnd(TypedDict):
    """One end of an edge."""

    asset: int
    number: str
    name: str
    kind: str | None
    place: str | None


class StandingEdge(TypedDict):
    """One thing standing on another, `hop` steps from what was asked; `over` which port, held by `process`; since when
    it is known, when it was last heard, how sure it is in percent, and whose evidence says so."""

    hop: int
    stands: EdgeEnd
    on: EdgeEnd
    kind: str
    over: str
    process: str
    since: str
    last_heard: str
    sure: int
    witnesses: list[str]


class StandsOut(TypedDict):
    """What an asset stands on, and what stands on it, within so many hops."""

    asset: EdgeEnd
    on: list[StandingEdge]
    under: list[StandingEdge]


class FallenOut(TypedDict):
    """What becomes of an asset and why: `because` in words, `left`: what it still has where it is only weakened."""

    asset: int
    number: str
    name: str
    kind: str | None
    place: str | None
    fate: str
    because: str
    left: list[str]
    hops: int


class FallenCount(TypedDict):
    """A number of assets, and the filter that opens them; null where they are too many to be named one by one."""

    devices: int
    filter: str | None


class FallenPlace(TypedDict):
    """How many stop at a place."""

    place: str
    stops: int


LayerFate = Literal["gone", "stops", "weakened", "carries on"]


class LayerBox(TypedDict):
    """One asset, or several that are alike and have no `asset`; the filter opens them. Or a service, by its number.
    `row` counts from the top."""

    layer: str
    row: int
    name: str
    asset: int | None
    service: int | None
    fate: LayerFate
    devices: int
    filter: str


class LayerLine(TypedDict):
    """Boxes by their place in the list, of which one stands on the other; `lost`: what is stood on is down."""

    above: int
    below: int
    lost: bool


class LayersOut(TypedDict):
    """A picture in layers, from the top; no boxes where there would be too many to look at."""

    boxes: list[LayerBox]
    lines: list[LayerLine]


class ServiceFallen(TypedDict):
    """What becomes of a service, why, and whom that meets: devices that stand on it, and the people who have them."""

    id: int
    name: str
    fate: str
    because: list[str]
    owner: str
    promise: int | None
    hours: str
    importance: str
    devices: int
    people: int


class StopsOut(TypedDict):
    """What stops if some assets stop: these, what stops and is weakened with them, whom that meets, where, and in which
    order it can be brought back (those in one list at the same time)."""

    gone: list[EdgeEnd]
    stops: FallenCount
    weakened: FallenCount
    services: list[ServiceFallen]
    people: list[str]
    places: list[FallenPlace]
    rows: list[FallenOut]
    back: list[list[str]]
    picture: LayersOut


class SingleOut(TypedDict):
    """A single point of failure: how many devices stop or are weakened if it does, and how many services stop."""

    asset: int
    number: str
    name: str
    kind: str | None
    place: str | None
    stops: int
    weakened: int
    services: int


class LinkOut(TypedDict):
    """A port of a switch and what is at its other end; who says so, and how it is known."""

    switch: EdgeEnd
    port: str
    device: EdgeEnd
    device_port: str
    since: str
    seen_by: list[str]
    how: str


class NoiseOut(TypedDict):
    """Talk that says nothing of what stands on what."""

    id: int
    process: str
    port: int | None
    why: str
    made_by: str
    made_at: str


class SignOut(TypedDict):
    """Something that is wrong with a service, in words; the devices it is about, and the filter that opens them."""

    key: str
    grade: Literal["bad", "warn"]
    text: str
    devices: int
    filter: str | None


class MembershipRuleOut(TypedDict):
    """A rule for members of a part, and why."""

    filter: str
    why: str


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
    because: list[str]
    hand: int | None
    out: bool


class MemberChange(EdgeEnd):
    """That Tarn found a member gained or lost."""

    at: str
    came: bool
    part: str
    because: str


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


class RehearsedPart(TypedDict):
    """How many members a part would have, and how many it would need."""

    name: str
    devices: int
    needed: int


class RehearsedMember(EdgeEnd):
    """Who would be a member, why, and whether that is new: comes, goes or stays."""

    part: str
    because: list[str]
    change: str


class ServiceRehearsal(TypedDict):
    """What rules would make of a service."""

    parts: list[RehearsedPart]
    rows: list[RehearsedMember]
    devices: int
    trouble: list[str]


class ProposedService(TypedDict):
    """A service that is not kept yet and that talk speaks for: what many call, and what stands behind it."""

    name: str
    callers: FallenCount
    why: str
    entries: list[ServiceEntry]
    parts: list[ServicePartOut]


class ProgramGroup(TypedDict):
    """Programs nothing explains that look alike: how, where they listen and run, whom they call and how many call them.
    `alike` in percent; `behaves`: the sorts of programs they behave like."""

    key: str
    stem: str
    looks: str
    listens: list[int]
    processes: int
    devices: FallenCount
    first: str
    talks_to: list[str]
    called_by: int
    alike: int
    behaves: list[str]


class UnknownOut(TypedDict):
    """Unknown programs; `alone`: how many groups are left alone."""

    groups: list[ProgramGroup]
    count: int
    processes: int
    devices: int
    alone: int


class CommandPiece(TypedDict):
    """A piece of a command; whether it differs among samples."""

    text: str
    differs: bool


class ProgramSample(EdgeEnd):
    """A process of a group, on its device."""

    command: list[CommandPiece]
    account: str
    listens: str
    started: str | None


class TriedOther(TypedDict):
    """Other programs a rule fits."""

    stem: str
    looks: str
    processes: int


class TriedOut(TypedDict):
    """What a rule recognises: so many `of` the samples; devices and processes now; `before`: devices where it ran only
    before; other programs; `wide`: why it is no recogniser."""

    samples: int
    of: int
    devices: int
    processes: int
    before: int
    others: list[TriedOther]
    versions: dict[str, int]
    talks_to: list[str]
    called_by: int
    wide: str


class ProgramOut(ProgramGroup):
    """A group with samples and the recogniser read from it, tried on all that was ever read."""

    samples: list[ProgramSample]
    name: str
    rule: str
    version: str
    instance: str
    left_alone: bool
    why_alone: str
    tried: TriedOut


class RecogniserOut(TypedDict):
    """A recogniser as it is kept."""

    id: int
    name: str
    rule: str
    version: str
    instance: str
    note: str
    general: bool
    in_force: bool
    made_by: str
    edition: int


class ApplicationOut(RecogniserOut):
    """What a recogniser knows: instances by release, their devices, whom they call and how many call them; `wrong`: why
    it cannot be asked."""

    instances: int
    devices: FallenCount
    versions: dict[str, int]
    talks_to: list[str]
    called_by: int
    wrong: str


class RecognisersFileOut(TypedDict):
    """A file of recognisers."""

    kind: str
    recognisers: list[dict[str, str | bool]]
