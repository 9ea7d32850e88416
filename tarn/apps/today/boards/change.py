"""Laying out boards: made, changed, dropped; and choosing which one looks at."""

import time
from typing import Any

from django.db import transaction

from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once
from tarn.apps.people.actions.rows import drop, edit, inverse, rows_undoer
from tarn.apps.people.roles import ROLES, require
from tarn.apps.people.scope import visible
from tarn.apps.people.sharing import read_access, require_change
from tarn.apps.today.boards.reading import read_card, require_askable
from tarn.apps.today.boards.shipped import BOARDS
from tarn.apps.today.inputs import BoardIn
from tarn.apps.today.models import Board, Chosen
from tarn.core.cards import MOST_CARDS, CardError

_UNDO = "put a board back"
rows_undoer(_UNDO, Board, "keep")


def _checked(data: BoardIn) -> dict[str, Any]:
    """Return what a board is made of. A card that was put in a drawer is kept as it is, also where it cannot be asked
    any more; what is laid out has to be askable, unless it was so already."""
    name = " ".join(data.name.split())[:80]
    if not name:
        raise Invalid("name", "A board needs a name.")
    if len(data.cards) > MOST_CARDS:
        raise Invalid("cards", f"{len(data.cards)} cards are too many for one board: at most {MOST_CARDS}.")
    if data.role and data.role not in ROLES:
        raise Invalid("role", f"“{data.role}” is no role; {', '.join(ROLES)} are.")
    if data.role and data.access == "own":
        raise Invalid("role", "A board that is a role’s has to be shared: nobody else sees one’s own.")
    cards, drawer = _cards("cards", data.cards), _cards("drawer", data.drawer)
    return {"name": name, "cards": cards, "drawer": drawer, "access": read_access(data.access), "role": data.role}


def _cards(field: str, said: list[dict[str, Any]]) -> list[dict[str, Any]]:
    out: dict[str, dict[str, Any]] = {}
    for number, one in enumerate(said, 1):
        try:
            card = read_card(one)
        except CardError as fault:
            raise Invalid(field, f"Card {number}, {fault.field}: {fault}") from None
        if card.key in out:
            raise Invalid(field, f"Two cards are called “{card.key}”.")
        out[card.key] = card.model_dump()
    return list(out.values())


def _require_askable(cards: list[dict[str, Any]], before: list[dict[str, Any]]) -> None:
    """Raise Invalid for a card that is new or changed and cannot be asked."""
    for one in cards:
        if one not in before:
            try:
                require_askable(read_card(one))
            except CardError as fault:
                raise Invalid("cards", f"“{one['title'] or one['key']}”, {fault.field}: {fault}") from None


def make(person: Any, data: BoardIn) -> Board:
    """Lay a board out, and look at it. Raises Invalid."""
    require(person, "look" if data.access == "own" else "keep")
    values = _checked(data)
    _require_askable(values["cards"], [])
    _require_role(person, values["role"], "")
    with once("name", f"You have a board “{values['name']}” already."):
        made = Board.objects.create(
            **values, made_by=person.username, made_at=int(time.time()), organisation=owner(data.organisation)
        )
        record(person, "laid out a board", made.name, undo=inverse(_UNDO, made, made=True))
        choose(person, str(made.pk))
    return made


def change(person: Any, number: int, data: BoardIn) -> Board:
    """Lay a board out anew, from the version it was read at. Raises Invalid, Stale, NotAllowed, Board.DoesNotExist."""
    values = _checked(data)
    with once("name", f"You have a board “{values['name']}” already."):
        held = visible(Board).get(pk=number)
        require(person, "look" if data.access == held.access == "own" else "keep")
        require_change(person, held.access, held.made_by)
        _require_askable(values["cards"], held.cards)
        _require_role(person, values["role"], held.role)
        made: Board = edit(person, Board, number, data.version or 0, values, _UNDO, "laid a board out anew")
    return made


def drop_board(person: Any, number: int) -> None:
    """Drop a board. Raises NotAllowed, Board.DoesNotExist."""
    held = visible(Board).get(pk=number)
    require(person, "look" if held.access == "own" else "keep")
    require_change(person, held.access, held.made_by)
    drop(person, Board, number, _UNDO, "dropped a board")


def _require_role(person: Any, role: str, before: str) -> None:
    """Whose board it is by role is said by those who see to people."""
    if role != before:
        require(person, "people")


def choose(person: Any, key: str) -> None:
    """Look at a board. Raises Invalid where there is none of this key."""
    there = key in BOARDS or (key.isdigit() and len(key) < 16 and visible(Board).filter(pk=int(key)).exists())
    if not there:
        raise Invalid("board", f"There is no board “{key}”.")
    with transaction.atomic():
        Chosen.objects.update_or_create(person=person, defaults={"board": key})
