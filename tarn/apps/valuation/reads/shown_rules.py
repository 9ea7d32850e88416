"""Rules of depreciation as they are listed: with how many assets each writes down, and what they are worth."""

from collections import Counter, defaultdict

from tarn.apps.people.scope import visible
from tarn.apps.valuation.models import DepreciationRule
from tarn.apps.valuation.reads.values import apart_of, valued
from tarn.apps.valuation.results import DepreciationRulesOut
from tarn.core.finance.depreciation import CONVENTIONS, METHODS
from tarn.core.finance.money import from_minor


def rules(at: int | None) -> DepreciationRulesOut:
    """Return the rules in their order as of a moment, and what has no book value and why."""
    worth = valued(at)
    count = Counter(worth.by.values())
    cost: dict[str, int] = defaultdict(int)
    book: dict[str, int] = defaultdict(int)
    for asset, name in worth.by.items():
        cost[name] += worth.plans[asset].terms.cost
        book[name] += worth.books[asset]
    return {
        "day": worth.day.isoformat(),
        "currency": worth.currency,
        "methods": list(METHODS),
        "conventions": list(CONVENTIONS),
        "rules": [
            {
                "id": one.pk,
                "name": one.name,
                "filter": one.filter,
                "months": one.months,
                "method": one.method,
                "convention": one.convention,
                "factor": one.factor,
                "version": one.version,
                "residual": _percent(one.residual),
                "changes": [
                    {"day": c["day"], "months": c["months"], "residual": _percent(c["residual"])} for c in one.changes
                ],
                "devices": count[one.name],
                "cost": str(from_minor(cost[one.name], worth.currency)),
                "book": str(from_minor(book[one.name], worth.currency)),
            }
            for one in visible(DepreciationRule)
        ],
        "own": count["terms of its own"],
        "apart": apart_of(worth),
    }


def _percent(hundredths: int) -> str:
    whole, rest = divmod(hundredths, 100)
    return f"{whole}.{rest:02d}".rstrip("0").rstrip(".") if rest else str(whole)
