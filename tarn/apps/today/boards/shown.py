"""Boards as they are shown: those that ship, one's own, and those that are shared."""

from typing import Any, cast

from tarn.apps.estate.register.strata import bands_there_are
from tarn.apps.people.roles import role_of
from tarn.apps.people.scope import visible
from tarn.apps.today.boards.shipped import BOARDS, CARDS, FIRST
from tarn.apps.today.models import Board, Chosen
from tarn.apps.today.results import BoardOut, BoardsOut, CardOut
from tarn.core.cards import Card


def boards(person: Any) -> BoardsOut:
    """Return the boards a person may look at: those laid out by name, then those that ship; and which they look at:
    the one they chose, else that of their role, else the first that ships."""
    held = list(visible(Board))
    out = [board(one, person) for one in held] + [_shipped(key) for key in BOARDS]
    there = {b["key"] for b in out}
    choice = Chosen.objects.filter(person=person).values_list("board", flat=True).first()
    role = next((str(b.pk) for b in held if b.role and b.role == role_of(person)), FIRST)
    return {"chosen": choice if choice in there else role, "bands": bands_there_are(), "boards": out}


def board(held: Board, person: Any) -> BoardOut:
    """Return a board somebody laid out. In its drawer are the cards taken off it, and all that ship and are not on
    it."""
    on = {c["key"] for c in held.cards}
    kept = [c for c in held.drawer if c["key"] not in on]
    known = on | {c["key"] for c in kept}
    return {
        "key": str(held.pk),
        "name": held.name,
        "ships": False,
        "mine": held.made_by == person.username,
        "access": held.access,
        "role": held.role,
        "made_by": held.made_by,
        "version": held.version,
        "cards": held.cards,
        "drawer": [*kept, *(_card(c) for key, c in CARDS.items() if key not in known)],
    }


def _shipped(key: str) -> BoardOut:
    one = BOARDS[key]
    return {
        "key": key,
        "name": one.name,
        "ships": True,
        "mine": False,
        "access": "read",
        "role": "",
        "made_by": "",
        "version": 0,
        "cards": [_card(CARDS[c]) for c in one.cards],
        "drawer": [_card(c) for k, c in CARDS.items() if k not in one.cards],
    }


def _card(card: Card) -> CardOut:
    return cast("CardOut", card.model_dump())  # of the same fields
