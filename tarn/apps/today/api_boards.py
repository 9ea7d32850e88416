"""Boards over HTTP."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Status

from tarn.apps.people.answers import or_404
from tarn.apps.today.boards import change
from tarn.apps.today.boards.answers import answers
from tarn.apps.today.boards.shown import boards
from tarn.apps.today.inputs import BoardIn, CardsIn, ChosenIn
from tarn.apps.today.models import Board
from tarn.apps.today.results import BoardsOut, CardAnswer

router = Router(tags=["today"])


@router.get("/boards", response=BoardsOut)
def all_boards(request: HttpRequest) -> BoardsOut:
    """Return the boards one may look at, and which one is looked at."""
    return boards(request.user)


@router.post("/boards/answers", response=list[CardAnswer])
def answer_cards(request: HttpRequest, data: CardsIn) -> list[CardAnswer]:
    """Return what cards show, as of a day; those that wait are asked for again."""
    return answers(data.cards, data.as_of)


@router.post("/boards/chosen", response=BoardsOut)
def choose_board(request: HttpRequest, data: ChosenIn) -> BoardsOut:
    """Look at a board from now on."""
    change.choose(request.user, data.board)
    return boards(request.user)


@router.post("/boards", response=BoardsOut)
def make_board(request: HttpRequest, data: BoardIn) -> BoardsOut:
    """Lay a board out, and look at it."""
    change.make(request.user, data)
    return boards(request.user)


@router.put("/boards/{int:number}", response=BoardsOut)
def change_board(request: HttpRequest, number: int, data: BoardIn) -> BoardsOut:
    """Lay a board out anew."""
    or_404(Board, lambda n: change.change(request.user, n, data), number, "board")
    return boards(request.user)


@router.delete("/boards/{int:number}", response={204: None})
def drop_board(request: HttpRequest, number: int) -> Any:
    """Drop a board."""
    or_404(Board, lambda n: change.drop_board(request.user, n), number, "board")
    return Status(204, None)
