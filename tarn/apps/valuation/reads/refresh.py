"""Plans of refresh over the estate: the devices as columns, read once a state, and what each scenario makes of them."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

import numpy as np

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.asking.dial import day_of, zone
from tarn.apps.estate.register.acquired import acquired
from tarn.apps.estate.register.pages import named
from tarn.apps.estate.register.rows import rows_of
from tarn.apps.lifecycle.reads.steps import repairs
from tarn.apps.lifecycle.reads.support import support_ends
from tarn.apps.money.reads.ledger import ledger
from tarn.apps.people.scope import asker, visible
from tarn.apps.valuation.inputs import ScenarioSettings
from tarn.apps.valuation.models import Scenario
from tarn.apps.valuation.reads.cache import kept
from tarn.apps.valuation.results import PlannedKind, PlannedOut, PlannedRow, QuarterOut, ScenarioOut, SideBySide
from tarn.core.finance.money import from_minor
from tarn.core.kinds import MUCH_BY_SERVICES, MUCH_SAID
from tarn.core.refresh import FACTORS, NEVER, Fleet, Planned, Settings, plan

_OUT = 'not state in (retired, disposed, "lost or stolen", planned, ordered)'
_FIELDS = ["kind", "memory", "os.name", "os.version", "first_seen"]
MOST_ROWS = 500


@dataclass(frozen=True)
class Read:
    """The devices that can be replaced, and what each kind last cost new, in minor units."""

    fleet: Fleet
    prices: dict[str, int]


def month_of(day: date) -> int:
    """Return a day's month, counted from January 1970."""
    return 12 * (day.year - 1970) + day.month - 1


