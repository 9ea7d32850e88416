"""The terms of licences as of a day: those in force now, or those that held before they were changed."""

from collections.abc import Iterable
from datetime import date
from typing import Any

from tarn.apps.licences.models import Licence, PastTerms
from tarn.apps.licences.results import FormerTerms
from tarn.apps.people.scope import visible
from tarn.core.finance.agreed import Former, Stretch, stretches, told

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
    return told(licence, DATED)


def over_time() -> list[tuple[Licence, list[Stretch]]]:
    """Return the licences whoever asks may see, each with what it was from when to when, as it is now last."""
    past: dict[int, list[Former]] = {}
    for one in visible(PastTerms):
        before = past.setdefault(one.licence_id, [])
        if not before or before[-1].until < one.until:  # what was replaced before it ever held is no stretch
            before.append(Former(one.until, one.terms))
    held = visible(Licence).select_related("organisation")
    return [(one, list(stretches(one, past.get(one.pk, []), DATED, _DAYS))) for one in held]


def as_of(day: date) -> dict[int, Licence]:
    """Return the licences whoever asks may see, with the terms each had on a day."""
    return {one.pk: next(s.terms for s in parts if s.until is None or day < s.until) for one, parts in over_time()}


def former(licences: Iterable[int]) -> dict[int, list[FormerTerms]]:
    """Return by licence the terms it had before, the latest first."""
    out: dict[int, list[FormerTerms]] = {}
    for past_terms in visible(PastTerms).filter(licence__in=list(licences)).order_by("-until", "-pk"):
        out.setdefault(past_terms.licence_id, []).append(
            {"until": past_terms.until.isoformat(), "terms": past_terms.terms}
        )
    return out
