"""Unknown programs and recognisers over HTTP."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Status
from ninja.errors import HttpError

from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.answers import or_404
from tarn.apps.services.inputs import ProgramWordIn, RecogniserIn, RecognisersFile, TryRecogniserIn
from tarn.apps.services.models import Recogniser
from tarn.apps.services.programs import change, shown
from tarn.apps.services.programs.applications import applications, told
from tarn.apps.services.programs.results import (
    ApplicationOut,
    ProgramOut,
    RecogniserOut,
    RecognisersFileOut,
    TriedOut,
    UnknownOut,
)
from tarn.core.filters.parse import FilterError
from tarn.core.programs.recognising import RuleFault

router = Router(tags=["services"])


@router.get("/services/programs", response=UnknownOut)
def unknown_programs(request: HttpRequest, as_of: str | None = None, alone: bool = False) -> UnknownOut:
    """Return what runs and nothing explains, in groups that look alike."""
    return shown.overview(read_dial(as_of), alone)


@router.get("/services/programs/{key}", response=ProgramOut)
def one_program(request: HttpRequest, key: str, as_of: str | None = None) -> ProgramOut:
    """Return a group of unknown programs with samples, and the rule read from it."""
    try:
        return shown.group(key, read_dial(as_of))
    except shown.NoSuchProgram:
        raise HttpError(404, "There is no such unknown program, or it is known by now.") from None


@router.post("/services/programs/{key}/word", response={204: None})
def say_of_program(request: HttpRequest, key: str, data: ProgramWordIn) -> Any:
    """Leave a group alone, take it for several programs, or take such a word back."""
    try:
        change.say_of_program(request.user, key, data)
    except shown.NoSuchProgram:
        raise HttpError(404, "There is no such unknown program, or it is known by now.") from None
    return Status(204, None)


@router.get("/services/applications", response=list[ApplicationOut])
def list_applications(request: HttpRequest, as_of: str | None = None) -> list[ApplicationOut]:
    """Return the applications that recognisers know, with their instances and whom they call."""
    return applications(read_dial(as_of))


@router.get("/services/recognisers", response=list[RecogniserOut])
def list_recognisers(request: HttpRequest) -> list[RecogniserOut]:
    """Return the recognisers."""
    return [told(r) for r in Recogniser.objects.all()]


@router.post("/services/recognisers", response=RecogniserOut)
def make_recogniser(request: HttpRequest, data: RecogniserIn) -> RecogniserOut:
    """Make a program known."""
    return told(change.keep(request.user, data))


@router.post("/services/recognisers/tried", response=TriedOut)
def try_recogniser(request: HttpRequest, data: TryRecogniserIn) -> TriedOut:
    """Say what a rule would recognise of all that was ever read, changing nothing."""
    try:
        return shown.tried(data.rule, data.version, data.keys, None)
    except FilterError as error:
        raise Invalid("rule", error.message) from None
    except RuleFault as error:
        raise Invalid(error.field, str(error)) from None
    except ValueError as error:
        raise Invalid("version", str(error)) from None


@router.get("/services/recognisers/file", response=RecognisersFileOut)
def recognisers_file(request: HttpRequest) -> dict[str, Any]:
    """Return the recognisers made here as a file."""
    return change.as_file()


@router.post("/services/recognisers/file", response=list[RecogniserOut])
def take_recognisers(request: HttpRequest, data: RecognisersFile) -> list[RecogniserOut]:
    """Take in a file of recognisers: all of them or none."""
    change.take_file(request.user, data)
    return list_recognisers(request)


@router.put("/services/recognisers/{int:number}", response=RecogniserOut)
def change_recogniser(request: HttpRequest, number: int, data: RecogniserIn) -> RecogniserOut:
    """Change a recogniser."""
    return told(or_404(Recogniser, lambda n: change.keep(request.user, data, n), number, "recogniser"))


@router.delete("/services/recognisers/{int:number}", response={204: None})
def drop_recogniser(request: HttpRequest, number: int) -> Any:
    """Drop a recogniser: what it knew is unknown again."""
    or_404(Recogniser, lambda n: change.drop(request.user, n), number, "recogniser")
    return Status(204, None)
