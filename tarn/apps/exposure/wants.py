"""What wants a hand of vulnerabilities: what is past its day, and feeds that are not read."""

from tarn.apps.estate.wants import by_filter
from tarn.apps.exposure.feeds.shown import feeds
from tarn.apps.people.wanting import Want, Wanted, named, several


def _used() -> Wanted:
    return by_filter(
        "vulnerability[late = yes and exploited = yes and accepted = no]",
        "device is open past its day to what attackers use",
        "devices are open past their day to what attackers use",
    )


def _late() -> Wanted:
    return by_filter(
        "vulnerability[late = yes and accepted = no] and "
        "not vulnerability[late = yes and exploited = yes and accepted = no]",
        "more device is open to something past its day",
        "more devices are open to something past its day",
    )


def _feeds() -> Wanted:
    failed = [(f, run) for f in feeds() if (run := f["last_run"]) is not None and run["state"] == "failed"]
    text = several(len(failed), "feed could not be read last time", "feeds could not be read last time")
    to = f"/exposure/feeds/{failed[0][0]['id']}" if len(failed) == 1 else "/exposure/feeds"
    things = tuple(f"{f['id']} {run['id']}" for f, run in failed)
    return Wanted(things, text, to, {}, named(f["name"] for f, _ in failed))


WANTS = (
    Want("late-in-use", "bad", "look", "See which", _used, rank=10),
    Want("late", "bad", "look", "See which", _late, rank=40),
    Want("feeds-failed", "bad", "sweep", "See why", _feeds, rank=30),
)
