"""Assets entered by hand, over HTTP."""

from django.http import HttpRequest
from ninja import Router, Schema

from tarn.apps.estate.register.enter import enter
from tarn.apps.estate.register.results import EnteredOut
from tarn.core.sections import OWN

router = Router(tags=["estate"])


class EnteredIn(Schema):
    kind: str
    name: str = ""
    serial: str = ""
    manufacturer: str = ""
    model: str = ""
    mac: str = ""
    uuid: str = ""
    address: str = ""
    person: str = ""
    department: str = ""
    place: str = ""
    state: str = ""
    note: str = ""
    own: dict[str, str | bool | float | None] = {}


@router.post("/register", response=EnteredOut)
def enter_asset(request: HttpRequest, data: EnteredIn) -> EnteredOut:
    """Enter an asset by hand. A sweep that sees it later finds this one by its identifiers."""
    given = data.dict()
    own = {f"{OWN}{name}": value for name, value in given.pop("own").items()}
    return {"asset": enter(request.user, {**given, **own})}
