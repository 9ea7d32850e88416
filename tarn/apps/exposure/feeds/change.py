"""Feeds: made, changed, tested without keeping anything, read, dropped; and what waits for a person's yes."""

import time
from contextlib import closing
from itertools import islice
from typing import Any

from django.db import transaction

from tarn.apps.discovery.starting import next_start
from tarn.apps.exposure.feeds.inputs import FeedIn
from tarn.apps.exposure.feeds.jobs import run_feed
from tarn.apps.exposure.feeds.reading import fetched
from tarn.apps.exposure.feeds.results import FeedFaultOut, FeedSampleOut, FeedTestOut
from tarn.apps.exposure.models import Document, Feed, FeedRun
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid, once, require_version
from tarn.apps.people.roles import require
from tarn.collect.feeds.kind import FeedKind, feed_kinds
from tarn.collect.problems import Problem
from tarn.collect.routes import ROUTES
from tarn.collect.sources.kind import SettingError
from tarn.core.exposure.told import Document as Read

SAMPLE, LOOKED_AT = 12, 500
"""Documents a test shows, and those it looks at."""
TEST_SECONDS = 20.0
STALE = 120
"""Seconds without a sign of life after which a reading counts as abandoned."""


def kind_named(name: str) -> FeedKind:
    """Return a kind of feed. Raises Invalid."""
    if (kind := feed_kinds().get(name)) is None:
        raise Invalid("kind", f"“{name}” is no kind of feed; one of: {', '.join(feed_kinds())}.")
    return kind


def _checked(data: FeedIn) -> dict[str, Any]:
    name = " ".join(data.name.split())
    if not name:
        raise Invalid("name", "A feed needs a name: it stands beside every document it brings.")
    kind = kind_named(data.kind)
    try:
        kind.checked(data.settings)
    except SettingError as wrong:
        raise Invalid(f"settings.{wrong.name}", str(wrong)) from None
    if data.route not in ROUTES:
        raise Invalid("route", f"“{data.route}” is no route; one of: {', '.join(ROUTES)}.")
    if not 0 <= data.loss_share <= 100:
        raise Invalid("loss_share", f"{data.loss_share} % is out of bounds: 0 to 100.")
    schedule = data.schedule.strip()
    return {
        "name": name[:120],
        "kind": kind.name,
        "settings": data.settings,
        "route": data.route,
        "schedule": schedule,
        "next_at": next_start(schedule),
        "loss_share": data.loss_share,
    }


def make_feed(user: Any, data: FeedIn) -> Feed:
    """Make a feed. Raises Invalid."""
    if user is not None:
        require(user, "plan")
    values = _checked(data)
    with once("name", f"There is a feed “{values['name']}” already."):
        made = Feed.objects.create(**values)
        record(user, "made a feed", made.name, detail={"kind": made.kind})
    return made


def change_feed(user: Any, number: int, data: FeedIn) -> Feed:
    """Change a feed made from `data.version`. Raises Invalid, Stale, Feed.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        feed = Feed.objects.exclude(kind="hand").get(pk=number)
        require_version(feed, data.version, f"“{feed.name}”", {"name": feed.name, "version": feed.version})
        values = _checked(data)
        if (values["kind"], values["settings"]) != (feed.kind, feed.settings):
            feed.state = {}  # another place: what was read of the former says nothing of it
        for name, value in values.items():
            setattr(feed, name, value)
        feed.version += 1
        with once("name", f"There is a feed “{values['name']}” already."):
            feed.save()
        record(user, "changed a feed", feed.name)
    return feed


def drop_feed(user: Any, number: int) -> None:
    """Drop a feed that brought nothing yet. Raises Invalid, Feed.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        feed = Feed.objects.exclude(kind="hand").get(pk=number)
        if Document.objects.filter(feed=feed).exists():
            said = "its documents are evidence of what was known. Take its schedule away and it rests."
            raise Invalid("feed", f"“{feed.name}” stays: {said}")
        record(user, "dropped a feed", feed.name)
        feed.delete()


