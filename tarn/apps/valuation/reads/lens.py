"""The money of a selection: what it cost, is worth and costs a month, by what one asks; and that of one asset."""

from collections import defaultdict
from dataclasses import replace
from datetime import date
from typing import Any, overload

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.register.rows import rows_of
from tarn.apps.money.reads.ledger import ledger
from tarn.apps.valuation.reads.costs import Costs, costs
from tarn.apps.valuation.reads.values import Valued, apart_of, own_terms, valued
from tarn.apps.valuation.results import (
    AssetMoneyOut,
    MoneyOut,
    ScheduleMonth,
    ScheduleYear,
    Sums,
    TermsOut,
    WithoutBook,
)
from tarn.core.finance.depreciation import Plan, by_fiscal_year, schedule
from tarn.core.finance.money import from_minor
from tarn.core.finance.payments import months_between, same_day

BY = ("department", "place", "kind", "cost_centre", "person", "state", "supplier", "order")
_SHOWN = ["name", "number", "kind", "department", "place", "bought"]
MOST_ROWS = 500


def money_of(text: str, by: str, at: int | None, offset: int = 0, limit: int = 100, *, written: str = "") -> MoneyOut:
    """Return the sums of a selection, its groups the dearest first, and a page of its assets, the dearest first.

    `written` narrows it to what one rule writes down, or to what has no book value for one reason, by their words.
    """
    worth, paid = valued(at), costs(at)
    names = list(dict.fromkeys([*_SHOWN, by]))
    rows = list(rows_of("asset", names, question(text, at), "", []))
    if written:
        rows = [r for r in rows if (worth.by.get(r["id"]) or worth.apart.get(r["id"])) == written]
    groups: dict[str, dict[str, int]] = defaultdict(lambda: defaultdict(int))
    whole: dict[str, int] = defaultdict(int)
    told = []
    for row in rows:
        figures = _figures(row["id"], worth, paid)
        for sums in (groups[str(row[by] or "")], whole):
            sums["devices"] += 1
            for name, amount in figures.items():
                sums[name] += amount or 0
        told.append((row, figures))
    told.sort(key=lambda t: (-t[1]["month"], -(t[1]["book"] or 0), t[0]["name"] or ""))
    mine = {row["id"] for row in rows}
    return {
        "day": worth.day.isoformat(),
        "currency": worth.currency,
        "by": by,
        "whole": _shown(whole, worth.currency),
        "groups": [
            {"name": name, **_shown(sums, worth.currency)}
            for name, sums in sorted(groups.items(), key=lambda g: (-g[1]["month"], -g[1]["book"], g[0]))
        ],
        "rows": [
            {
                "id": row["id"],
                "name": row["name"],
                "number": row["number"],
                "kind": row["kind"],
                "department": row["department"],
                "place": row["place"],
                "bought": row["bought"],
                "cost": _money(figures["cost"], worth.currency),
                "book": _money(figures["book"], worth.currency),
                "depreciation": _money(figures["depreciation"], worth.currency),
                "contracts": _money(figures["contracts"], worth.currency),
                "licences": _money(figures["licences"], worth.currency),
                "energy": _money(figures["energy"], worth.currency),
                "month": _money(figures["month"], worth.currency),
                "why": worth.by.get(row["id"]) or worth.apart.get(row["id"], ""),
            }
            for row, figures in told[offset : offset + min(limit, MOST_ROWS)]
        ],
        "apart": _apart(worth, mine),
        "without_rate": paid.apart,
        "loose": [{"name": n, "month": str(from_minor(a, worth.currency))} for n, a in sorted(paid.loose.items())],
    }


def _apart(worth: Valued, mine: set[int]) -> list[WithoutBook]:
    return apart_of(replace(worth, apart={a: why for a, why in worth.apart.items() if a in mine}))


def _figures(asset: int, worth: Valued, paid: Costs) -> dict[str, Any]:
    plan = worth.plans.get(asset)
    parts = paid.of(asset)
    return {
        "cost": plan.terms.cost if plan else None,
        "book": worth.books.get(asset),
        **parts,
        "month": sum(parts.values()),
    }


