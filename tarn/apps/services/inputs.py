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


class HandMemberIn(Schema):
    """A device, by its number, name or serial, that is put into a part of a service or taken out of it, and why."""

    device: str
    part: str
    out: bool = False
    why: str
