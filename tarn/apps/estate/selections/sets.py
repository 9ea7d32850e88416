"""Sets: their members over a year, who came and went, what uses them, and two side by side."""

import time
from typing import Any

from tarn.apps.estate.asking.ask import count, definition_at, ids, question
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.asking.uses import uses_of
from tarn.apps.estate.models import KeptSet, Phrase
from tarn.apps.estate.register.pages import named
from tarn.apps.estate.selections.membership import members_of
from tarn.apps.estate.selections.results import CameAndWentOut, PointOut, UseOut
from tarn.apps.estate.software.catalogue import catalogue
from tarn.core.filters.parse import parse
from tarn.core.filters.walk import values_in
from tarn.core.naming import names_product

DAY = 86_400
WEEKS = 26
SHOWN = 200


def members(held: KeptSet, at: int | None) -> set[int]:
    """Return the devices of a set at a moment, by what it was defined by then."""
    text = definition_at(held, at)
    return set(members_of(text) if at is None else ids(question(text, at)))


def number(text: str, at: int | None) -> int:
    """Return how many devices a definition holds at a moment."""
    return len(members_of(text)) if at is None else count(question(text, at))


def made_of(kind: str, text: str) -> list[str]:
    """Return what a set was made of: the numbers it was picked by, or its ranges; of a live one nothing but its filter.

    Raises FilterError.
    """
    if kind == "live":
        return []
    field = "number" if kind == "picked" else "address"
    return [value.text for value in values_in(parse(text), field)]


def year(held: KeptSet, at: int | None) -> list[PointOut]:
    """Return how many devices a set held, fortnight by fortnight over a year, the last now."""
    end = at or int(time.time())
    out: list[PointOut] = []
    for back in range(WEEKS - 1, -1, -1):
        moment = None if back == 0 and at is None else end - back * 14 * DAY
        out.append({"at": iso(end - back * 14 * DAY), "devices": count(question(definition_at(held, moment), moment))})
    return out


def moved(held: KeptSet, since: int, at: int | None) -> CameAndWentOut:
    """Return who came into a set and who left it between two moments, and how many stayed."""
    before, now = members(held, since), members(held, at)
    came, left = sorted(now - before), sorted(before - now)
    return {
        "since": iso(since),
        "stayed": len(before & now),
        "came": len(came),
        "left": len(left),
        "came_rows": named(came[:SHOWN], at),
        "left_rows": named(left[:SHOWN], since),
    }


def uses(held: KeptSet) -> list[UseOut]:
    """Return what speaks of a set."""
    return [{"what": u.what, "name": u.name, "where": u.where} for u in uses_of(set_name=held.name)]


def phrases() -> list[dict[str, Any]]:
    """Return the phrases with the products each names now and what speaks of it."""
    products = [name for name, _ in catalogue().products.values()]
    out = []
    for phrase in Phrase.objects.order_by("name"):
        out.append(
            {
                "name": phrase.name,
                "meaning": phrase.meaning,
                "values": phrase.values,
                "products": sorted(t for t in products if any(names_product(v, t) for v in phrase.values)),
                "uses": [{"what": u.what, "name": u.name, "where": u.where} for u in uses_of(phrase=phrase.name)],
            }
        )
    return out
