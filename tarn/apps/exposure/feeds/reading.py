"""Reading a feed: its files are fetched and taken in, and what it remembers is kept once they are."""

import copy
import logging
import time
from collections.abc import Generator, Iterator
from typing import Any

from tarn.apps.exposure.feeds.take import take_in
from tarn.apps.exposure.models import Feed, FeedRun
from tarn.collect.feeds.kind import Fetching, feed_kinds
from tarn.collect.problems import Problem
from tarn.collect.routes import route_named
from tarn.core.exposure.reading import Part, read_file

log = logging.getLogger("tarn.exposure")
BEAT = 5


def fetched(feed: Feed, state: dict[str, Any]) -> Generator[Part, None, None]:
    """Yield the documents of a feed that may be new; `state` is what it remembers. Raises Problem."""
    kind = feed_kinds()[feed.kind]
    for name, stream in kind.read(kind.checked(feed.settings), Fetching(route_named(feed.route), state)):
        yield from read_file(name, stream)


def carry_out(run_id: int, at: int | None = None) -> None:
    """Carry a reading out to its end; what goes wrong is said in its message. `at`: the moment it is of."""
    run = FeedRun.objects.select_related("feed").get(pk=run_id)
    if run.state != "waiting":
        return
    run.state, run.beat = "running", int(time.time())
    run.save(update_fields=["state", "beat"])
    try:
        _read(run, run.made_at if at is None else at)
    except Exception as error:
        log.exception("reading feed %d failed", run.feed_id)
        _end(run, "failed", f"{type(error).__name__}: {error}"[:500])


def _read(run: FeedRun, at: int) -> None:
    feed, state = run.feed, copy.deepcopy(run.feed.state)
    accepted = bool(run.counts.get("accepted"))
    feed.loss_share = 100 if accepted else feed.loss_share
    problems: list[Problem] = []
    kept, run.loss = take_in(feed, _watched(run, fetched(feed, state), problems), at)
    run.counts, run.faults = kept.counts, kept.faults
    if run.loss is None:
        # Where something waits for a yes, all of it is fetched again after that.
        Feed.objects.filter(pk=feed.pk).update(state=state)
    if problems:
        came = kept.counts["read"] > 0
        _end(run, "part" if came else "failed", problems[0].says)
    else:
        _end(run, "held" if run.loss else "done")


def _watched(run: FeedRun, parts: Iterator[Part], problems: list[Problem]) -> Iterator[Part]:
    """Yield the documents, giving signs of life; a problem ends them, and what came before it stays."""
    beaten = time.monotonic()
    try:
        for part in parts:
            yield part
            if time.monotonic() - beaten > BEAT:
                beaten = time.monotonic()
                FeedRun.objects.filter(pk=run.pk).update(beat=int(time.time()))
    except Problem as problem:
        problems.append(problem)


def _end(run: FeedRun, state: str, message: str = "") -> None:
    FeedRun.objects.filter(pk=run.pk).update(
        state=state,
        message=message,
        ended_at=int(time.time()),
        counts=run.counts,
        faults=run.faults,
        loss=run.loss,
    )
