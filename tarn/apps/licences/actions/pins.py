"""What people say of a product on devices: covered by this licence, exempt, disputed; and products that need one."""

from datetime import date, timedelta
from typing import Any

from django.core import serializers
from django.db import transaction
from django.db.models import Q

from tarn.apps.estate.software.installed import machines, products_named
from tarn.apps.licences.actions.changing import changed
from tarn.apps.licences.inputs import SaidIn
from tarn.apps.licences.models import Licence, Need, Pin
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible

_VERBS = {"licence": "pinned", "exempt": "exempted", "disputed": "disputed", "": "took back what was said of"}


def say(user: Any, data: SaidIn, today: date) -> int:
    """Say of a product on assets what holds of it from today; an earlier word on them is replaced. Returns how many.

    `says`: licence, exempt, disputed, or empty to take back what was said.
    Raises Invalid.
    """
    require(user, "decide")
    says, until, product, assets = data.says, data.until, data.product, data.assets
    if not assets:
        raise Invalid("assets", "Say on which devices.")
    if products_named([product])[product] is None:
        raise Invalid("product", f"No device has or had “{product}”.")
    known = machines(None)
    if unknown := [a for a in assets if a not in known]:
        raise Invalid("assets", f"{len(unknown)} of these devices are not in the register.")
    why = data.why.strip()[:300]
    if says in ("exempt", "disputed") and not why:
        raise Invalid("why", "Say why; an auditor will ask.")
    if until is not None and until < today:
        raise Invalid("until", f"{until.isoformat()} is over already.")
    licence = None
    if says == "licence":
        licence = visible(Licence).filter(pk=data.licence or 0).first()
        if licence is None:
            raise Invalid("licence", "Say which licence.")
    with transaction.atomic():
        standing = Q(until=None) | Q(until__gte=today)
        former = visible(Pin).filter(standing, asset__in=assets, product=product)
        back = serializers.serialize("json", former)
        # What held until yesterday stays said of those days.
        former.filter(begins=today).delete()
        former.update(until=today - timedelta(days=1))
        made = []
        if says:
            made = [
                Pin.objects.create(
                    asset=asset,
                    product=product,
                    says=says,
                    licence=licence,
                    why=why,
                    begins=today,
                    until=until,
                    made_by=user.username,
                    organisation=owner(None),
                )
                for asset in assets
            ]
        changed()
        verb = {"licence": "pinned", "exempt": "exempted", "disputed": "disputed", "": "took back what was said of"}[
            says
        ]
        inverse = {"action": "licence pins", "drop": [m.pk for m in made], "rows": back}
        record(user, verb, f"{product} on {len(assets)} devices", detail={"why": why}, undo=inverse)
    return len(assets)


def need(user: Any, product: str, needed: bool) -> None:
    """Say that a product may not be used without a licence, or that it may. Raises Invalid."""
    require(user, "decide")
    if not product.strip():
        raise Invalid("product", "Say which product.")
    if needed and products_named([product.strip()])[product.strip()] is None:
        raise Invalid("product", f"No device has or had “{product.strip()}”.")
    with once("product", f"“{product}” is known to need a licence already."):
        if needed:
            Need.objects.create(product=product.strip(), organisation=owner(None))
        else:
            visible(Need).filter(product=product.strip()).delete()
        changed()
        record(user, "said it needs a licence" if needed else "said it needs no licence", product.strip())
