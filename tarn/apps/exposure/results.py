"""What reads of exposure return and the API hands on."""

from typing import Any

from typing_extensions import TypedDict


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
    because: str


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
    because: str


class StandingOut(TypedDict):
    """How one release stands to an advisory: under which system, on how many devices, why; `sure` in percent."""

    thing: int
    release: str
    version: str
    under: str
    part: str
    devices: int
    status: str
    because: str
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

    asks: str
    answer: str
    because: str


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


class CuredRelease(TypedDict):
    """The release to update to under a system."""

    under: str
    target: str


class ProposedChange(TypedDict):
    """A change that ends something. `verb`: what it does; `product`: to what, in words where it is no product; an
    update is to `target` or later, where that is one for all systems. `rule`: the rule of our own it ends, and `todo`
    how. `ends`: findings by grade that end with it after those before it; `left`: findings open after it. `due`: the
    earliest promised day. `disturbs`: "" where nobody tells. `word`: pin or refuse, where people say so."""

    key: str
    verb: str
    product: str
    todo: str
    rule: str
    target: str
    targets: list[CuredRelease]
    devices: int
    advisories: int
    names: list[str]
    used: int
    score: float | None
    chance: float | None
    due: str | None
    disturbs: str
    filter: str
    ends: dict[str, int]
    left: int
    word: str


class WhatToDoFirst(TypedDict):
    """The changes in their order; of `open` findings `stays` end with none of them."""

    open: int
    stays: int
    changes: list[ProposedChange]


class BudgetOut(TypedDict):
    """The best changes for a budget, proved: what they end by grade, and what the plain order ends with as many."""

    keys: list[str]
    ends: dict[str, int]
    in_order: dict[str, int]
    open: int


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
    reason: str
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
    because: str


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


class KeptRow(TypedDict):
    """How promises of a grade fared: findings ended in time (`kept`) and late (`broken`), in how many days half of them
    ended, and on how many devices some are open past their promise and within it."""

    grade: str
    promised: int | None
    kept: int
    broken: int
    half_days: float | None
    open_late: DevicesOut
    open_in_time: DevicesOut


class KeptPromises(TypedDict):
    """Promises since a moment, by grade."""

    since: str
    rows: list[KeptRow]


class EndedFinding(TypedDict):
    """A finding that ended: since when and until when, by when it was promised, and how it ended."""

    asset: int
    device: str
    advisory: str
    own: bool
    since: str
    until: str
    due: str | None
    days: float
    how: str


class GradeQuestion(TypedDict):
    """A question of the tree: its name, what it asks, and its answers."""

    name: str
    asks: str
    answers: list[str]


class PolicyOut(TypedDict):
    """How findings are graded and promised: the tree as data; `made_by` nobody where it is as it ships."""

    version: int
    tree: dict[str, Any] | str
    days: dict[str, int | None]
    working: bool
    holidays: list[str]
    questions: list[GradeQuestion]
    grades: list[str]
    made_by: str
    made_at: str | None
    shipped: dict[str, Any] | str


class MovedGrade(TypedDict):
    """How many findings would move from a grade to another."""

    before: str
    after: str
    findings: int


class PolicyRehearsed(TypedDict):
    """What is open, by grade, as it is and as it would be; what moves, and how many are past their promise."""

    before: dict[str, int]
    after: dict[str, int]
    moved: list[MovedGrade]
    late_before: int
    late_after: int


class RightsOut(TypedDict):
    """Of `of` devices with the product, how many have no right to the release by any licence, and why most often."""

    of: int
    without: int
    why: str


class WhyNot(TypedDict):
    """Why Tarn cannot make a change itself, and on how many devices that is so."""

    why: str
    devices: int


class DoableOut(TypedDict):
    """On how many of the devices Tarn can make the change itself, and why not on the others."""

    devices: int
    of: int
    why: list[WhyNot]


class ChangeWordOut(TypedDict):
    """What somebody said of a change."""

    id: int
    word: str
    reason: str
    made_by: str
    made_at: str


class GivenWorkOut(TypedDict):
    """Work that was given: for how many devices, and on how many of them it is still open by evidence."""

    id: int
    key: str
    what: str
    how: str
    person: str
    day: str | None
    late: bool
    reference: str
    words: str
    devices: int
    open: int
    wrong: str
    filter: str
    made_by: str
    made_at: str


class DeskName(TypedDict):
    """A service desk that takes tickets in."""

    id: int
    name: str


class ChangeTask(TypedDict):
    """A task on devices that was asked for with this change's filter."""

    id: int
    kind: str
    state: str
    asked_at: str


class ChangePage(TypedDict):
    """A change as a whole: `filter` opens its devices within the selection; `task`: which task makes it, "" for none;
    `ruling`: what the company says of the product; `rights`: null where licences have no say; `measures`: the maker's,
    in its words; what people said of it, what was given, and the tasks asked for."""

    change: ProposedChange
    filter: str
    product_id: int | None
    task: str
    ruling: str
    ruling_why: str
    rights: RightsOut | None
    doable: DoableOut
    measures: list[str]
    desks: list[DeskName]
    words: list[ChangeWordOut]
    given: list[GivenWorkOut]
    tasks: list[ChangeTask]


class ChangeWordId(TypedDict):
    """The number a word on a change was kept under."""

    id: int
