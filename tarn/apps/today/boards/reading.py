"""Reading cards as they are sent or kept: their shape, and whether what they ask can be asked."""

from typing import Any

from pydantic import ValidationError

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.asking.dial import DialError, read_dial
from tarn.apps.estate.register.strata import bands_there_are
from tarn.core.cards import BY_ONE, BY_TWO, Card, CardError, checked
from tarn.core.filters.parse import FilterError


def read_card(said: dict[str, Any]) -> Card:
    """Return a card as it was sent. Raises CardError naming what cannot be read."""
    try:
        return checked(Card.model_validate(said))
    except ValidationError as error:
        first = error.errors()[0]
        raise CardError(".".join(map(str, first["loc"])) or "card", str(first["msg"])) from None


def require_askable(card: Card) -> None:
    """Raise CardError where what a card asks cannot be asked."""
    for field, text in (("filter", card.filter), ("whole", card.whole)):
        try:
            question(text)
        except FilterError as error:
            raise CardError(field, error.message) from None
    if card.at:
        try:
            read_dial(card.at)
        except DialError as error:
            raise CardError("at", str(error)) from None
    require_bands(card)


def require_bands(card: Card) -> None:
    """Raise CardError where a card divides by what a selection is not divided by."""
    if card.of == "question" and card.shown in BY_ONE:
        wanted = (("by", card.by), ("and_by", card.and_by if card.shown in BY_TWO else ""))
        for field, band in wanted:
            if band and band not in bands_there_are():
                raise CardError(field, f"A selection is not divided by “{band}”; by: {', '.join(bands_there_are())}.")
