"""Feeds over HTTP: thin; parse, call, shape."""

import time

from django.http import HttpRequest
from ninja import File, Router, Status
from ninja.files import UploadedFile

from tarn.apps.exposure.feeds import change as actions
from tarn.apps.exposure.feeds import shown as reads
from tarn.apps.exposure.feeds.inputs import FeedIn
from tarn.apps.exposure.feeds.results import AdvisoryFeed, FeedKindOut, FeedPage, FeedRunOut, FeedTestOut
from tarn.apps.exposure.feeds.take import take_by_hand
from tarn.apps.exposure.models import Feed, FeedRun
from tarn.apps.people.answers import or_404
from tarn.core.exposure.reading import read_file

router = Router(tags=["feeds"])


@router.get("/feeds", response=list[AdvisoryFeed])
def feeds(request: HttpRequest) -> list[AdvisoryFeed]:
    """Return the feeds, each with its last reading."""
    return reads.feeds()


@router.get("/feeds/choices", response=list[FeedKindOut])
def choices(request: HttpRequest) -> list[FeedKindOut]:
    """Return the kinds of feed and their forms."""
    return reads.choices()


@router.post("/feeds/test", response=FeedTestOut)
def test(request: HttpRequest, data: FeedIn) -> FeedTestOut:
    """Fetch a feed as described and show a sample; nothing is kept."""
    return actions.test_feed(request.user, data)


@router.post("/feeds/documents", response=FeedRunOut)
def bring(request: HttpRequest, file: File[UploadedFile]) -> FeedRunOut:
    """Read the documents of a file in, packed or not."""
    parts = read_file(file.name or "file", file)
    return reads.run(take_by_hand(request.user, parts, int(time.time())))


@router.post("/feeds", response=FeedPage)
def new_feed(request: HttpRequest, data: FeedIn) -> FeedPage:
    """Make a feed."""
    return reads.feed_page(actions.make_feed(request.user, data).pk)


@router.get("/feeds/{number}", response=FeedPage)
def one_feed(request: HttpRequest, number: int) -> FeedPage:
    """Return a feed and its latest readings."""
    return or_404(Feed, reads.feed_page, number)


@router.put("/feeds/{number}", response=FeedPage)
def edit_feed(request: HttpRequest, number: int, data: FeedIn) -> FeedPage:
    """Change a feed."""
    or_404(Feed, lambda n: actions.change_feed(request.user, n, data), number)
    return reads.feed_page(number)


@router.delete("/feeds/{number}", response={204: None})
def end_feed(request: HttpRequest, number: int) -> Status[None]:
    """Drop a feed that brought nothing yet."""
    or_404(Feed, lambda n: actions.drop_feed(request.user, n), number)
    return Status(204, None)


@router.post("/feeds/{number}/runs", response=FeedRunOut)
def start(request: HttpRequest, number: int) -> FeedRunOut:
    """Have a feed read now."""
    return reads.run(or_404(Feed, lambda n: actions.start_run(request.user, n), number))


@router.post("/feed-runs/{number}/loss", response=FeedRunOut)
def accept_loss(request: HttpRequest, number: int) -> FeedRunOut:
    """Let a feed take back what its last reading held up; it is read anew."""
    return reads.run(or_404(FeedRun, lambda n: actions.accept_loss(request.user, n), number, "reading"))
