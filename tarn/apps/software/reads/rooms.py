"""What the software room shows: products and changes, with what is ruled of them."""

import time
from typing import Literal

from tarn.apps.estate.asking.ask import Question, question
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.register import device_changes
from tarn.apps.estate.register.pages import named
from tarn.apps.estate.software import products
from tarn.apps.estate.software.catalogue import catalogue
from tarn.apps.estate.software.results import NamelessOut
from tarn.apps.software.reads.rulings import of_products, own_organisation, standing
from tarn.apps.software.results import OverviewOut, ProductOut, ProductRow, ReleaseOut, WaveOut, WavesOut
from tarn.core.history import Change
from tarn.core.naming import ROLES
from tarn.core.waves import looks_like, waves

DAY = 86_400
SPARK = 28
"""Days a line of changes is drawn over."""
_MOST_ASSETS = 500
_MOST_NAMED = 200
"""Devices of a line that are told by number, so that a filter can hold them."""

Beside = Literal["hardware", "activity"]


def overview(text: str, at: int | None, roles: tuple[str, ...]) -> OverviewOut:
    """Return the products of a selection that have one of these roles, and how many entries have others."""
    asked, before = question(text, at), _earlier(text, at)
    rows = products.overview(asked, before, roles)
    said = of_products(at, [r["id"] for r in rows])
    judged: list[ProductRow] = []
    for row in rows:
        judgement, mixed = said[row["id"]]
        judged.append({**row, "verdict": judgement.verdict, "mixed": mixed, "why": judgement.why})
    others = tuple(r for r in ROLES if r not in roles)
    return {
        "products": sorted(judged, key=lambda r: (-r["devices"], r["name"])),
        "devices": products.devices(asked),
        "hidden": products.number(asked, others) if others else 0,
    }


def _earlier(text: str, at: int | None) -> Question:
    return question(text, (at or int(time.time())) // DAY * DAY - products.TREND * DAY)


def product(number: int, text: str, at: int | None) -> ProductOut | None:
    """Return one product over a selection, each release with what is ruled of it; None where there is none."""
    product_spread = products.spread(number, question(text, at))
    if product_spread is None:
        return None
    rulings, mine = standing(at), own_organisation()
    several = rulings.of_product(product_spread["name"], product_spread["publisher"])
    releases: list[ReleaseOut] = [
        {**release_figures, "verdict": rulings.judge(several, release_figures["version"], None, mine).verdict}
        for release_figures in product_spread["releases"]
    ]
    newest = product_spread["releases"][0]["version"] if product_spread["releases"] else ""
    judgement = rulings.judge(several, newest, None, mine)
    return {
        "id": product_spread["id"],
        "name": product_spread["name"],
        "publisher": product_spread["publisher"],
        "devices": product_spread["devices"],
        "releases": releases,
        "listed": product_spread["listed"],
        "year": product_spread["year"],
        "verdict": judgement.verdict,
        "why": judgement.why,
    }


def what_changed(
    text: str, since: int, until: int, roles: tuple[str, ...], product: int | None, at: int | None
) -> WavesOut:
    """Return what changed in the software of a selection, folded into waves."""
    asked = question(text, at)
    changes = products.changes(asked, min(since, until - SPARK * DAY), until, roles, product)
    shown = _folded(changes, since, until, at)
    numbers = {name: i for i, (name, _) in catalogue().products.items()}
    said = of_products(at, sorted({numbers[w["thing"]] for w in shown["waves"] if w["thing"] in numbers}))
    for line in shown["waves"]:
        number = numbers.get(line["thing"])
        line["product"], line["verdict"] = number, said[number][0].verdict if number is not None else ""
    return shown


def what_else_changed(about: Beside, text: str, since: int, until: int, at: int | None) -> WavesOut:
    """Return what changed in the hardware of a selection, or who started and used it, folded into waves."""
    asked, longer = question(text, at), min(since, until - SPARK * DAY)
    changes = {"hardware": device_changes.hardware, "activity": device_changes.activity}[about](asked, longer, until)
    return _folded(changes, since, until, at)


def _folded(found: list[Change], since: int, until: int, at: int | None) -> WavesOut:
    """Return changes as waves: those after `since` counted and described, drawn over all that were found."""
    recent = [c for c in found if c.at > since]
    drawn = {w.key: w for w in waves(found)}
    folded = waves(recent)
    rows = {r["id"]: r for r in named(sorted({a for w in folded for a in w.at}), at)}
    names = {a: str(r["name"] or r["number"]) for a, r in rows.items()}
    groups = {a: str(r["department"] or r["place"] or "") for a, r in rows.items()}
    lines: list[WaveOut] = [
        {
            "product": None,
            "thing": wave.thing,
            "verb": wave.verb,
            "before": wave.befores,
            "after": wave.after,
            "devices": len(wave.at),
            "days": drawn[wave.key].by_day(until, SPARK),
            "looks_like": looks_like(wave, names, groups),
            "first": iso(wave.first),
            "last": iso(wave.last),
            "verdict": "",
            "assets": sorted(wave.at)[:_MOST_ASSETS],
            "numbers": [rows[a]["number"] for a in sorted(wave.at)[:_MOST_NAMED] if a in rows],
        }
        for wave in folded
    ]
    return {"waves": lines, "changes": len(recent), "since": iso(since), "until": iso(until)}


def not_understood() -> list[NamelessOut]:
    """Return listed names that no rule makes sense of, those on most devices first."""
    return sorted(products.not_understood(question("")), key=lambda r: (-r["devices"], r["name"]))
