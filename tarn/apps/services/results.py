"""What reads of services return and the API hands on."""

from typing import Literal

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words


class EdgeEnd(TypedDict):
    """One end of an edge."""

    asset: int
    number: str
    name: str
    kind: str | None
    place: str | None


class StandingEdge(TypedDict):
    """One thing standing on another, `hop` steps from what was asked; `over` which port, held by `process`; since when
    it is known, when it was last heard and whether it is quiet since, how sure it is in percent, and who says so."""

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
    quiet: bool


class StandingBeside(TypedDict):
    """Something that is no device and that an asset has to do with: what, by which port, part or address (`over`), and
    what opens it: a service by number, a program by name, or the filter for the devices of which the same is so."""

    kind: str
    name: str
    over: str
    service: int | None
    program: str | None
    filter: str | None


class AroundOut(TypedDict):
    """What an asset stands on, and what stands on it, within so many hops."""

    asset: EdgeEnd
    on: list[StandingEdge]
    under: list[StandingEdge]


class StandsOut(AroundOut):
    """What an asset stands on, what stands on it, and what it has to do with that is no device."""

    beside: list[StandingBeside]


class FallenOut(TypedDict):
    """What becomes of an asset and why: `because` in words, `left`: what it still has where it is only weakened."""

    asset: int
    number: str
    name: str
    kind: str | None
    place: str | None
    fate: str
    because: Words
    left: list[str]
    hops: int


class ProgramFallen(FallenOut):
    """What becomes of a program on a device, and why. `name`: the program and its device."""

    program: str


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
    """One asset, or several that are alike and have no `asset`; the filter opens them. Or a service, by its number, or
    a program with the devices it runs on. `row` counts from the top; `folded`: what to say to have its devices drawn
    one by one."""

    layer: str
    row: int
    name: str
    asset: int | None
    service: int | None
    fate: LayerFate
    devices: int
    filter: str
    folded: int | None


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
    because: list[Words]
    owner: str
    promise: int | None
    hours: str
    importance: str
    devices: int
    people: int


class StopsOut(TypedDict):
    """What stops if some assets or programs stop: these, what stops and is weakened with them, whom that meets,
    where, and in which order it can be brought back (those in one list at the same time)."""

    gone: list[EdgeEnd]
    stops: FallenCount
    weakened: FallenCount
    services: list[ServiceFallen]
    people: list[str]
    places: list[FallenPlace]
    programs: list[ProgramFallen]
    rows: list[FallenOut]
    back: list[list[str]]
    picture: LayersOut


class SingleOut(TypedDict):
    """A single point of failure: how many devices stop or are weakened if it does, and how many services stop;
    `mends`: what one more of something would do about it, in words, of the worst."""

    asset: int
    number: str
    name: str
    kind: str | None
    place: str | None
    stops: int
    weakened: int
    services: int
    mends: list[Words]


class LinkOut(TypedDict):
    """A port of a switch and what is at its other end; who says so, and how it is known."""

    switch: EdgeEnd
    port: str
    device: EdgeEnd
    device_port: str
    since: str
    seen_by: list[str]
    how: Words


class NoiseOut(TypedDict):
    """Talk that says nothing of what stands on what."""

    id: int
    process: str
    port: int | None
    why: Words
    made_by: str
    made_at: str
