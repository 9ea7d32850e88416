"""Amounts of money as people enter them."""

from datetime import date

from tarn.apps.money.reads.ledger import ledger, rates
from tarn.apps.people.actions.refusals import Invalid
from tarn.core.finance.money import MoneyError, checked_currency, to_minor


def read_amount(
    amount: object, currency: object, day: date | None = None, *, field: str, currency_field: str = "currency"
) -> tuple[int, str]:
    """Return an amount in minor units and its currency, the company's own where none is said.

    Where a day is given there must be a rate for it. Raises Invalid at `field` or `currency_field`.
    """
    try:
        code = checked_currency(str(currency or ledger().currency))
    except MoneyError as wrong:
        raise Invalid(currency_field, str(wrong)) from None
    try:
        minor = to_minor(str(amount or "0").strip(), code)
    except MoneyError as wrong:
        raise Invalid(field, str(wrong)) from None
    if minor < 0:
        raise Invalid(field, "This is not less than nothing.")
    if day is not None:
        known = rates()
        try:
            known.convert(minor, code, known.base, day)
        except MoneyError as wrong:
            raise Invalid(currency_field, f"{wrong}. Take in its rates first.") from None
    return minor, code
