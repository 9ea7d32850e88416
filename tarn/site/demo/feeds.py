"""The demo company's feeds, and what they told on the days of its past, read by the real readers."""

import io
import json
from collections.abc import Iterator
from datetime import datetime
from typing import Any

from tarn.core.exposure.reading import Part, read_file
from tarn.lab import mirror
from tarn.lab.advisories import World, page

_BASE = f"http://{mirror.ADDRESS}:{mirror.PORT}"
NOTICES, REGISTER, CHANCES, USED, SUPPORT = (
    *("Notices of makers and distributions", "Register of vulnerabilities"),
    *("Chances of use", "Vulnerabilities in use", "Ends of support"),
)
FEEDS: tuple[dict[str, Any], ...] = (
    {"name": NOTICES, "kind": "mirrored directory", "settings": {"base": f"{_BASE}/advisories/"}},
    {"name": REGISTER, "kind": "paged mirror", "settings": {"base": f"{_BASE}/register/2.0", "size": mirror.MOST}},
    {"name": CHANCES, "kind": "mirrored file", "settings": {"base": f"{_BASE}/chances.csv.gz"}},
    {"name": USED, "kind": "mirrored file", "settings": {"base": f"{_BASE}/used.json"}},
    {"name": SUPPORT, "kind": "mirrored file", "settings": {"base": f"{_BASE}/support.csv"}},
)


def make_feeds() -> None:
    """Make the feeds the company reads each morning."""
    from tarn.apps.exposure.feeds.change import make_feed
    from tarn.apps.exposure.feeds.inputs import FeedIn

    for described in FEEDS:
        schedule = "FREQ=DAILY;BYHOUR=6;BYMINUTE=30;BYSECOND=0"
        make_feed(None, FeedIn.model_validate({**described, "route": "lab", "schedule": schedule}))


def told_on(day: int, morning: datetime) -> Iterator[tuple[str, list[Part]]]:
    """Yield by feed the documents that stood on a morning of the lab."""
    world = World(day, morning)
    files = ((path, json.dumps(content).encode()) for path, content, _ in world.files())
    yield NOTICES, [p for path, body in files for p in read_file(path, io.BytesIO(body))]
    yield REGISTER, list(read_file("register", io.BytesIO(page(world, 0, 10_000))))
    yield CHANCES, list(read_file("chances.csv.gz", io.BytesIO(world.chances())))
    yield USED, list(read_file("used.json", io.BytesIO(json.dumps(world.used()).encode())))
    yield SUPPORT, list(read_file("support.csv", io.BytesIO(world.support())))


def read_then(day: int, morning: datetime) -> None:
    """Read what the feeds told on a morning of the past."""
    from tarn.apps.exposure.feeds.take import take_in
    from tarn.apps.exposure.models import Feed

    at = int(morning.timestamp())
    feeds = {f.name: f for f in Feed.objects.all()}
    for name, parts in told_on(day, morning):
        take_in(feeds[name], parts, at)


def read_now() -> None:
    """Read the feeds over the wire, as every morning."""
    import time

    from tarn.apps.exposure.feeds.reading import carry_out
    from tarn.apps.exposure.models import Feed, FeedRun

    for feed in Feed.objects.all():
        carry_out(FeedRun.objects.create(feed=feed, made_at=int(time.time())).pk)
