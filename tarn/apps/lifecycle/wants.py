"""What wants a hand in lifecycle: notices to give, what is not back, what has not come."""

from datetime import date, timedelta

from tarn.apps.lifecycle.reads.contracts import today
from tarn.apps.lifecycle.reads.ending import Ending, endings
from tarn.apps.lifecycle.reads.orders import orders
from tarn.apps.lifecycle.reads.steps import hand_overs
from tarn.apps.people.wanting import Want, Wanted, named, several

SOON = 30
"""Days before the last day of a notice on which it is first spoken of."""


def _due(day: date) -> list[Ending]:
    found = endings(None, day, day + timedelta(days=3_660))
    return [e for e in found if e.notice_by and not e.decided and day <= e.notice_by <= day + timedelta(days=SOON)]


def _notices() -> Wanted:
    due = sorted(_due(today()), key=lambda e: e.notice_by or e.day)
    first = f"{due[0].name}: notice by {due[0].notice_by:%-d %B}" if due and due[0].notice_by else ""
    text = several(len(due), "notice must go out within a month", "notices must go out within a month")
    to = due[0].path if len(due) == 1 and due[0].path else "/lifecycle"
    things = tuple(f"{e.name} {e.notice_by}" for e in due)
    return Wanted(things, text, to, {}, first + (f" and {len(due) - 1} more" if len(due) > 1 else ""))


def _overdue() -> Wanted:
    late = [h for h in hand_overs(None) if h["overdue"]]
    text = several(len(late), "loan is overdue", "loans are overdue")
    things = tuple(f"{h['id']} {h['due']}" for h in late)
    return Wanted(things, text, "/lifecycle", {"tab": "hand-overs"}, named(h["receiver"] for h in late))


def _orders() -> Wanted:
    late = [o for o in orders() if o["open"] and o["late"]]
    text = several(len(late), "order should have come by now", "orders should have come by now")
    things = tuple(f"{o['id']} {o['expected']}" for o in late)
    return Wanted(things, text, "/lifecycle", {"tab": "orders"}, named(o["number"] for o in late))


WANTS = (
    Want("notices", "bad", "plan", "See which", _notices, rank=20),
    Want("overdue", "warn", "decide", "See who has them", _overdue),
    Want("orders-late", "warn", "decide", "See which", _orders),
)
