"""The terms of licences as of a day: those in force now, or those that held before they were changed."""

from collections.abc import Iterable
from copy import copy
from datetime import date
from typing import Any

from tarn.apps.licences.models import Licence, PastTerms
from tarn.apps.people.scope import visible

DATED = (
    *("metric", "products", "release", "downgrade", "second_device", "guests", "per_host", "per_processor", "pack"),
    *("formula", "departments", "without_limit", "starts", "ends", "maintained_until", "transferable"),
    *("edition", "shared"),
    *("cost", "cost_currency", "cost_every"),
)
"""What of a licence is told of a past day as it was then."""
_DAYS = ("starts", "ends", "maintained_until")


def terms_of(licence: Licence) -> dict[str, Any]:
    """Return the terms of a licence as they are kept of the past."""
    return {n: v.isoformat() if isinstance(v := getattr(licence, n), date) else v for n in DATED}


def as_of(day: date) -> dict[int, Licence]:
    """Return the licences whoever asks may see, with the terms each had on a day."""
    past: dict[int, PastTerms] = {}
    for one in visible(PastTerms).filter(until__gt=day):
        past.setdefault(one.licence_id, one)
    return {one.pk: _then(one, past.get(one.pk)) for one in visible(Licence).select_related("organisation")}


def _then(now: Licence, past: PastTerms | None) -> Licence:
    if past is None:
        return now
    then = copy(now)
    for name, value in past.terms.items():
        if name in DATED:
            setattr(then, name, date.fromisoformat(value) if name in _DAYS and value else value)
    return then


def former(licences: Iterable[int]) -> dict[int, list[dict[str, Any]]]:
    """Return by licence the terms it had before, the latest first."""
    out: dict[int, list[dict[str, Any]]] = {}
    for one in visible(PastTerms).filter(licence__in=list(licences)).order_by("-until", "-pk"):
        out.setdefault(one.licence_id, []).append({"until": one.until.isoformat(), "terms": one.terms})
    return out
