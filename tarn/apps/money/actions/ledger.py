"""The company's own currency and year, and rates of exchange from a file."""

from typing import Any

from django.db import transaction

from tarn.apps.money.inputs import LedgerIn
from tarn.apps.money.models import Ledger, Rate
from tarn.apps.money.reads.ledger import ledger
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid, require_version
from tarn.apps.people.roles import require
from tarn.core.finance.money import MoneyError, checked_currency, read_rates


def set_ledger(user: Any, data: LedgerIn) -> Ledger:
    """Set currency and beginning of the fiscal year. Rates are against the old currency, so they must go first.

    Raises Invalid, Stale.
    """
    require(user, "plan")
    with transaction.atomic():
        held = ledger()
        now = {"currency": held.currency, "year_begins": held.year_begins, "version": held.version}
        require_version(held, data.version, "The ledger", now)
        try:
            currency = checked_currency(data.currency)
        except MoneyError as wrong:
            raise Invalid("currency", str(wrong)) from None
        if not 1 <= data.year_begins <= 12:
            raise Invalid("year_begins", "A year begins in one of its months, 1 to 12.")
        if currency != held.currency and Rate.objects.exists():
            raise Invalid("currency", f"There are rates against {held.currency}; take in a file of rates anew after.")
        if not 1 <= data.idle_after <= 3_650:
            raise Invalid("idle_after", "Days without use are 1 to 3650.")
        held.currency, held.year_begins, held.version = currency, data.year_begins, held.version + 1
        held.idle_after = data.idle_after
        held.save()
        record(user, "set the ledger", currency, detail={"year_begins": held.year_begins})
    return held


def take_in_rates(user: Any, text: str) -> int:
    """Take in a file of rates; one of a day and currency that is there already replaces it. Returns how many.

    Raises Invalid naming the line.
    """
    require(user, "plan")
    try:
        rows = read_rates(text, ledger().currency)
    except MoneyError as wrong:
        raise Invalid("file", str(wrong)) from None
    with transaction.atomic():
        for day, currency, rate in rows:
            Rate.objects.filter(day=day, currency=currency).delete()
            Rate.objects.create(day=day, currency=currency, rate=rate)
        record(user, "took in rates", f"{len(rows)} rates", detail={"currencies": sorted({c for _, c, _ in rows})})
    return len(rows)
