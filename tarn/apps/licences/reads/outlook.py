"""What is to be expected: how need has gone, what is to be renewed within a year, and what if people are hired."""

from collections import Counter, defaultdict
from dataclasses import replace
from datetime import date, datetime, timedelta
from statistics import median

from tarn.apps.estate.asking.dial import zone
from tarn.apps.licences.reads.reckoning import Reckoned, basis_of, money, name_of, reckoned
from tarn.apps.licences.reads.remedying import remedy_of
from tarn.apps.licences.results import (
    ChangedBalance,
    ExpectedLine,
    HiredBalance,
    HiredOut,
    NextYearOut,
    PurchaseLine,
    TrendPoint,
)
from tarn.apps.money.reads.ledger import rates
from tarn.core.finance.money import MoneyError, from_minor
from tarn.core.finance.payments import Due, payments, same_day
from tarn.core.licensing.reckon import reckon
from tarn.core.licensing.rights import Use
from tarn.core.text import fold

POINTS, APART = 5, 3
"""How many past days need is told of, and months from one to the next."""
MOST_HIRED = 10_000
TYPICAL = 0.5
"""Share of a department's people who have a product, from which on somebody new has it too."""


def trend(key: str, at: int | None) -> list[TrendPoint]:
    """Return need and right of a balance on days of the past year, the latest last; a day without it has none."""
    last = reckoned(at).given.day
    out: list[TrendPoint] = []
    for number in reversed(range(POINTS)):
        day = same_day(last, -APART * number)
        then = at if number == 0 else _end_of(day)
        balance = next((b for b in reckoned(then).balances if b.key == key), None)
        out.append(
            {
                "day": day.isoformat(),
                "needed": balance.needed if balance else 0,
                "entitled": balance.entitled if balance else 0,
                "short": balance.short if balance else 0,
            }
        )
    return out


def changed_since(since: date, at: int | None) -> list[ChangedBalance]:
    """Return the balances that stood otherwise at the end of a day than they do now, those most shorter first."""
    now, then = reckoned(at), reckoned(_end_of(since))
    before, after = ({b.key: b for b in whole.balances} for whole in (then, now))
    out: list[ChangedBalance] = []
    for key in {*before, *after}:
        was, is_ = before.get(key), after.get(key)
        told = [(b.needed, b.entitled, b.short) if b else (0, 0, 0) for b in (was, is_)]
        if told[0] != told[1]:
            balance = is_ or was
            assert balance is not None
            names = now.given.names | then.given.names
            out.append(
                {
                    "key": key,
                    "name": name_of(balance, names),
                    "unit": balance.unit,
                    "needed": [told[0][0], told[1][0]],
                    "entitled": [told[0][1], told[1][1]],
                    "short": [told[0][2], told[1][2]],
                }
            )
    return sorted(out, key=lambda r: (r["short"][0] - r["short"][1], r["name"]))


def _end_of(day: date) -> int:
    after = day + timedelta(days=1)
    return int(datetime(after.year, after.month, after.day, tzinfo=zone()).timestamp()) - 1


def next_year(at: int | None) -> NextYearOut:
    """Return what licences will cost within a year: payments that come again, terms to renew, and what is short."""
    whole, known = reckoned(at), rates()
    until = same_day(whole.given.day, 12)
    lines: list[tuple[int, ExpectedLine]] = []
    apart: list[str] = []
    for licence in whole.given.licences:
        held = whole.given.held[licence.key]
        try:
            if held.cost_every:
                first = held.starts or whole.given.day
                due = Due(held.name, held.cost, held.cost_currency, first, held.cost_every, held.ends, True)  # type: ignore[arg-type]
                for payment in payments(due, whole.given.day + timedelta(days=1), until):
                    amount = known.convert(payment.amount, payment.currency, known.base, whole.given.day)
                    sort = "renewal" if payment.renewal else "payment"
                    lines.append(_line(sort, held.name, licence.key, payment.day, amount, whole))
            elif held.ends and whole.given.day < held.ends <= until and licence.price and licence.quantity:
                amount = licence.price * licence.quantity
                lines.append(_line("renewal", held.name, licence.key, held.ends, amount, whole))
        except MoneyError as wrong:
            apart.append(f"{held.name}: {wrong}")
    for buy in remedy_of(whole, free=False).buys:
        lines.append(_line("true-up", buy.licence.name, buy.licence.key, whole.given.day, buy.cost, whole))
    sums: Counter[str] = Counter()
    for minor, line in lines:
        sums[line["sort"]] += minor
    return {
        "day": whole.given.day.isoformat(),
        "until": until.isoformat(),
        "currency": whole.currency,
        "lines": sorted((line for _, line in lines), key=lambda x: (x["day"], x["name"])),
        "sums": {sort: money(amount, whole) for sort, amount in sums.items()},
        "total": money(sum(sums.values()), whole),
        "apart": apart,
    }


