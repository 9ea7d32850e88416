"""The cheapest remedy of the whole position, with the steps to take, in their order."""

from collections import defaultdict
from typing import Any

from tarn.apps.licences.reads.judging import idle_of
from tarn.apps.licences.reads.reckoning import Reckoned, device_name, money, reckoned
from tarn.apps.licences.results import RemedyOut, RemedyStep
from tarn.core.licensing.remedy import Remedy, by_licence, remedy

MOST_IDLE = 60
"""Idle uses that are tried one by one; the costliest are tried first."""


def remedied(at: int | None, free: bool = True) -> RemedyOut:
    """Return what puts every shortfall right at once; `free`: idle ones may be given up."""
    whole = reckoned(at)
    told = remedy_of(whole, free)
    return {
        "day": whole.given.day.isoformat(),
        "currency": whole.currency,
        "cost": money(told.cost, whole),
        "steps": _steps(told, whole),
        "left": len(told.left),
        "unpriced": [licence.name for licence in told.unpriced],
    }


_remedies: list[tuple[Reckoned, bool, Remedy]] = []
"""Remedies reckoned last, of positions that are themselves remembered until something changes."""


def remedy_of(whole: Reckoned, free: bool) -> Remedy:
    """Return the cheapest remedy of a position; `free`: idle ones may be given up."""
    for known, freely, told in _remedies:
        if known is whole and freely == free:
            return told
    told = _remedy_of(whole, free)
    _remedies[:] = [(whole, free, told), *_remedies[:3]]
    return told


def _remedy_of(whole: Reckoned, free: bool) -> Remedy:
    idle = (
        [i for balance in whole.balances if balance.short for i in idle_of(balance, whole)][:MOST_IDLE] if free else []
    )
    given = whole.given
    return remedy(
        given.uses, given.licences, whole.held, given.day, given.pins, given.peaks, idle, sorted(given.disputed)
    )


def _steps(told: Remedy, whole: Reckoned) -> list[RemedyStep]:
    out: list[RemedyStep] = []
    given_up: dict[int, list[Any]] = defaultdict(list)
    for idle in told.freed:
        given_up[idle.use.product].append(idle)
    for product, some in sorted(given_up.items()):
        name = whole.given.names[product]
        out.append(
            {
                "sort": "give up",
                "text": f"Take {name} off {len(some)} device{'s' * (len(some) != 1)}",
                "why": "; ".join(f"{device_name(whole, i.use.device)}: {i.why}" for i in some[:5]),
                "cost": None,
                "assets": [i.use.device for i in some],
                "product": name,
                "licence": None,
            }
        )
    for buy in sorted(told.buys, key=lambda b: -b.cost):
        packs = f", {buy.units // buy.licence.pack} packs of {buy.licence.pack}" if buy.licence.pack > 1 else ""
        out.append(
            {
                "sort": "buy",
                "text": f"Buy {buy.units} of “{buy.licence.name}”{packs}{', anew' if buy.anew else ''}",
                "why": f"{buy.units} × {money(buy.licence.price, whole)} {whole.currency}"
                + (f", its last price; more of it as it is would not do: {buy.anew}" if buy.anew else ""),
                "cost": money(buy.cost, whole),
                "assets": [],
                "product": "",
                "licence": buy.licence.key,
            }
        )
    for moves in by_licence(told.moves).values():
        first = moves[0]
        how = "exchange" if first.broader else "move"
        out.append(
            {
                "sort": how,
                "text": f"{len(moves)} installation{'s' * (len(moves) != 1)} of “{first.before.name}” "
                f"{'is' if len(moves) == 1 else 'are'} covered by “{first.after.name}” from then on",
                "why": "a suite that is there covers it too" if first.broader else "Tarn assigns it so by itself",
                "cost": None,
                "assets": [m.use.device for m in moves][:200],
                "product": "",
                "licence": first.after.key,
            }
        )
    if told.left:
        count: dict[int, int] = defaultdict(int)
        for use in told.left:
            count[use.product] += 1
        named = ", ".join(f"{whole.given.names[p]} {n}" for p, n in sorted(count.items(), key=lambda c: -c[1])[:5])
        out.append(
            {
                "sort": "left",
                "text": f"{len(told.left)} installation{'s' * (len(told.left) != 1)} that no purchase covers: {named}",
                "why": "no licence there is may cover them, or no price of one is known",
                "cost": None,
                "assets": sorted({u.device for u in told.left})[:200],
                "product": "",
                "licence": None,
            }
        )
    return out
