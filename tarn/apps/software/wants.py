"""What wants a hand of software: rulings that were to be looked at again, and what is there against one."""

import time

from tarn.apps.estate.wants import by_filter
from tarn.apps.people.wanting import Want, Wanted, named, several
from tarn.apps.software.reads.rulings import rows


def _again() -> Wanted:
    now = time.time()
    due = [r for r in rows(None) if r["over"] or (r["review_at"] is not None and r["review_at"] <= now)]
    text = several(len(due), "ruling is to be looked at again", "rulings are to be looked at again")
    things = tuple(f"{r['id']} {r['review_at']} {r['over']}" for r in due)
    return Wanted(things, text, "/software", {"tab": "rulings"}, named(r["name"] for r in due))


def _barred() -> Wanted:
    return by_filter(
        "software[ruling = barred]", "device has software that is barred", "devices have software that is barred"
    )


WANTS = (
    Want("barred", "warn", "look", "See which", _barred),
    Want("rulings-again", "note", "decide", "Look at them", _again),
)
