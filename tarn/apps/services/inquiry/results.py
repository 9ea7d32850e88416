"""What an inquiry returns."""

from typing import Literal

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words
from tarn.apps.services.results import EdgeEnd, FallenCount


class InquiryWord(TypedDict):
    """What a word stands for: an address, a name, a person …, and the devices; `trouble`: why it stands for none."""

    word: str
    what: Words
    assets: list[int]
    trouble: Words


class InquiryHurt(TypedDict):
    """A service that stops, or is weakened, if the device does; `short`: it has fewer than it needs as it is."""

    id: int
    name: str
    fate: str
    short: bool


InquiryGrade = Literal["bad", "warn", ""]


class InquiryBar(TypedDict):
    """How full something is, in percent, and in words what that means; graded where it is worth a look."""

    what: Words
    percent: int
    words: Words
    grade: InquiryGrade


class InquiryPort(TypedDict):
    """The port of a switch the device is plugged into and how it stands, in words; graded where it is worth a look."""

    switch: int
    name: str
    port: str
    words: Words
    grade: InquiryGrade


class InquiryCertificate(TypedDict):
    """A certificate the device presents, in days until it ends."""

    port: int
    subject: str
    ends_at: str
    days: int
    grade: InquiryGrade


class InquiryEvent(TypedDict):
    """Something that happened, on the one clock."""

    at: str
    sort: str
    text: Words
    grade: InquiryGrade


class InquiryChange(TypedDict):
    """A change; `alike`: of how many of the devices here the same is so."""

    at: str
    text: Words
    alike: int


class InquiryStand(TypedDict):
    """What the device stands on."""

    asset: int
    name: str
    kind: str
    over: str
    since: str


class InquiryTalk(TypedDict):
    """Talk with another: out where it calls, in where it is called; last heard, and whether it has gone quiet."""

    asset: int
    name: str
    direction: str
    over: str
    process: str
    last_heard: str
    quiet: bool


class InquiryTell(TypedDict):
    """Whom to tell, and why."""

    name: str
    why: Words


class InquiryTicket(TypedDict):
    """An open ticket about the device."""

    number: str
    title: str
    state: str


class InquiryColumn(EdgeEnd):
    """One device of an inquiry."""

    state: str | None
    person: str | None
    department: str | None
    address: str | None
    os: str
    last_seen: str
    hurt: list[InquiryHurt]
    under: FallenCount
    people: int
    bars: list[InquiryBar]
    ports: list[InquiryPort]
    certificates: list[InquiryCertificate]
    in_use: list[str]
    events: list[InquiryEvent]
    changed: list[InquiryChange]
    on: list[InquiryStand]
    talk: list[InquiryTalk]
    tell: list[InquiryTell]
    tickets: list[InquiryTicket]


class InquiryTelling(TypedDict):
    """A fact that is out of the ordinary, of which devices, what it weighs and how that came about."""

    sort: str
    text: Words
    assets: list[int]
    weight: int
    why: Words


class InquiryNoteOut(TypedDict):
    """A note of an inquiry."""

    id: int
    at: str
    by: str
    text: str


class InquiryOut(TypedDict):
    """An inquiry: what each word stands for, the devices side by side from `since` to `until`, what is most telling,
    and what could be looked at beside; `number` and notes where it is kept."""

    number: int | None
    since: str
    until: str
    words: list[InquiryWord]
    columns: list[InquiryColumn]
    telling: list[InquiryTelling]
    beside: list[EdgeEnd]
    notes: list[InquiryNoteOut]


class InquiryBrief(TypedDict):
    """An inquiry that is kept."""

    number: int
    words: list[Words]
    opened_at: str
    opened_by: str
    notes: int