def _line(
    sort: str, name: str, licence: int | None, day: date, amount: int, whole: Reckoned
) -> tuple[int, ExpectedLine]:
    """Return a line with its amount in minor units."""
    return amount, {
        "sort": sort,
        "name": name,
        "licence": licence,
        "day": day.isoformat(),
        "amount": money(amount, whole),
    }


def hired(department: str, number: int, at: int | None) -> HiredOut:
    """Return what it takes if a department hires so many: each has a device with what most of its people have.

    Raises ValueError for a department nobody of whom has a device, and for a number that cannot be.
    """
    if not 1 <= number <= MOST_HIRED:
        raise ValueError(f"So many cannot be hired: 1 to {MOST_HIRED:,}, not {number}.")
    whole = reckoned(at)
    typical = _typical(whole, department)
    grown = replace(basis_of(whole.given), uses=[*whole.given.uses, *_newcomers(typical, number, whole.given.day)])
    grown = replace(grown, devices=defaultdict(lambda: "a new device", grown.devices))
    then = reckon(grown).balances
    before = {one.key: one for one in whole.balances}
    out: list[tuple[int, HiredBalance]] = []
    for one in then:
        was = before.get(one.key)
        more, short = one.needed - (was.needed if was else 0), one.short - (was.short if was else 0)
        if more or short:
            cost = (one.cure or 0) - ((was.cure or 0) if was else 0)
            balance: HiredBalance = {
                "name": name_of(one, whole.given.names),
                "unit": one.unit,
                "more": more,
                "short": short,
                "spare": one.spare,
                "cost": None if short and one.cure is None else money(cost, whole),
            }
            out.append((cost, balance))
    return {
        "department": department,
        "number": number,
        "currency": whole.currency,
        "products": sorted({whole.given.names[u.product] for u in typical}),
        "balances": [one for _, one in sorted(out, key=lambda r: (-r[0], r[1]["name"]))],
        "cost": money(sum(minor for minor, _ in out), whole),
    }


def _typical(whole: Reckoned, department: str) -> list[Use]:
    """Return one use for each product most of a department's people have."""
    of: dict[str, dict[int, Use]] = defaultdict(dict)
    for use in whole.given.uses:
        if fold(whole.given.machines[use.device].department) == fold(department) and not use.virtual:
            of[use.person or f"device {use.device}"][use.product] = use
    if not of:
        known = sorted({m.department for m in whole.given.machines.values() if m.department})
        raise ValueError(f"Nobody of “{department}” has a device with licensed products; there are {', '.join(known)}.")
    having: dict[int, list[Use]] = defaultdict(list)
    for some in of.values():
        for product, use in some.items():
            having[product].append(use)
    return [
        replace(uses[-1], cores=int(median(u.cores for u in uses)), host=None)
        for _, uses in sorted(having.items())
        if len(uses) >= TYPICAL * len(of)
    ]


def _newcomers(typical: list[Use], number: int, day: date) -> list[Use]:
    return [
        replace(one, key=-(n * 1_000 + place), device=-n, person=f"newcomer {n}", since=day)
        for n in range(1, number + 1)
        for place, one in enumerate(typical)
    ]


def purchases(at: int | None) -> list[PurchaseLine]:
    """Return all purchase lines, the latest first."""
    whole, known = reckoned(at), rates()
    out: list[PurchaseLine] = []
    for number, lines in whole.given.purchases.items():
        licence = whole.given.held.get(number)
        for one in lines if licence is not None else ():
            try:
                own = known.convert(one.price * one.quantity, one.currency, known.base, one.day)
            except MoneyError:
                own = None
            out.append(
                {
                    "id": one.pk,
                    "licence": number,
                    "name": licence.name if licence else "",
                    "day": one.day.isoformat(),
                    "quantity": one.quantity,
                    "price": str(from_minor(one.price, one.currency)),
                    "currency": one.currency,
                    "total": money(own, whole),
                    "order": one.order,
                    "supplier": one.supplier,
                    "counts": one.day <= whole.given.day,
                }
            )
    return sorted(out, key=lambda r: (r["day"], r["id"]), reverse=True)
