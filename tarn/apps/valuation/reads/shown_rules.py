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
                "id": depreciation_rule.pk,
                "name": depreciation_rule.name,
                "filter": depreciation_rule.filter,
                "months": depreciation_rule.months,
                "method": depreciation_rule.method,
                "convention": depreciation_rule.convention,
                "factor": depreciation_rule.factor,
                "version": depreciation_rule.version,
                "residual": _percent(depreciation_rule.residual),
                "changes": [
                    {"day": c["day"], "months": c["months"], "residual": _percent(c["residual"])}
                    for c in depreciation_rule.changes
                ],
                "devices": count[depreciation_rule.name],
                "cost": str(from_minor(cost[depreciation_rule.name], worth.currency)),
                "book": str(from_minor(book[depreciation_rule.name], worth.currency)),
            }
            for depreciation_rule in visible(DepreciationRule)
        ],
        "own": count["terms of its own"],
        "apart": apart_of(worth),
    }


def _percent(hundredths: int) -> str:
    whole, rest = divmod(hundredths, 100)
    return f"{whole}.{rest:02d}".rstrip("0").rstrip(".") if rest else str(whole)
