"""What reads of programs return."""

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words
from tarn.apps.services.results import EdgeEnd, FallenCount


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
    wrong: Words


class RecognisersFileOut(TypedDict):
    """A file of recognisers."""

    kind: str
    recognisers: list[dict[str, str | bool]]
