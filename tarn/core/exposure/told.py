"""What a document tells, whatever its format: of vulnerabilities, of their chances and use, of ends of support."""

from dataclasses import dataclass, field
from typing import Literal

from tarn.core.exposure.outside import Subject
from tarn.core.exposure.ranges import Range

Status = Literal["affected", "fixed", "not affected", "under investigation"]
"""How a release stands to a vulnerability, in the words of VEX."""
STATUSES: tuple[Status, ...] = ("affected", "under investigation", "fixed", "not affected")
"""The statuses, the gravest first; kept by their place here."""
Word = Literal["own", "maker", "components", "general"]
"""Whose word a statement is: the company's own, of the maker or distribution about its own product, of a bill of
materials, of the general record."""


class FeedError(ValueError):
    """A document that cannot be taken. `place`: where in it; `rule`: what it does not keep to."""

    def __init__(self, rule: str, place: str = "") -> None:
        self.rule, self.place = rule, place
        super().__init__(f"{place}: {rule}" if place else rule)


@dataclass(frozen=True, slots=True)
class Statement:
    """One statement of a document: `status` of a subject in `versions` and `ranges` (all versions where neither is
    told), `left_out` excepted. `otherwise`: how it is with other versions, "" where nothing is said of them.

    `needs`: what else must be on the device, any of each group (of NVD's AND); None where the document asks for what
    cannot be checked. `place`: where in the document, as a JSON pointer (RFC 6901).
    """

    subject: Subject
    status: Status
    place: str
    versions: tuple[str, ...] = ()
    ranges: tuple[Range, ...] = ()
    left_out: tuple[str, ...] = ()
    otherwise: Status | Literal[""] = ""
    justification: str = ""
    fixed_in: tuple[str, ...] = ()
    platforms: tuple[str, ...] = ()
    needs: tuple["Need", ...] = ()

    @property
    def of_all(self) -> bool:
        """Whether it is said of every version."""
        return not self.versions and not self.ranges


@dataclass(frozen=True, slots=True)
class Need:
    """A second thing that must be on the device, any of `statements`; `negated`: none of them."""

    statements: tuple[Statement, ...]
    negated: bool = False


@dataclass(frozen=True, slots=True)
class Score:
    """A score as published: `version` of CVSS, its vector, the base score and who gave it."""

    version: str
    vector: str
    base: float
    by: str = ""


@dataclass(frozen=True, slots=True)
class Remedy:
    """What a document says is to be done: `sort` as in CSAF (vendor_fix, mitigation, workaround, none_available …)."""

    sort: str
    text: str
    link: str = ""
    restart: str = ""


@dataclass(frozen=True, slots=True)
class Telling:
    """What a document tells of one vulnerability. `ids`: the names it is known by, the document's first; `about`: the
    names of several it speaks of at once, which makes them no aliases. Times are seconds since 1970."""

    ids: tuple[str, ...]
    about: tuple[str, ...] = ()
    title: str = ""
    text: str = ""
    published: int | None = None
    withdrawn: int | None = None
    statements: tuple[Statement, ...] = ()
    scores: tuple[Score, ...] = ()
    weaknesses: tuple[str, ...] = ()
    remedies: tuple[Remedy, ...] = ()
    links: tuple[str, ...] = ()
    used: bool = False


@dataclass(frozen=True, slots=True)
class Chance:
    """The chance (EPSS) that a vulnerability is used within 30 days, and the share of all that have less; 0 to 1."""

    id: str
    chance: float
    percentile: float


@dataclass(frozen=True, slots=True)
class Used:
    """A vulnerability known to be used by attackers, since when (seconds since 1970) and what is to be done."""

    id: str
    since: int
    action: str = ""
    ransom: bool = False


@dataclass(frozen=True, slots=True)
class SupportEnd:
    """The day support of some versions of a product ends, as seconds since 1970."""

    subject: Subject
    ranges: tuple[Range, ...]
    ends: int
    link: str = ""


@dataclass(frozen=True, slots=True)
class Component:
    """A part of a product or device by its bill of materials, the version as told."""

    subject: Subject
    version: str
    purl: str = ""


@dataclass(frozen=True, slots=True)
class Document:
    """A document as read. `name`: what it calls itself, one of its format; `by`: who published it; `word`: whose word
    it is; `dated`: when it was last changed; `warnings`: what of it was left aside, and why."""

    format: str
    name: str
    by: str = ""
    word: Word = "general"
    dated: int | None = None
    tellings: tuple[Telling, ...] = ()
    chances: tuple[Chance, ...] = ()
    used: tuple[Used, ...] = ()
    ends: tuple[SupportEnd, ...] = ()
    of: Subject | None = None
    of_version: str = ""
    components: tuple[Component, ...] = ()
    warnings: tuple[str, ...] = field(default=())
