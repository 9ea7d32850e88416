"""What is shown of feeds: how each is fetched, what its readings brought, what was refused."""

from django.db.models import Count, Max

from tarn.apps.discovery.sources.shown import form_of
from tarn.apps.exposure.feeds.results import AdvisoryFeed, FeedKindOut, FeedPage, FeedRunOut
from tarn.apps.exposure.models import Document, Feed, FeedRun
from tarn.collect.feeds.kind import feed_kinds
from tarn.core.schedule import in_words

SHOWN = 100
"""Faults of a reading that are shown."""


def run(held: FeedRun) -> FeedRunOut:
    """Return a reading: what it came to and what was refused."""
    return {
        "id": held.pk,
        "state": held.state,
        "made_at": held.made_at,
        "ended_at": held.ended_at,
        "counts": held.counts,
        "faults": held.faults[:SHOWN],
        "message": held.message,
        "loss": held.loss,
        "asked_by": held.asked_by.username if held.asked_by else None,
    }


def feeds() -> list[AdvisoryFeed]:
    """Return all feeds, each with its last reading."""
    latest = FeedRun.objects.values("feed").annotate(last=Max("pk")).values("last")
    last = {r.feed_id: r for r in FeedRun.objects.filter(pk__in=latest).select_related("asked_by")}
    standing = Document.objects.filter(ends=None).values("feed").annotate(number=Count("pk"))
    documents = {row["feed"]: row["number"] for row in standing}
    return [_feed(f, last.get(f.pk), documents.get(f.pk, 0)) for f in Feed.objects.all()]


def _feed(held: Feed, last: FeedRun | None, documents: int) -> AdvisoryFeed:
    return {
        "id": held.pk,
        "name": held.name,
        "kind": held.kind,
        "settings": held.settings,
        "route": held.route,
        "schedule": held.schedule,
        "schedule_words": in_words(held.schedule) if held.schedule else "",
        "next_at": held.next_at,
        "loss_share": held.loss_share,
        "version": held.version,
        "documents": documents,
        "last_run": run(last) if last else None,
    }


def feed_page(number: int) -> FeedPage:
    """Return one feed and its latest readings. Raises Feed.DoesNotExist."""
    held = Feed.objects.get(pk=number)
    runs = [run(r) for r in FeedRun.objects.select_related("asked_by").filter(feed=held)[:20]]
    documents = Document.objects.filter(feed=held, ends=None).count()
    feed = _feed(held, None, documents)
    feed["last_run"] = runs[0] if runs else None
    return {"feed": feed, "runs": runs}


def choices() -> list[FeedKindOut]:
    """Return the kinds of feed there are."""
    return [{"name": k.name, "text": k.text, "form": form_of(k.form)} for k in feed_kinds().values()]
