"""What reads of exposure return and the API hands on."""

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words


class FindingOut(TypedDict):
    """A device open to an advisory: by which release, since when, until when (null while it is), and why."""

    asset: int
    device: str
    advisory: str
    aliases: list[str]
    product: str
    release: str
    status: str
    since: str
    until: str | None
    score: float | None
    exploited: bool
    grade: str
    because: Words


class DevicesOut(TypedDict):
    """A number of devices, and the filter that opens them."""

    devices: int
    filter: str


class ExposureOut(TypedDict):
    """How much is open on a selection of `of` devices: advisories that touch it, `used` of them by attackers, `rules`
    of our own that find something, findings (a device and one of these each) in all and by grade; the devices open to
    anything, to an advisory, to a rule of our own, to what is used, past their promised day, and those of which it is
    under investigation."""

    advisories: int
    used: int
    of: int
    open: int
    grades: dict[str, int]
    rules: int
    any_on: DevicesOut
    on: DevicesOut
    own_on: DevicesOut
    used_on: DevicesOut
    late_on: DevicesOut
    unsure_on: DevicesOut
    read_at: str | None


class ExposureOnDay(TypedDict):
    """How much was open at the end of a day, as it was known then; `day` is null for now."""

    day: str | None
    stood: ExposureOut


class ExposureYear(TypedDict):
    """How much was open month by month, the latest first; nothing is told of days before the first document,
    `since`."""

    since: str | None
    days: list[ExposureOnDay]


class AdvisoryRow(TypedDict):
    """An advisory that touches a selection: `devices` open to it for sure, `unsure` under investigation."""

    name: str
    aliases: list[str]
    title: str
    published: str | None
    met: str | None
    since: str
    score: float | None
    used: str | None
    chance: float | None
    percentile: float | None
    devices: int
    unsure: int
    late: int
    grade: str


class HeatCell(DevicesOut):
    """The devices of a row that have anything open in a column."""

    name: str


class HeatRow(TypedDict):
    """A value of what is laid out by: `of` devices in all (`within` opens them), on how many anything is open."""

    name: str
    within: str
    filter: str
    of: int
    devices: int
    cells: list[HeatCell]


class HeatOut(TypedDict):
    """Open findings laid out by two things at once: `by` the rows, `across` the columns."""

    by: str
    across: str
    columns: list[str]
    rows: list[HeatRow]


class AgainstOut(TypedDict):
    """What another document says of the same release."""

    status: str
    because: Words


class StandingOut(TypedDict):
    """How one release stands to an advisory: under which system, on how many devices, why; `sure` in percent."""

    thing: int
    release: str
    version: str
    under: str
    part: str
    devices: int
    status: str
    because: Words
    sure: int
    justification: str
    fixed_in: list[str]
    filter: str | None
    against: list[AgainstOut]


class DocumentWitness(TypedDict):
    """A document that tells of an advisory, from when to when."""

    number: int
    format: str
    name: str
    by: str
    word: str
    feed: str
    came: str
    ended: str | None
    title: str
    withdrawn: str | None


class LifeStep(TypedDict):
    """From a day on, how many devices were open."""

    day: str
    open: int


class LifeOut(TypedDict):
    """The life of an advisory here: how many devices were open to it from each moment on, and what happened when."""

    steps: list[LifeStep]
    most: int
    half_days: float | None


class ScoreOut(TypedDict):
    """A score as published, and by whom."""

    version: str
    vector: str
    base: float
    by: str


class GradeStepOut(TypedDict):
    """A step of the tree: what was asked, the answer, and why."""

    asks: Words
    answer: str
    because: Words


class GradedOut(TypedDict):
    """A grade some devices have, its steps, on how many, and by when it is promised to be ended; the score with what is
    known of its use (`threat`), and with the environment of these devices (`here`), and the `vector` that says so."""

    threat: float | None
    here: float | None
    vector: str

    grade: str
    devices: int
    steps: list[GradeStepOut]
    due: str | None


class DocumentRemedy(TypedDict):
    """What a document says is to be done."""

    sort: str
    text: str
    link: str


class AdvisoryPage(TypedDict):
    """Everything of one advisory, as of a day."""

    name: str
    aliases: list[str]
    title: str
    text: str
    published: str | None
    met: str | None
    used: str | None
    action: str
    chance: float | None
    percentile: float | None
    scores: list[ScoreOut]
    weaknesses: list[str]
    links: list[str]
    remedies: list[DocumentRemedy]
    devices: int
    unsure: int
    standings: list[StandingOut]
    life: LifeOut
    graded: list[GradedOut]
    witnesses: list[DocumentWitness]


class OwnWordOut(TypedDict):
    """The number under which a word of the company's own stands."""

    number: int


class AcceptanceOut(TypedDict):
    """Something accepted for a while, how it stands, and on how many devices it covers anything now."""

    id: int
    advisory: str
    own: bool
    product: str
    filter: str
    reason: Words
    grade: str
    made_by: str
    made_at: str
    approved_by: str
    until: str
    state: str
    devices: int


class ProposalOut(TypedDict):
    """Who a product may be outside: `sure` from 0 to 1, why, and how many advisories tell of that name."""

    key: str
    name: str
    advisories: int
    sure: float
    because: Words


class SaidNameOut(TypedDict):
    """A name somebody gave a product, "" where they said that it has none."""

    id: int
    key: str
    name: str
    by: str
    at: str


class OutsideNameOut(TypedDict):
    """A product that is here: `state` said, none, proposed, known or unknown; `known`: the names that agree by
    themselves."""

    product: str
    maker: str
    devices: int
    filter: str
    state: str
    known: list[str]
    proposals: list[ProposalOut]
    said: list[SaidNameOut]


class SupportOut(TypedDict):
    """A release that is here and until when it is supported: `days` from the day asked on, less than none where that is
    past; `by`: who says so."""

    product: str
    release: str
    sort: str
    day: str
    days: int
    by: str
    devices: int
    filter: str
