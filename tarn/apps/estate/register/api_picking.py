"""Picking devices one by one: a column pasted out of a spreadsheet, and all of a selection ticked."""

from django.http import HttpRequest
from ninja import Router, Schema
from ninja.errors import HttpError

from tarn.apps.estate.asking.ask import count, question
from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.estate.register.pages import everything
from tarn.apps.estate.register.pasted import MOST, TooMany, found_by
from tarn.apps.estate.register.results import NumberOut, PastedOut
from tarn.apps.people.actions.refusals import Invalid

router = Router(tags=["estate"])


class PastedIn(Schema):
    words: list[str]


@router.post("/register/pasted", response=PastedOut)
def pasted(request: HttpRequest, data: PastedIn) -> PastedOut:
    """Say which devices a column of numbers, serials, names, addresses or MACs stands for, in its order."""
    try:
        return found_by(data.words)
    except TooMany as error:
        raise Invalid("words", str(error)) from None


@router.get("/register/numbers", response=list[NumberOut])
def numbers(request: HttpRequest, filter: str = "", sort: str = "name", as_of: str | None = None) -> list[NumberOut]:
    """Return the assets of a whole selection in order, by number alone: to tick all of them over all pages."""
    asked = question(filter, read_dial(as_of))
    if (total := count(asked)) > MOST:
        raise HttpError(422, f"{total:,} are too many to tick one by one: at most {MOST:,}. Ask for them instead.")
    return [{"id": row["id"], "number": row["number"]} for row in everything(asked, ["number"], sort)]
