"""What of licences has a day: terms and maintenance that end, and what is paid."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date

from tarn.apps.estate.asking.dial import day_of
from tarn.apps.licences.models import Licence, Purchase
from tarn.apps.licences.reads.terms import over_time
from tarn.apps.people.scope import visible
from tarn.core.finance.payments import Due


@dataclass(frozen=True, slots=True)
class Dated:
    """A licence with the last days of its term and of its maintenance, where there are such."""

    number: int
    name: str
    publisher: str
    ends: date | None
    maintained_until: date | None


def terms() -> list[Dated]:
    """Return the licences that have an end of any kind."""
    return [
        Dated(licence.pk, licence.name, licence.publisher, licence.ends, licence.maintained_until)
        for licence in visible(Licence)
        if licence.ends or licence.maintained_until
    ]


def licence_names() -> set[str]:
    """Return the names of the licences there are."""
    return set(visible(Licence).values_list("name", flat=True))


def paid() -> Iterator[tuple[Due, str, str, int]]:
    """Yield what is paid for licences: the payment, for what, its kind, and the licence's number.

    What is paid again is taken to go on after the term's end, as a renewal; the past keeps the terms of its day. One
    payment is there once: what a subscription was bought with by the day of its first payment is that payment.
    """
    subscribed: dict[int, date] = {}
    for one, parts in over_time():
        for begins, until, held in parts:
            if not held.cost_every:
                continue
            first = held.starts or day_of(one.made_at)
            if held.ends:
                subscribed[one.pk] = max(first, subscribed.get(one.pk, first))
            due = Due(
                f"licence {one.pk}",
                held.cost,
                held.cost_currency,
                first,
                held.cost_every,
                held.ends,
                True,
                begins,
                until,
            )
            yield due, one.name, "licence", one.pk
    for line in visible(Purchase).select_related("licence"):
        if (first_paid := subscribed.get(line.licence.pk)) is not None and line.day <= first_paid:
            continue
        due = Due(f"purchase {line.pk}", line.price * line.quantity, line.currency, line.day, "once")
        yield due, f"{line.quantity} of {line.licence.name}", "purchase", line.licence.pk
