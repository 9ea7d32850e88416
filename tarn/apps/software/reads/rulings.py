"""Rulings as they stand at a moment, and what they say of releases, products and installations."""

import time
from collections import defaultdict
from typing import Any

from django.db.models import Q

from tarn.apps.estate.selections.phrases import phrase_values
from tarn.apps.estate.software.catalogue import catalogue
from tarn.apps.people.scope import scope
from tarn.apps.software.models import Ruling as Held
from tarn.apps.software.results import SoftwareRulingOut
from tarn.core.rulings import NO_RULING, Judgement, Ruling, Rulings
from tarn.core.text import fold


def as_ruling(held: Held) -> Ruling:
    """Return a stored ruling as the core knows it."""
    return Ruling(
        held.pk,
        held.subject,
        held.name,
        held.verdict,  # type: ignore[arg-type]
        held.low,
        held.high,
        held.department,
        held.begins,
        held.ends,
        held.until,
        held.organisation.name if held.organisation else "",
    )


def applying() -> Any:
    """Return the rulings that bear on what whoever asks may see: the whole company's, and its organisations' own."""
    held, limited = Held.objects.select_related("organisation"), scope()
    return held if limited is None else held.filter(Q(organisation=None) | Q(organisation__name__in=limited))


def standing(at: int | None) -> Rulings:
    """Return the rulings that stand at a moment; None: now."""
    moment = at if at is not None else int(time.time())
    return Rulings((as_ruling(r) for r in applying()), phrase_values(), moment)


def own_organisation() -> str | None:
    """Return the one organisation whoever asks is limited to: its word counts for them before the company's."""
    limited = scope()
    return next(iter(limited)) if limited is not None and len(limited) == 1 else None


def of_products(at: int | None, products: list[int]) -> dict[int, tuple[Judgement, bool]]:
    """Return what the company says of products, and whether it says otherwise of some releases or departments."""
    known, rulings = catalogue(), standing(at)
    out = {}
    none_yet = (Judgement("none yet"), False)
    for product in products:
        several = rulings.of_product(*known.products[product])
        if not several:
            out[product] = none_yet
            continue
        judgement = rulings.judge(several, known.versions[known.newest[product]], None, own_organisation())
        narrower = [r for r in several if r.department or r.organisation or r.low or r.high]
        out[product] = (judgement, any(r.verdict != judgement.verdict for r in narrower))
    return out


def verdict_of_releases(at: int | None, verdict: str) -> dict[tuple[str, str], set[int]]:
    """Return the releases of which a verdict holds, by organisation and (folded) department with rulings of their own.

    An empty name stands for every organisation or department that has no entry. A ruling is yet to be made of products
    alone: nobody rules on parts, libraries and updates one by one.
    """
    known, rulings = catalogue(), standing(at)
    departments = ["", *sorted({fold(r.department) for r in rulings.standing if r.department})]
    organisations = ["", *sorted({r.organisation for r in rulings.standing if r.organisation})]
    out: dict[tuple[str, str], set[int]] = {(o, d): set() for o in organisations for d in departments}
    heard: dict[int, list[Ruling]] = {}
    for number, (listing, version, _) in known.releases.items():
        product = known.listed[listing].product
        if verdict == NO_RULING and known.listed[listing].role != "product":
            continue
        if product not in heard:
            heard[product] = rulings.of_product(*known.products[product])
        several = heard[product]
        for organisation, department in out:
            if rulings.judge(several, version, department, organisation).verdict == verdict:
                out[organisation, department].add(number)
    return out


def rows(at: int | None, *, ended: bool = False) -> list[SoftwareRulingOut]:
    """Return rulings with the products they speak of: those that stand, or those that ended."""
    known, rulings = catalogue(), standing(at)
    products: dict[int, list[str]] = defaultdict(list)
    for name, publisher in known.products.values():
        for ruling in rulings.of_product(name, publisher):
            products[ruling.number].append(name)
    out: list[SoftwareRulingOut] = []
    for held in applying().order_by("-begins", "-pk"):
        ruling = as_ruling(held)
        if ruling.stands(rulings.at) == ended:
            continue
        over = ruling.verdict == "tolerated" and ruling.until is not None and ruling.until < rulings.at
        out.append(
            {
                "id": held.pk,
                "subject": held.subject,
                "name": held.name,
                "low": held.low,
                "high": held.high,
                "department": held.department,
                "verdict": held.verdict,
                "until": held.until,
                "why": held.why,
                "review_at": held.review_at,
                "begins": held.begins,
                "ends": held.ends,
                "made_by": held.made_by,
                "over": over,
                "words": ruling.words(),
                "products": sorted(products[held.pk]),
            }
        )
    return out
