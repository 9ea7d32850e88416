"""Licences and their purchases: entered, changed, dropped."""

import time
from datetime import date
from typing import Any

from django.db import transaction

from tarn.apps.estate.asking.dial import day_of
from tarn.apps.estate.selections.phrases import phrase_values
from tarn.apps.licences.actions.changing import back_to, changed
from tarn.apps.licences.inputs import LicenceIn, PurchaseIn
from tarn.apps.licences.models import Licence, PastTerms, Purchase
from tarn.apps.licences.reads.terms import terms_of
from tarn.apps.money.actions.amounts import read_amount
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once, require_version
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.core.finance.payments import EVERY
from tarn.core.formula import Formula, FormulaError
from tarn.core.licensing.metrics import METRICS
from tarn.core.text import nearest

_WORDS = ("publisher", "release", "note", "edition")
_SWITCHES = ("downgrade", "second_device", "without_limit", "keys_wanted", "transferable", "shared")
_DAYS = ("starts", "ends", "maintained_until")


def _checked(data: LicenceIn) -> dict[str, Any]:
    """Return a licence's fields as they are kept. Raises Invalid naming the field."""
    out: dict[str, Any] = {n: getattr(data, n).strip() for n in ("name", "metric", "formula", *_WORDS)}
    out |= {n: getattr(data, n) for n in (*_SWITCHES, *_DAYS)}
    if not out["name"]:
        raise Invalid("name", "A licence needs a name.")
    if out["metric"] not in METRICS:
        raise Invalid("metric", f"“{out['metric']}” is no metric; one of: {', '.join(METRICS)}.")
    out["products"] = list(dict.fromkeys(p.strip() for p in data.products if p.strip()))
    if not out["products"]:
        raise Invalid("products", "Say which products it covers.")
    out["tags"] = list(dict.fromkeys(t.strip()[:60] for t in data.tags if t.strip()))
    out["extra"] = {k.strip()[:60]: v.strip()[:500] for k, v in data.extra.items() if k.strip()}
    _check_phrases(out["products"])
    out["departments"] = list(dict.fromkeys(d.strip() for d in data.departments if d.strip()))
    out["guests"] = data.guests
    for name, least in (("per_host", 1), ("per_processor", 0), ("pack", 1)):
        out[name] = getattr(data, name) or least
        if out[name] < least:
            raise Invalid(name, f"This is {least} or more, not {out[name]}.")
    if out["starts"] and out["ends"] and out["ends"] < out["starts"]:
        raise Invalid("ends", "The term ends before it begins.")
    if out["metric"] == "capacity unit":
        _check_formula(out["formula"])
    return out | _cost(data)


def _check_phrases(products: list[str]) -> None:
    known = phrase_values()
    for name in products:
        if name.startswith("@") and name[1:] not in known:
            near = nearest(name[1:], list(known))
            hint = f" Did you mean @{' or @'.join(near)}?" if near else ""
            raise Invalid("products", f"There is no phrase {name}.{hint}")


def _check_formula(text: str) -> None:
    if not text:
        raise Invalid("formula", "A capacity unit needs a formula, such as memory / 16.")
    try:
        formula = Formula(text, "The formula")
    except FormulaError as wrong:
        raise Invalid("formula", str(wrong)) from None
    if unknown := sorted(formula.names - {"memory", "cores"}):
        raise Invalid("formula", f"“{unknown[0]}” cannot be reckoned with here: memory (GB) and cores can.")


def _cost(data: LicenceIn) -> dict[str, Any]:
    every = data.cost_every
    if not every:
        return {"cost": 0, "cost_currency": "", "cost_every": ""}
    if every not in EVERY:
        raise Invalid("cost_every", f"“{every}” is no rhythm of payment; one of: {', '.join(EVERY)}.")
    cost, currency = read_amount(data.cost, data.cost_currency, field="cost", currency_field="cost_currency")
    return {"cost": cost, "cost_currency": currency, "cost_every": every}


