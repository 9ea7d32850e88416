"""Taking files of documents in: kept, weighed against what is here, and told as counts and faults."""

import time
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.exposure.feeds.keep import Keeper, Kept
from tarn.apps.exposure.finding.catching_up import catch_up
from tarn.apps.exposure.finding.deriving import derive, refresh_components
from tarn.apps.exposure.ground import changed
from tarn.apps.exposure.models import Feed, FeedRun
from tarn.apps.exposure.report_rows import ROWS
from tarn.apps.people.actions.audit import record
from tarn.apps.people.roles import require
from tarn.apps.reports.actions.watches import hasten
from tarn.collect.feeds.kind import Fetching, feed_kinds
from tarn.collect.routes import DIRECT
from tarn.core.exposure.reading import Part, read_file
from tarn.core.exposure.told import FeedError

BY_HAND = "By hand"
"""The feed of what people and the command line bring."""


def feed_by_hand(name: str = BY_HAND) -> Feed:
    """Return the feed of what people bring or say themselves."""
    return Feed.objects.get_or_create(name=name, defaults={"kind": "hand", "loss_share": 100})[0]


def parts_of(path: Path) -> Iterator[Part]:
    """Yield the documents of a file, or of all files of a folder in the order of their names."""
    if path.is_dir():
        for below in sorted(p for p in path.rglob("*") if p.is_file() and not p.name.startswith(".")):
            yield from parts_of(below)
        return
    try:
        with path.open("rb") as stream:
            yield from read_file(str(path), stream)
    except OSError as error:
        yield Part(str(path), b"", refused=FeedError(f"it cannot be opened: {error.strerror}"))


def parts_from(address: str) -> Iterator[Part]:
    """Yield the documents of one file over HTTP. Raises Problem, SettingError."""
    kind = feed_kinds()["mirrored file"]
    for name, stream in kind.read(kind.checked({"base": address}), Fetching(DIRECT)):
        yield from read_file(name, stream)


def take_by_hand(user: Any, parts: Iterable[Part], at: int) -> FeedRun:
    """Take in what a person or the command line brings; it stands in the history like any reading of a feed."""
    if user is not None:
        require(user, "plan")
    feed = feed_by_hand()
    kept, _ = take_in(feed, parts, at)
    record(user, "brought documents of advisories", feed.name, detail=dict(kept.counts))
    return FeedRun.objects.create(
        feed=feed,
        asked_by=user,
        state="done",
        made_at=at,
        ended_at=int(time.time()),
        counts=kept.counts,
        faults=kept.faults,
    )


def take_in(feed: Feed, parts: Iterable[Part], at: int) -> tuple[Kept, dict[str, int] | None]:
    """Keep documents as of a moment and find anew what follows; return what came of it, and what waits for a yes."""
    keeper = Keeper(feed.pk, at, feed.loss_share)
    try:
        keeper.take(parts)
        loss = keeper.finish()
    finally:
        # Also where it broke off: what was kept is told of.
        settle(keeper.kept)
    return keeper.kept, loss


def settle(kept: Kept) -> None:
    """Find what follows from documents that were kept."""
    catch_up()
    refresh_components()
    derive(kept.touched)
    if kept.counts["new"] or kept.counts["changed"]:
        changed(raw_connection())
        hasten({row.name for row in ROWS})