def _shown(sums: dict[str, int], currency: str) -> Sums:
    def told(name: str) -> str:
        return str(from_minor(sums[name], currency))

    return {
        "devices": sums["devices"],
        "cost": told("cost"),
        "book": told("book"),
        "depreciation": told("depreciation"),
        "contracts": told("contracts"),
        "licences": told("licences"),
        "energy": told("energy"),
        "month": told("month"),
    }


def for_report(text: str, at: int | None) -> list[dict[str, Any]]:
    """Return the worth of a selection's assets as rows of a report; amounts as numbers of the company's currency."""
    worth, paid = valued(at), costs(at)
    names = [*_SHOWN, "cost_centre", "supplier"]
    out = []
    for row in rows_of("asset", names, question(text, at), "", []):
        figures = _figures(row["id"], worth, paid)
        amounts = {n: None if a is None else float(from_minor(a, worth.currency)) for n, a in figures.items()}
        told = worth.by.get(row["id"]) or worth.apart.get(row["id"], "")
        out.append({**row, **amounts, "currency": worth.currency, "by": told})
    return out


def money_of_asset(asset: int, at: int | None) -> AssetMoneyOut:
    """Return the money of one asset: its terms, its schedule by year and by month, what it costs a month and why."""
    worth, paid = valued(at), costs(at)
    plan, own = worth.plans.get(asset), own_terms().get(asset)
    gone = worth.disposed.get(asset)
    return {
        "day": worth.day.isoformat(),
        "currency": worth.currency,
        "by": worth.by.get(asset, ""),
        "apart": worth.apart.get(asset, ""),
        "book": _money(worth.books.get(asset), worth.currency),
        "terms": None if plan is None else _terms(plan, worth.currency),
        "own": None if own is None else {"version": own.version, "why": own.why, "made_by": own.made_by},
        "years": [] if plan is None else _years(plan, worth),
        "months": [] if plan is None else _months(plan, worth.day, worth.currency),
        "disposal": None
        if gone is None
        else {"book": _money(gone.book, worth.currency), "gain": _money(gone.gain, worth.currency)},
        "month": [
            {"part": part, "what": what, "amount": _money(amount, worth.currency)}
            for part, what, amount in paid.why.get(asset, [])
        ],
        "total": _money(sum(paid.of(asset).values()), worth.currency),
    }


@overload
def _money(amount: int, currency: str) -> str: ...
@overload
def _money(amount: int | None, currency: str) -> str | None: ...
def _money(amount: int | None, currency: str) -> str | None:
    return None if amount is None else str(from_minor(amount, currency))


def _terms(plan: Plan, currency: str) -> TermsOut:
    t = plan.terms
    return {
        "cost": _money(t.cost, currency),
        "residual": _money(t.residual, currency),
        "months": t.months,
        "start": t.start.isoformat(),
        "method": t.method,
        "convention": t.convention,
        "factor": t.factor,
        "revisions": [
            {"day": r.day.isoformat(), "months_left": r.months_left, "residual": _money(r.residual, currency)}
            for r in plan.revisions
        ],
    }


def _years(plan: Plan, worth: Valued) -> list[ScheduleYear]:
    begins = ledger().year_begins
    last = same_day(plan.terms.start, plan.terms.months + 12)
    for revision in plan.revisions:
        last = max(last, same_day(revision.day, revision.months_left + 12))
    lines = schedule(plan, plan.terms.start, months_between(plan.terms.start, last))
    left = plan.terms.cost
    out: list[ScheduleYear] = []
    for number, year in by_fiscal_year(lines, begins).items():
        left -= year.charge + year.derecognised
        if year.charge or year.derecognised:
            out.append(
                {
                    "year": number,
                    "charge": _money(year.charge, worth.currency),
                    "derecognised": _money(year.derecognised, worth.currency),
                    "book": _money(left, worth.currency),
                }
            )
    return out


def _months(plan: Plan, day: date, currency: str) -> list[ScheduleMonth]:
    """Return the twelve months around a day: six that were, and those to come."""
    lines = schedule(plan, same_day(day.replace(day=1), -5), 12)
    return [
        {
            "month": f"{line.year}-{line.month:02d}",
            "charge": _money(line.charge, currency),
            "derecognised": _money(line.derecognised, currency),
            "book": _money(line.book, currency),
        }
        for line in lines
    ]