def first_of(month: int) -> date:
    """Return the first day of a month counted from January 1970."""
    return date(1970 + month // 12, month % 12 + 1, 1)


def read(at: int | None, text: str) -> Read:
    """Return the devices of a selection that are in use or could be. Remembered until something changes."""
    whole = kept("fleet", (at, day_of(at)), lambda: _read(at))
    if not text:
        return whole
    asked = set(ids(question(text, at)))
    chosen = np.array([int(a) in asked for a in whole.fleet.asset], dtype=bool)
    names = ("asset", "kind", "month", "bought", "warranty", "support", "faults", "memory", "exposed", "important")
    columns = {n: getattr(whole.fleet, n)[chosen] for n in names}
    return Read(Fleet(kinds=whole.fleet.kinds, **columns), whole.prices)


def _moment_month(second: int) -> int:
    return month_of(datetime.fromtimestamp(second, zone()).date())


def _read(at: int | None) -> Read:
    whole = asker().everywhere()
    asked = question(_OUT, at, whole)
    rows = list(rows_of("asset", _FIELDS, asked, "", []))
    facts = acquired(asked)
    exposed = set(ids(question("software[ruling = barred]", at, whole)))
    important = set(ids(question(f"{MUCH_SAID} or {MUCH_BY_SERVICES}", at, whole)))
    sent, ends = repairs(at), support_ends()
    kinds = sorted({r["kind"] or "device" for r in rows})
    of = {k: n for n, k in enumerate(kinds)}
    known = [facts.get(r["id"], {}) for r in rows]
    bought = [f.get("bought_at") for f in known]
    months = [
        _moment_month(int(b)) if b is not None else _first(r["first_seen"]) for b, r in zip(bought, rows, strict=True)
    ]
    warranty = [_moment_month(int(f["warranty_end"])) if f.get("warranty_end") else -1 for f in known]
    fleet = Fleet(
        asset=np.array([r["id"] for r in rows], dtype=np.int64),
        kind=np.array([of[r["kind"] or "device"] for r in rows], dtype=np.int64),
        kinds=kinds,
        month=np.array(months, dtype=np.int64),
        bought=np.array([b is not None for b in bought], dtype=bool),
        warranty=np.array(warranty, dtype=np.int64),
        support=np.array([_support(ends.day(r["os.name"] or "", r["os.version"] or "")) for r in rows], dtype=np.int64),
        faults=np.array(
            [int(f.get("tickets_open") or 0) + sent.get(r["id"], 0) for f, r in zip(known, rows, strict=True)],
            dtype=np.int64,
        ),
        memory=np.array([(r["memory"] or 0) / 2**30 for r in rows]),
        exposed=np.array([r["id"] in exposed for r in rows], dtype=bool),
        important=np.array([r["id"] in important for r in rows], dtype=bool),
    )
    return Read(fleet, _prices(rows, known))


def _support(day: date | None) -> int:
    return -1 if day is None else month_of(day)


def _first(first_seen: str | None) -> int:
    return month_of(date.fromisoformat(first_seen[:10])) if first_seen else -1


def _prices(rows: list[dict[str, Any]], known: list[dict[str, Any]]) -> dict[str, int]:
    """Return by kind what one of it cost new when it was last bought, in the company's currency."""
    own, out = ledger().currency, {}
    order = sorted(zip(rows, known, strict=True), key=lambda x: x[1].get("bought_at") or 0)
    for row, facts in order:
        if facts.get("price") and (facts.get("currency") or own) == own and facts.get("bought_at"):
            out[row["kind"] or "device"] = int(facts["price"])
    return out


def read_settings(told: Mapping[str, Any], prices: Mapping[str, int]) -> Settings:
    """Return settings as they are kept, with what devices last cost where nothing is said. Raises RefreshError."""
    return Settings(
        life={k: int(v) for k, v in (told.get("life") or {}).items()},
        price={**prices, **{k: int(v) for k, v in (told.get("price") or {}).items()}},
        memory={k: float(v) for k, v in (told.get("memory") or {}).items()},
        earlier={k: int(v) for k, v in (told.get("earlier") or {}).items()},
        budgets=tuple(told.get("budgets") or [None]),
        quarters=int(told.get("quarters") or 8),
    )


def planned(
    text: str, told: Mapping[str, Any], at: int | None, beside: Mapping[str, Any] | None = None, most: int = 200
) -> PlannedOut:
    """Return what a scenario makes of a selection, by quarter and device; `beside`: the settings it is held against."""
    held = read(at, text)
    settings = read_settings(told, held.prices)
    now = month_of(day_of(at))
    made = plan(held.fleet, settings, now)
    before = plan(held.fleet, read_settings(beside, held.prices), now) if beside is not None else None
    own = ledger().currency
    moved = int((made.quarter != before.quarter).sum()) if before is not None else 0
    return {
        "day": day_of(at).isoformat(),
        "currency": own,
        "devices": len(held.fleet),
        "planned": int((made.quarter >= 0).sum()),
        "cost": str(from_minor(sum(made.spent), own)),
        "moved": moved,
        "unpriced": int((made.unpriced & (made.quarter >= 0)).sum()),
        "undated": int((~held.fleet.bought).sum()),
        "quarters": _quarters(made, settings, now, own),
        "kinds": _kinds(held, made, settings, own),
        "rows": _rows(held, made, before, now, settings, at, most),
        "factors": FACTORS,
    }


def _quarters(made: Planned, settings: Settings, now: int, own: str) -> list[QuarterOut]:
    begins = now - now % 3
    counts = np.bincount(made.quarter[made.quarter >= 0], minlength=settings.quarters)
    out: list[QuarterOut] = []
    for number in range(settings.quarters):
        budget = settings.budget(number)
        first = first_of(begins + 3 * number)
        out.append(
            {
                "name": f"{first.year} Q{(first.month - 1) // 3 + 1}",
                "begins": first.isoformat(),
                "devices": int(counts[number]),
                "cost": str(from_minor(made.spent[number], own)),
                "budget": None if budget is None else str(from_minor(budget, own)),
                "waiting": made.waiting[number],
            }
        )
    return out


def _kinds(held: Read, made: Planned, settings: Settings, own: str) -> list[PlannedKind]:
    out: list[PlannedKind] = []
    for number, kind in enumerate(held.fleet.kinds):
        mine = held.fleet.kind == number
        if mine.any():
            price = settings.price.get(kind)
            out.append(
                {
                    "kind": kind,
                    "devices": int(mine.sum()),
                    "planned": int((mine & (made.quarter >= 0)).sum()),
                    "life": settings.life.get(kind),
                    "price": None if price is None else str(from_minor(price, own)),
                    "memory": settings.memory.get(kind),
                }
            )
    return out


def _rows(
    held: Read, made: Planned, before: Planned | None, now: int, settings: Settings, at: int | None, most: int
) -> list[PlannedRow]:
    """Return the devices due first, each with when, why then, and the quarter it is planned for."""
    own, bounds = ledger().currency, [b for b in settings.budgets if b is not None]
    dearest = max(bounds) if len(bounds) == len(settings.budgets) else None
    fleet, begins = held.fleet, now - now % 3
    chosen = np.argsort(made.due, kind="stable")[:most]
    plates = {row["id"]: row for row in named([int(fleet.asset[n]) for n in chosen], at)}
    out: list[PlannedRow] = []
    for n in chosen:
        if made.due[n] >= NEVER or int(fleet.asset[n]) not in plates:
            continue
        quarter = int(made.quarter[n])
        first = first_of(begins + 3 * quarter) if quarter >= 0 else None
        out.append(
            {
                **plates[int(fleet.asset[n])],
                "due": first_of(max(0, int(made.due[n]))).isoformat()[:7],
                "quarter": f"{first.year} Q{(first.month - 1) // 3 + 1}" if first else "",
                "price": str(from_minor(int(made.price[n]), own)),
                "why": _why(n, held, made, dearest, own),
                "moved": bool(before is not None and before.quarter[n] != made.quarter[n]),
            }
        )
    return out


def _why(n: int, held: Read, made: Planned, dearest: int | None, own: str) -> str:
    """Return why a device is due when it is; `dearest`: the largest budget of a quarter, None: one has no bound."""
    fleet = held.fleet
    months = int(made.by_age[n] - fleet.month[n])
    since = f"{'bought' if fleet.bought[n] else 'first seen'} in {first_of(int(fleet.month[n])).isoformat()[:7]}"
    parts = [f"{months} months of life, {since}"]
    words = {
        "warranty": "its warranty is over by then",
        "faults": "a fault" if fleet.faults[n] == 1 else f"{int(fleet.faults[n])} faults",
        "memory": "too little memory",
        "exposed": "barred software on it",
        "important": "much hangs on it",
    }
    parts += [
        f"{int(e[n])} month{'s' * (int(e[n]) != 1)} earlier: {words[name]}" for name, e in made.earlier.items() if e[n]
    ]
    if made.supported[n]:
        parts.append(f"support for its system ends in {first_of(int(fleet.support[n])).isoformat()[:7]}")
    if dearest is not None and made.price[n] > dearest:
        money = from_minor(dearest, own)
        parts.append(
            f"dearer than any quarter's budget, {money} at most: it needs one of its own, or it is never reached"
        )
    return "; ".join(parts)


def scenarios() -> list[ScenarioOut]:
    """Return the scenarios kept, with amounts in the company's currency."""
    return [scenario(one) for one in visible(Scenario)]


def scenario(one: Scenario) -> ScenarioOut:
    """Return a scenario as it is shown and changed."""
    own, kept_ = ledger().currency, one.settings
    amounts = {
        "price": {k: str(from_minor(v, own)) for k, v in kept_["price"].items()},
        "budgets": [None if b is None else str(from_minor(b, own)) for b in kept_["budgets"]],
    }
    return {
        "id": one.pk,
        "name": one.name,
        "filter": one.filter,
        "made_by": one.made_by,
        "version": one.version,
        "settings": ScenarioSettings.model_validate({**kept_, **amounts}),
    }


def side_by_side(at: int | None) -> list[SideBySide]:
    """Return what every scenario comes to, by quarter."""
    out: list[SideBySide] = []
    for one in visible(Scenario):
        told = planned(one.filter, one.settings, at, most=0)
        out.append(
            {
                "id": one.pk,
                "name": one.name,
                "planned": told["planned"],
                "cost": told["cost"],
                "currency": told["currency"],
                "quarters": told["quarters"],
                "devices": told["devices"],
            }
        )
    return out


def for_report(text: str, at: int | None) -> list[dict[str, Any]]:
    """Return what the first scenario plans, as rows of a report; nothing where none is kept."""
    first = visible(Scenario).first()
    if first is None:
        return []
    both = " and ".join(f"({t})" for t in (first.filter, text) if t)
    told = planned(both, first.settings, at, most=100_000)
    return [
        {**row, "price": float(row["price"]), "currency": told["currency"]} for row in told["rows"] if row["quarter"]
    ]