def test_feed(user: Any, data: FeedIn) -> FeedTestOut:
    """Fetch a feed as it is described and show a sample; nothing is kept. Raises Invalid."""
    require(user, "plan")
    values = _checked(data)
    began = time.perf_counter()
    sample: list[FeedSampleOut] = []
    faults: list[FeedFaultOut] = []
    read, says, remedy = 0, "", ""
    feed = Feed(**{k: v for k, v in values.items() if k != "next_at"})
    try:
        with closing(fetched(feed, {})) as parts:
            for part in islice(parts, LOOKED_AT):
                read += 1
                if part.document is None:
                    faults.append({"place": part.place[:300], "rule": str(part.refused)[:400]})
                elif len(sample) < SAMPLE:
                    sample.append(_sample(part.place, part.document))
                if time.perf_counter() - began > TEST_SECONDS:
                    says = f"It was looked at for {TEST_SECONDS:.0f} s; this is what came by then."
                    break
    except Problem as problem:
        says, remedy = problem.says, problem.remedy
    took = round((time.perf_counter() - began) * 1000)
    return {"read": read, "took_ms": took, "problem": says, "remedy": remedy, "sample": sample, "faults": faults[:50]}


def _sample(place: str, document: Read) -> FeedSampleOut:
    titles = (t.title or t.text for t in document.tellings)
    statements = sum(len(t.statements) for t in document.tellings) + len(document.chances) + len(document.used)
    title = next((t for t in titles if t), "")[:200]
    return {
        "place": place,
        "format": document.format,
        "name": document.name,
        "title": title,
        "statements": statements + len(document.ends),
    }


def start_run(user: Any, number: int, *, everything: bool = False) -> FeedRun:
    """Have a feed read; `everything`: what it gave before as well. Raises Invalid, Feed.DoesNotExist."""
    if user is not None:
        require(user, "sweep")
    now = int(time.time())
    with transaction.atomic():
        feed = Feed.objects.exclude(kind="hand").get(pk=number)
        if FeedRun.objects.filter(feed=feed, state__in=("waiting", "running"), made_at__gt=now - 6 * 3600).exists():
            raise Invalid("feed", f"“{feed.name}” is being read.")
        if everything:
            feed.state = {}
            feed.save(update_fields=["state"])
        made = FeedRun.objects.create(feed=feed, asked_by=user, made_at=now)
        record(user, "had a feed read", feed.name)
    run_feed(made.pk)
    return made


def accept_loss(user: Any, run_id: int) -> FeedRun:
    """Let a feed take back what its last reading held up; it is read anew. Raises Invalid, FeedRun.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        held = FeedRun.objects.select_related("feed").get(pk=run_id)
        latest = FeedRun.objects.filter(feed=held.feed).first()
        if held.loss is None or latest is None or latest.pk != held.pk:
            raise Invalid("run", "Nothing of this reading waits for a decision; look at the latest.")
        record(user, "let a feed take advisories back", held.feed.name, detail=dict(held.loss))
        made = FeedRun.objects.create(feed=held.feed, asked_by=user, made_at=int(time.time()), counts={"accepted": 1})
        held.loss = None
        held.save(update_fields=["loss"])
    run_feed(made.pk)
    return made


def start_due(now: int) -> None:
    """Have those feeds read whose time has come; take up readings nobody is at any more."""
    for feed in Feed.objects.filter(next_at__lte=now):
        Feed.objects.filter(pk=feed.pk).update(next_at=next_start(feed.schedule))
        try:
            start_run(None, feed.pk)
        except Invalid:
            continue  # the last one is still under way; its next turn comes
    lost = FeedRun.objects.filter(state="running", beat__lt=now - STALE) | FeedRun.objects.filter(
        state="waiting", made_at__lt=now - STALE
    )
    for number in list(lost.values_list("pk", flat=True)):
        FeedRun.objects.filter(pk=number).update(state="waiting", beat=now, made_at=now)
        run_feed(number)
