"""Handbooks over HTTP."""

from django.http import HttpRequest, HttpResponse
from ninja import Router, Status
from ninja.errors import HttpError

from tarn.apps.handbooks import change, issuing, shown
from tarn.apps.handbooks.filling import Asked, fill
from tarn.apps.handbooks.inputs import DecideIn, FillIn, HandbookIn, HandbookNew
from tarn.apps.handbooks.models import Handbook, Issue
from tarn.apps.handbooks.results import HandbookOut, HandbooksOut, IssueOut
from tarn.apps.handbooks.writing.formats import FORMATS, file_of
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.answers import or_404
from tarn.apps.people.scope import visible
from tarn.apps.people.speaking import reading
from tarn.core.handbooks.live import LIVE, Filled, LiveError, checked_settings

router = Router(tags=["handbooks"])


@router.get("/handbooks", response=HandbooksOut)
def all_handbooks(request: HttpRequest) -> HandbooksOut:
    """Return the handbooks there are, and those that ship."""
    return shown.handbooks()


@router.post("/handbooks", response=HandbookOut)
def begin(request: HttpRequest, data: HandbookNew) -> HandbookOut:
    """Begin a handbook: from one that ships, from another, or empty."""
    return shown.handbook(change.begin(request.user, data).pk)


@router.post("/handbooks/fill", response=Filled)
def fill_block(request: HttpRequest, data: FillIn) -> Filled:
    """Return a live block as it would be filled now."""
    if data.kind not in LIVE:
        raise Invalid("kind", f"“{data.kind}” is no live block; {', '.join(LIVE)} are.")
    try:
        settings = checked_settings(data.kind, data.settings)
    except LiveError as fault:
        raise Invalid(fault.field, str(fault)) from None
    held = visible(Handbook).filter(pk=data.handbook).first() if data.handbook else None
    since = held.issues.filter(state="issued").values_list("at", flat=True).first() if held else None
    return fill(data.kind, Asked(settings, None, data.place, since))


@router.get("/handbooks/{int:number}", response=HandbookOut)
def handbook(request: HttpRequest, number: int) -> HandbookOut:
    """Return a handbook as it is being written."""
    return or_404(Handbook, shown.handbook, number, "handbook")


@router.put("/handbooks/{int:number}", response=HandbookOut)
def keep(request: HttpRequest, number: int, data: HandbookIn) -> HandbookOut:
    """Keep a handbook anew, from the version it was read at."""
    secret = or_404(Handbook, lambda n: change.keep(request.user, n, data), number, "handbook")
    return {**shown.handbook(number), "secret": secret}


@router.delete("/handbooks/{int:number}", response={204: None})
def drop(request: HttpRequest, number: int) -> Status[None]:
    """Drop a handbook with its issues."""
    or_404(Handbook, lambda n: change.drop_handbook(request.user, n), number, "handbook")
    return Status(204, None)


@router.post("/handbooks/{int:number}/issues", response=IssueOut)
def issue(request: HttpRequest, number: int) -> IssueOut:
    """Issue a handbook: all blocks filled as of now, and frozen."""
    made = or_404(Handbook, lambda n: issuing.issue(request.user, n), number, "handbook")
    return shown.issue_shown(made.pk)


@router.get("/handbooks/issues/{int:number}", response=IssueOut)
def issue_told(request: HttpRequest, number: int) -> IssueOut:
    """Return an issue with all that was filled in, and what differs from the one before."""
    return or_404(Issue, shown.issue_shown, number, "issue")


@router.post("/handbooks/issues/{int:number}/decision", response=IssueOut)
def decide(request: HttpRequest, number: int, data: DecideIn) -> IssueOut:
    """Approve or refuse an issue that waits."""
    or_404(Issue, lambda n: issuing.decide(request.user, n, data.approve, data.why), number, "issue")
    return shown.issue_shown(number)


@router.get("/handbooks/issues/{int:number}/{format}", response={200: None})
def issue_file(request: HttpRequest, number: int, format: str) -> HttpResponse:
    """Return an issue as a file: pdf, docx, html or md."""
    held = or_404(Issue, shown.issue_held, number, "issue")
    if format not in FORMATS:
        raise HttpError(422, f"“{format}” is no format of handbooks; one of: {', '.join(FORMATS)}.")
    name, content, media = file_of(held, format, reading())
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return HttpResponse(content, content_type=media, headers=headers)
