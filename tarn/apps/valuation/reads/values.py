"""What assets are worth on a day: by which terms each is written down, its book value, and why some have none."""

from collections import Counter
from dataclasses import dataclass, replace
from datetime import date, datetime
from typing import Any

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.asking.dial import day_of, zone
from tarn.apps.estate.register.acquired import acquired
from tarn.apps.estate.register.identifiers import assets_of
from tarn.apps.lifecycle.reads.steps import Parted, disposals
from tarn.apps.money.reads.ledger import rates
from tarn.apps.people.scope import asker, visible
from tarn.apps.valuation.models import AssetTerms, DepreciationRule
from tarn.apps.valuation.reads.cache import kept
from tarn.apps.valuation.results import WithoutBook
from tarn.core.finance.depreciation import Disposal, Plan, Revision, Terms, disposal
from tarn.core.finance.many import books, charges
from tarn.core.finance.money import MoneyError, Rates
from tarn.core.finance.rules import DepreciationRule as CoreRule
from tarn.core.finance.rules import RuleChange, plan_for

NO_PRICE, NO_DAY, NO_RULE = (
    "no price is known",
    "the day it was bought is not known",
    "no rule of depreciation is for it",
)


@dataclass(frozen=True)
class Valued:
    """The worth of assets on a day, amounts in minor units of `currency`: by asset how it is written down, by which
    rule, its book value and what is written down this month; `apart`: by asset why it has no book value."""

    day: date
    currency: str
    plans: dict[int, Plan]
    by: dict[int, str]
    books: dict[int, int]
    charges: dict[int, int]
    apart: dict[int, str]
    facts: dict[int, dict[str, Any]]
    disposed: dict[int, Disposal]


def valued(at: int | None) -> Valued:
    """Return what the assets of the register are worth as of a moment. Remembered until something changes."""
    return kept("values", (at, day_of(at)), lambda: _valued(at))


def as_core(rule: DepreciationRule) -> CoreRule:
    """Return a rule as the core knows it. Raises DepreciationError."""
    changes = tuple(RuleChange(date.fromisoformat(c["day"]), c["months"], c["residual"]) for c in rule.changes)
    return CoreRule(rule.name, rule.months, rule.residual, rule.method, rule.convention, rule.factor, changes)  # type: ignore[arg-type]


def of_asset(asset_terms: AssetTerms) -> Plan:
    """Return the plan of an asset with terms of its own. Raises DepreciationError."""
    terms = Terms(
        asset_terms.cost,
        asset_terms.residual,
        asset_terms.months,
        asset_terms.start,
        asset_terms.method,  # type: ignore[arg-type]
        asset_terms.convention,  # type: ignore[arg-type]
        asset_terms.factor,
    )
    changes = (Revision(date.fromisoformat(r["day"]), r["months_left"], r["residual"]) for r in asset_terms.revisions)
    return Plan(terms, tuple(changes))


def day_at(moment: int) -> date:
    """Return the day a moment lies in, in the company's time zone."""
    return datetime.fromtimestamp(moment, zone()).date()


def own_terms() -> dict[int, AssetTerms]:
    """Return by asset the terms it has in place of its rule's."""
    rows = {asset_terms.anchor: asset_terms for asset_terms in AssetTerms.objects.all()}
    return {asset: rows[anchor] for anchor, asset in assets_of(rows).items()}


def cost_of(facts: dict[str, Any], known: Rates) -> int:
    """Return what an asset cost in the company's currency, at the rate of the day it was bought. Raises MoneyError."""
    currency = facts.get("currency") or known.base
    return known.convert(int(facts["price"]), currency, known.base, day_at(int(facts["bought_at"])))


def _valued(at: int | None) -> Valued:
    day, known = day_of(at), rates()
    whole = asker().everywhere()
    asked = question("", at, whole)
    facts = acquired(asked)
    everyone = set(ids(asked))
    rules = [(as_core(r), set(ids(question(r.filter, at, whole)))) for r in visible(DepreciationRule)]
    own, gone = own_terms(), disposals(at)
    plans: dict[int, Plan] = {}
    by: dict[int, str] = {}
    apart: dict[int, str] = {}
    for asset in everyone:
        ended = day_at(gone[asset].at) if asset in gone else None
        if asset in own:
            plans[asset], by[asset] = replace(of_asset(own[asset]), disposed=ended), "terms of its own"
            continue
        told = _by_rule(asset, facts.get(asset, {}), rules, known, ended)
        if isinstance(told, str):
            apart[asset] = told
        else:
            plans[asset], by[asset] = told
    order = list(plans)
    some = [plans[a] for a in order]
    return Valued(
        day=day,
        currency=known.base,
        plans=plans,
        by=by,
        books=dict(zip(order, books(some, day), strict=True)),
        charges=dict(zip(order, charges(some, day), strict=True)),
        apart=apart,
        facts=facts,
        disposed={a: _parted(plans[a], gone[a]) for a in gone if a in plans},
    )


def _by_rule(
    asset: int, facts: dict[str, Any], rules: list[tuple[CoreRule, set[int]]], known: Rates, ended: date | None
) -> tuple[Plan, str] | str:
    if facts.get("price") is None:
        return NO_PRICE
    if facts.get("bought_at") is None:
        return NO_DAY
    rule = next((r for r, members in rules if asset in members), None)
    if rule is None:
        return NO_RULE
    try:
        cost = cost_of(facts, known)
    except MoneyError as wrong:
        return str(wrong)
    return plan_for(rule, cost, day_at(int(facts["bought_at"])), ended), rule.name


def _parted(plan: Plan, step: Parted) -> Disposal:
    return disposal(replace(plan, disposed=None), day_at(step.at), step.proceeds, step.costs)


def apart_of(held: Valued) -> list[WithoutBook]:
    """Return why assets have no book value, each reason with how many."""
    return [{"why": why, "devices": n} for why, n in Counter(held.apart.values()).most_common()]
