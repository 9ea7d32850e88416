"""Money and licences: depreciation of many assets, the calendar of payments, the assignment of licences."""

import random
from datetime import date, timedelta
from typing import Any

import numpy as np

from tarn.core.finance.depreciation import CONVENTIONS, METHODS, Terms
from tarn.core.finance.many import Columns, accumulated_by_month, columns
from tarn.core.finance.payments import EVERY, Due, calendar_of
from tarn.core.licensing import assign as assigning
from tarn.core.licensing.rights import Licence, Use
from tests.bench.figures import Figure, best, timed

_DAY = date(2026, 1, 1)


def depreciation() -> Figure:
    """100,000 assets over 120 months, all methods and conventions, against straight line alone in float arrays."""
    dice = random.Random(1)
    some = columns(
        [
            Terms(
                dice.randint(10_000, 1_000_000),
                0,
                dice.choice((36, 48, 60, 84)),
                date(2021, 1, 1) + timedelta(days=dice.randrange(1_800)),
                dice.choice(METHODS),
                dice.choice(CONVENTIONS),
            )
            for _ in range(100_000)
        ]
    )
    ours = best(lambda: accumulated_by_month(some, "2022-01", 120), 3)
    plain = best(lambda: _straight(some), 3)
    return Figure("depreciation", ours / plain, "× straight line in floats", "<= 3", f"{ours:.2f} s")


def _straight(some: Columns) -> Any:
    begun = some.start.astype("datetime64[M]")
    months = np.datetime64("2022-01") + np.arange(120)
    gone = np.clip((months[:, None] - begun[None, :]).astype(np.int64) + 1, 0, some.months)
    return np.round((some.cost - some.residual) / 100.0 * gone / some.months, 2)


def payments() -> Figure:
    """5,000 contracts and licences over 36 months."""
    dice = random.Random(2)
    dues = [
        Due(
            str(n),
            dice.randint(1_000, 900_000),
            dice.choice(("EUR", "NOK")),
            _DAY - timedelta(days=dice.randrange(900)),
            dice.choice(EVERY),
            _DAY + timedelta(days=dice.randrange(900)),
            dice.random() < 0.5,
        )
        for n in range(5_000)
    ]
    took = best(lambda: calendar_of(dues, _DAY, 36), 3) * 1_000
    return Figure("cash_calendar", took, "ms, 5,000 over 36 months", "<= 100")


def household() -> Figure:
    """One person's devices, two products each, by the person, by two devices or by one: 200, 400 and 800 of them."""
    licences = [
        Licence(1, "Suite", "named person", 5, frozenset({1, 2}), price=300),
        Licence(2, "Two", "device", 10_000, frozenset({1}), second_device=True, price=20),
        Licence(3, "One", "device", 10_000, frozenset({2}), price=10),
    ]
    took = []
    for devices in (200, 400, 800):
        uses = [Use(d * 2 + p, p, "16", d, "one", _DAY) for d in range(devices) for p in (1, 2)]
        took.append(best(lambda uses=uses: assigning.assign(uses, licences, _DAY), 3))
    note = ", ".join(f"{t * 1e3:.0f} ms" for t in took)
    return Figure("household_growth", took[2] / took[0] / 4, "× each use, 4 × as many", "<= 2", note)


def assignment() -> Figure:
    """200 pools over 50,000 installations, proved optimal, against the solver alone on the same grouped problem."""
    dice = random.Random(4)
    licences = []
    for k in range(200):
        first = k // 4 * 3 + 1
        products = {first + dice.randrange(3)} if k % 4 else {first, first + 1, first + 2}
        metric = dice.choice(("device", "device", "named person", "core"))
        licences.append(
            Licence(
                k,
                f"L{k}",
                metric,
                dice.randint(100, 400),
                frozenset(products),
                price=dice.randint(1, 900),
                downgrade=True,
                release="16",
            )
        )
    uses = [
        Use(
            n,
            dice.randrange(150) + 1,
            dice.choice(("15.1", "16.2", "17.0")),
            n // 5,
            f"p{n // 5 % 9_000}",
            cores=dice.choice((4, 8, 16)),
            processors=1,
        )
        for n in range(50_000)
    ]
    programs: list[tuple[Any, ...]] = []
    solve = assigning._by_aims

    def noted(*told: Any) -> list[int]:
        programs.append(told)
        return solve(*told)

    assigning._by_aims = noted
    try:
        assigning.assign(uses, licences, _DAY)
    finally:
        assigning._by_aims = solve
    bare = timed(lambda: [solve(*told) for told in programs])
    ours = timed(lambda: assigning.assign(uses, licences, _DAY))
    note = f"{ours:.1f} s, {len(programs)} programs"
    return Figure("licence_assignment", ours / bare, "× the bare solver", "<= 5", note)
