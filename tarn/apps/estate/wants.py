"""What wants a hand of devices: what a filter says, counted where whoever asks stands."""

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.people.wanting import Want, Wanted, several


def by_filter(filter: str, one: str, many: str, beside: str = "") -> Wanted:
    """Return the devices a filter is met by as what wants a hand; the button opens exactly these."""
    met = ids(question(filter, None))
    return Wanted(tuple(map(str, met)), several(len(met), one, many), "/estate", {"q": filter}, beside)


def _left() -> Wanted:
    return by_filter(
        "person.left = yes and not state in (retired, disposed)",
        "device is still held by somebody who has left",
        "devices are still held by people who have left",
    )


def _full() -> Wanted:
    return by_filter(
        "filesystems[full >= 95]",
        "computer has a disk that is all but full",
        "computers have a disk that is all but full",
    )


def _missing() -> Wanted:
    return by_filter("state = missing", "device is missing", "devices are missing")


WANTS = (
    Want("disks-full", "bad", "look", "See which", _full, rank=14),
    Want("leavers", "warn", "decide", "Ask for them back", _left, rank=30),
    Want("missing", "warn", "decide", "See which", _missing),
)