def make_licence(user: Any, data: LicenceIn) -> Licence:
    """Enter a licence. Raises Invalid."""
    require(user, "plan")
    checked = _checked(data)
    with once("name", f"There is a licence “{checked['name']}” already."):
        made = Licence.objects.create(
            **checked, made_by=user.username, made_at=int(time.time()), organisation=owner(data.organisation)
        )
        changed()
        inverse = back_to(made, made=True)
        record(user, "entered a licence", made.name, detail={"products": made.products}, undo=inverse)
    return made


def change_licence(user: Any, number: int, data: LicenceIn) -> Licence:
    """Change a licence from the version the edit was made from.

    `holds_from`: the day from which its new terms hold; none: it was always so, and what was said before was wrong.
    Raises Invalid, Stale, Licence.DoesNotExist.
    """
    require(user, "plan")
    checked, since = _checked(data), data.holds_from
    with once("name", f"There is a licence “{checked['name']}” already."):
        held = visible(Licence).get(pk=number)
        require_version(held, data.version, f"“{held.name}”", {"name": held.name, "version": held.version})
        inverse = back_to(held)
        before = terms_of(held)
        for name, value in checked.items():
            setattr(held, name, value)
        if since is not None and terms_of(held) != before:
            if since > day_of(None):
                raise Invalid("holds_from", "This day is still to come.")
            # What was agreed later than this day is replaced by it.
            held.pastterms_set.filter(until__gt=since).update(until=since)
            PastTerms.objects.create(licence=held, until=since, terms=before)
        held.version += 1
        held.save()
        changed()
        record(user, "changed a licence", held.name, undo=inverse)
    return held


def drop_licence(user: Any, number: int) -> None:
    """Drop a licence with its purchases and keys. Raises Licence.DoesNotExist."""
    require(user, "plan")
    licence = visible(Licence).get(pk=number)
    with transaction.atomic():
        inverse = back_to(licence)
        licence.delete()
        changed()
        record(user, "dropped a licence", licence.name, undo=inverse)


def buy(user: Any, number: int, data: PurchaseIn) -> Purchase:
    """Add a purchase line to a licence; less than nothing gives units back. Raises Invalid, Licence.DoesNotExist."""
    require(user, "plan")
    held = visible(Licence).get(pk=number)
    day, quantity = data.day, data.quantity
    if not quantity:
        raise Invalid("quantity", "A purchase of nothing is none.")
    if quantity < 0 and _least(held, day, quantity) < 0:
        raise Invalid("quantity", f"So many were never held on {day.isoformat()} and after.")
    price, currency = read_amount(data.price, data.currency, day, field="price")
    with transaction.atomic():
        inverse = back_to(held)
        made = Purchase.objects.create(
            licence=held,
            day=day,
            quantity=quantity,
            price=price,
            currency=currency,
            order=data.order.strip()[:80],
            supplier=data.supplier.strip()[:200],
        )
        changed()
        record(user, "bought" if quantity > 0 else "gave back", f"{abs(quantity)} of {held.name}", undo=inverse)
    return made


def _least(held: Licence, day: date, quantity: int) -> int:
    """Return the least number held on any day from one on, were so many bought on it."""
    lines = sorted([(purchase.day, purchase.quantity) for purchase in held.purchase_set.all()] + [(day, quantity)])
    now, least = 0, 10**9
    for of, more in lines:
        now += more
        if of >= day:
            least = min(least, now)
    return least


def drop_purchase(user: Any, number: int) -> None:
    """Drop a purchase line. Raises Purchase.DoesNotExist."""
    require(user, "plan")
    line = visible(Purchase).select_related("licence").get(pk=number)
    with transaction.atomic():
        inverse = back_to(line.licence)
        line.delete()
        changed()
        record(user, "dropped a purchase", f"{line.quantity} of {line.licence.name}", undo=inverse)
