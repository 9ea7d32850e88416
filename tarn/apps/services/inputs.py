"""What people say of services; the API reads it, actions take it."""

from ninja import Schema


class NoiseIn(Schema):
    """Talk that is noise: of a process, over a port, or both; and why."""

    process: str = ""
    port: int | None = None
    why: str


class EntryIn(Schema):
    """Where a service is reached: an address or a name, and a port where it has one."""

    host: str
    port: int | None = None


class MembershipRule(Schema):
    """Which devices are of a part, and why."""

    filter: str
    why: str = ""


class PartIn(Schema):
    """A part of a service, how many of its members it needs to carry on (0: all), and the rules for its members."""

    name: str
    needs: int = 1
    rules: list[MembershipRule] = []


class ServiceIn(Schema):
    """A service; `promise`: back within so many minutes; `version`: of the one that was changed."""

    name: str
    purpose: str = ""
    owner: str = ""
    deputies: list[str] = []
    promise: int | None = None
    hours: str = ""
    places: list[str] = []
    importance: str = "usual"
    notes: str = ""
    entries: list[EntryIn] = []
    parts: list[PartIn] = []
    organisation: int | None = None
    version: int | None = None


class RehearseServiceIn(Schema):
    """A service whose rules are tried, by its number where it is kept, and on which day."""

    service: ServiceIn
    number: int | None = None
    as_of: str | None = None


class TellIn(Schema):
    """Whom to tell who came to a service and who went: addresses of mail."""

    to: list[str]


class HandMemberIn(Schema):
    """A device, by its number, name or serial, that is put into a part of a service or taken out of it, and why."""

    device: str
    part: str
    out: bool = False
    why: str


class RecogniserIn(Schema):
    """A rule over processes by which a program is known; `edition`: of the one that was changed."""

    name: str
    rule: str
    version: str = ""
    instance: str = "a device"
    note: str = ""
    general: bool = False
    in_force: bool = True
    edition: int | None = None


class TryRecogniserIn(Schema):
    """A rule that is tried on all that was ever read, and the groups it was read from."""

    rule: str
    version: str = ""
    keys: list[str] = []


class ProgramWordIn(Schema):
    """What is said of a group of unknown programs: alone, parted, or back to what it was; and why."""

    word: str
    why: str = ""


class RecognisersFile(Schema):
    """A file of recognisers."""

    kind: str
    recognisers: list[RecogniserIn]


class InquiryNoteIn(Schema):
    """A note of an inquiry: of one that is kept, or of these words, which are kept with it."""

    text: str
    words: list[str] = []
    number: int | None = None
