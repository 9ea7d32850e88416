"""Taking in records of use, from which the most at once is reckoned."""

from typing import Any

from django.db import transaction

from tarn.apps.estate.asking.dial import zone
from tarn.apps.licences.actions.changing import changed
from tarn.apps.licences.models import UseRecord
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.core.licensing.records import RecordError, read_records

MOST = 500_000


def take_in_records(user: Any, text: str) -> tuple[int, int]:
    """Take in a file of records, all or none; return how many are new and how many were known. Raises Invalid."""
    require(user, "plan")
    try:
        records = read_records(text, zone())
    except RecordError as wrong:
        raise Invalid("file", str(wrong)) from None
    if len(records) > MOST:
        raise Invalid("file", f"{len(records)} records at once are too many: at most {MOST}.")
    whose = owner(None)
    with transaction.atomic():
        products = {r.product for r in records}
        fields = ("product", "person", "device", "begins", "ends")
        held = set(visible(UseRecord).filter(product__in=products).values_list(*fields))
        fresh = [r for r in dict.fromkeys(records) if (r.product, r.person, r.device, r.begins, r.ends) not in held]
        UseRecord.objects.bulk_create(
            (UseRecord(**{n: getattr(r, n) for n in fields}, organisation=whose) for r in fresh), batch_size=1_000
        )
        changed()
        record(user, "took in records of use", f"{len(fresh)} records", detail={"products": sorted(products)[:50]})
    return len(fresh), len(records) - len(fresh)
