"""People and their devices over HTTP: thin; parse, call, shape."""

from django.http import HttpRequest
from ninja import Router
from ninja.errors import HttpError

from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.estate.people import persons as reads
from tarn.apps.estate.people.results import (
    PersonPageOut,
    PersonRowOut,
)

router = Router(tags=["people"])


@router.get("/persons", response=list[PersonRowOut])
def people(request: HttpRequest, as_of: str | None = None) -> list[PersonRowOut]:
    """Return the people of the company with how many devices they hold; those who left and still hold some first."""
    return reads.people(read_dial(as_of))


@router.get("/persons/one", response=PersonPageOut)
def person(request: HttpRequest, name: str, as_of: str | None = None) -> PersonPageOut:
    """Return one person: what they hold, where they sign in, what they held before."""
    person_page = reads.person(name, read_dial(as_of))
    if person_page is None:
        raise HttpError(404, f"Nobody called “{name}” is known, and nobody of that name holds a device.")
    return person_page
