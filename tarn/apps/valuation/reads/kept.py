"""What is reckoned once a state of evidence and rules, and remembered until either changes."""

import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Any, TypeVar

from django.db.models import Count, Sum

from tarn.apps.estate.reads.database import raw_connection
from tarn.apps.estate.reads.terms import stamp
from tarn.apps.lifecycle.reads.steps import steps_version
from tarn.apps.lifecycle.reads.support import support_version
from tarn.apps.money.reads.ledger import money_version
from tarn.apps.people.scope import scope
from tarn.apps.valuation.models import AssetTerms, DepreciationRule, Energy

Made = TypeVar("Made")
_MOST = 12
_lock = threading.Lock()
_kept: "OrderedDict[tuple[object, ...], Any]" = OrderedDict()


def kept(what: str, at: object, make: Callable[[], Made]) -> Made:
    """Return what was made of this state before, or make it now."""
    key = (what, at, scope(), *stamp(raw_connection()), *_rules(), money_version(), steps_version(), support_version())
    with _lock:
        if key in _kept:
            _kept.move_to_end(key)
            found: Made = _kept[key]
            return found
    made = make()
    with _lock:
        _kept[key] = made
        while len(_kept) > _MOST:
            _kept.popitem(last=False)
    return made


def _rules() -> tuple[object, ...]:
    told = [m.objects.aggregate(n=Count("pk"), v=Sum("version")) for m in (DepreciationRule, AssetTerms, Energy)]
    return tuple(x for one in told for x in one.values())


def forget() -> None:
    """Drop everything remembered, after the tables were exchanged in this process."""
    with _lock:
        _kept.clear()
