"""What is reckoned once a state of evidence and rules, and remembered until either changes."""

from collections.abc import Callable
from typing import Any, TypeVar

from django.db.models import Count, Sum

from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import EVIDENCE, Ground, counted
from tarn.apps.lifecycle.reads.steps import steps_version
from tarn.apps.lifecycle.reads.support import support_version
from tarn.apps.money.reads.ledger import money_version
from tarn.apps.people.scope import scope
from tarn.apps.valuation.models import AssetTerms, DepreciationRule, Energy

Made = TypeVar("Made")


def _rules() -> tuple[object, ...]:
    told = [m.objects.aggregate(n=Count("pk"), v=Sum("version")) for m in (DepreciationRule, AssetTerms, Energy)]
    return tuple(x for one in told for x in one.values())


_worth: Remembered[Any] = Remembered(
    "worth and cost",
    EVIDENCE,
    Ground("rules of depreciation", _rules),
    Ground("money", money_version),
    Ground("steps", steps_version),
    Ground("ends of support", support_version),
    counted("carried"),
    most=12,
)


def kept(what: str, at: object, make: Callable[[], Made]) -> Made:
    """Return what was made of this state before, or make it now."""
    made: Made = _worth.get((what, at, scope()), make)
    return made
