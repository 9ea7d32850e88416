"""The inquiry over HTTP."""

from typing import Annotated

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router
from ninja.errors import HttpError

from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.services.inputs import InquiryNoteIn
from tarn.apps.services.inquiry import kept
from tarn.apps.services.inquiry.asked import inquire
from tarn.apps.services.inquiry.results import InquiryBrief, InquiryOut
from tarn.apps.services.inquiry.sheet import SHEETS

router = Router(tags=["services"])
Words = Annotated[list[str], Query(max_length=kept.MOST_WORDS)]


def _inquiry(of: list[str], number: int | None, as_of: str | None) -> InquiryOut:
    found = None
    if number is not None:
        found = kept.one(number)
    told = inquire(of or (found.words if found else []), read_dial(as_of))
    if found is not None:
        told["number"], told["notes"] = found.pk, kept.notes_of(found)
    return told


@router.get("/services/inquiry", response=InquiryOut)
def inquiry(
    request: HttpRequest,
    of: Words = [],  # noqa: B006
    number: int | None = None,
    as_of: str | None = None,
) -> InquiryOut:
    """Return what addresses, names, people, tickets or services stand for, side by side under one clock."""
    return _inquiry(of, number, as_of)


@router.get("/services/inquiries", response=list[InquiryBrief])
def inquiries(request: HttpRequest) -> list[InquiryBrief]:
    """Return the inquiries that are kept for their notes, the newest first."""
    return kept.latest()


@router.post("/services/inquiry/notes", response=InquiryOut)
def note(request: HttpRequest, data: InquiryNoteIn) -> InquiryOut:
    """Write a note; the first of an inquiry keeps it."""
    made = kept.note(request.user, data)
    return _inquiry(made.words, made.pk, None)


@router.get("/services/inquiry/sheet/{format}")
def sheet(
    request: HttpRequest,
    format: str,
    of: Words = [],  # noqa: B006
    number: int | None = None,
    as_of: str | None = None,
) -> HttpResponse:
    """Return an inquiry as a sheet for the ticket: html or pdf."""
    if format not in SHEETS:
        raise HttpError(422, f"“{format}” is no format here; one of: {', '.join(SHEETS)}.")
    kind, make = SHEETS[format]
    answer = HttpResponse(make(_inquiry(of, number, as_of)), content_type=kind)
    answer["Content-Disposition"] = f'attachment; filename="inquiry.{format}"'
    return answer
