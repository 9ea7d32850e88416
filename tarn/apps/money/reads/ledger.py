"""The company's currency and rates as the core knows them."""

from tarn.apps.money.models import Ledger, Rate
from tarn.core.finance.money import Rates, rates_of


def ledger() -> Ledger:
    """Return the company's ledger; what ships holds until somebody changes it."""
    return Ledger.objects.first() or Ledger()


def rates() -> Rates:
    """Return the rates against the company's currency."""
    return rates_of(ledger().currency, Rate.objects.order_by("day").values_list("day", "currency", "rate"))


def all_rates() -> list[Rate]:
    """Return all rates, the latest first."""
    return list(Rate.objects.order_by("-day", "currency"))


def money_version() -> tuple[int, int]:
    """Return what changes whenever the currency or a rate does."""
    newest = Rate.objects.order_by("-pk").values_list("pk", flat=True).first()
    return ledger().version, newest or 0
