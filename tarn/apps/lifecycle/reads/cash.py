"""Payments: what is to come from contracts, licences and purchases, and what was paid in a period."""

from collections import defaultdict
from datetime import date, timedelta

from tarn.apps.estate.asking.dial import day_of
from tarn.apps.licences.reads.dated import paid
from tarn.apps.lifecycle.models import Contract
from tarn.apps.lifecycle.reads.contracts import as_agreed, terms_over_time, today
from tarn.apps.lifecycle.results import CashOut, MonthOut, PaymentOut
from tarn.apps.money.reads.ledger import ledger, rates
from tarn.apps.people.scope import visible
from tarn.core.finance.contracts import standing
from tarn.core.finance.money import MoneyError, from_minor
from tarn.core.finance.payments import Due, payments, same_day

MOST_MONTHS = 120


def dues() -> tuple[list[Due], dict[str, dict[str, str]]]:
    """Return everything that is paid, and by key what it is for."""
    out: list[Due] = []
    about: dict[str, dict[str, str]] = {}

    def add(name: str, what: str, path: str, due: Due) -> None:
        out.append(due)
        about[due.key] = {"name": name, "what": what, "path": path}

    for contract in visible(Contract):
        for begins, until, held in terms_over_time(contract):
            if not held.every:
                continue
            stands = standing(as_agreed(held), today())
            let_go = held.decided == "let go" and held.decided_for == stands.ends
            first, renews = held.first_payment or held.starts, bool(held.renews) and not let_go
            due = Due(
                f"contract {held.pk}", held.cost, held.currency, first, held.every, stands.ends, renews, begins, until
            )
            add(held.name, held.kind, f"/lifecycle/contracts/{held.pk}", due)
    for due, name, what, number in paid():
        add(name, what, f"/licences/{number}", due)
    return out, about


def cash(at: int | None, months: int, since: date | None = None) -> CashOut:
    """Return by month what falls due from a month on, in each currency and in the company's own, and what for.

    `apart` are amounts no rate is known for; they are in no sum.
    """
    begins = (since or day_of(at)).replace(day=1)
    until = same_day(begins, months) - timedelta(days=1)
    own, known = ledger().currency, rates()
    told, about = dues()
    by_month: dict[tuple[int, int], list[PaymentOut]] = defaultdict(list)
    sums: dict[tuple[int, int], dict[str, int]] = defaultdict(lambda: defaultdict(int))
    total: dict[tuple[int, int], int] = defaultdict(int)
    apart: set[str] = set()
    for due in told:
        for payment in payments(due, begins, until):
            month = (payment.day.year, payment.day.month)
            sums[month][payment.currency] += payment.amount
            try:
                in_own = known.convert(payment.amount, payment.currency, own, min(payment.day, day_of(None)))
                total[month] += in_own
            except MoneyError:
                in_own = None
                apart.add(payment.currency)
            by_month[month].append(
                {
                    "name": about[payment.key]["name"],
                    "what": about[payment.key]["what"],
                    "path": about[payment.key]["path"],
                    "day": payment.day.isoformat(),
                    "amount": str(from_minor(payment.amount, payment.currency)),
                    "currency": payment.currency,
                    "own": None if in_own is None else str(from_minor(in_own, own)),
                    "renewal": payment.renewal,
                }
            )
    out: list[MonthOut] = []
    for number in range(months):
        month_ = same_day(begins, number)
        key = (month_.year, month_.month)
        out.append(
            {
                "month": month_.isoformat(),
                "total": str(from_minor(total[key], own)),
                "currencies": {code: str(from_minor(n, code)) for code, n in sorted(sums[key].items())},
                "payments": sorted(by_month[key], key=lambda p: (p["day"], p["name"])),
            }
        )
    return {
        "currency": own,
        "months": out,
        "total": str(from_minor(sum(total.values()), own)),
        "apart": sorted(apart),
    }
