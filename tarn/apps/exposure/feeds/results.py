"""What is told of feeds: the reads return it, the API hands it on as it is."""

from typing import Any

from typing_extensions import TypedDict

from tarn.apps.discovery.sources.results import SettingOut
from tarn.apps.people.speaking import Words


class FeedFaultOut(TypedDict):
    """What was refused or left aside: where, and by which rule."""

    place: str
    rule: str


class FeedRunOut(TypedDict):
    """One reading of a feed. `loss`: how many advisories of how many it would take back, waiting for a yes."""

    id: int
    state: str
    made_at: int
    ended_at: int | None
    counts: dict[str, int]
    faults: list[FeedFaultOut]
    message: Words
    loss: dict[str, int] | None
    asked_by: str | None


class AdvisoryFeed(TypedDict):
    """A feed with its last reading, and how many documents of it stand."""

    id: int
    name: str
    kind: str
    settings: dict[str, Any]
    route: str
    schedule: str
    schedule_words: Words
    next_at: int | None
    loss_share: int
    version: int
    documents: int
    last_run: FeedRunOut | None


class FeedPage(TypedDict):
    """A feed and its latest readings."""

    feed: AdvisoryFeed
    runs: list[FeedRunOut]


class FeedKindOut(TypedDict):
    """A kind of feed and its form."""

    name: str
    text: Words
    form: list[SettingOut]


class FeedSampleOut(TypedDict):
    """A document a test came upon."""

    place: str
    format: str
    name: str
    title: str
    statements: int


class FeedTestOut(TypedDict):
    """What a feed would bring, nothing being kept: how many documents were looked at, the first, what was refused."""

    read: int
    took_ms: int
    problem: Words
    remedy: Words
    sample: list[FeedSampleOut]
    faults: list[FeedFaultOut]
