"""Notes and files on assets over HTTP: thin; parse, call, shape."""

from django.http import FileResponse, HttpRequest
from ninja import File, Form, Router, Status
from ninja.errors import HttpError
from ninja.files import UploadedFile

from tarn.apps.estate.asking.ask import visible_among
from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.estate.models import Paper, Sighting
from tarn.apps.estate.papers import held as reads
from tarn.apps.estate.papers import keep as actions
from tarn.apps.estate.papers.results import PaperOut
from tarn.apps.people.answers import or_404

router = Router(tags=["papers"])


def _seen(asset: int) -> None:
    if not visible_among([asset]) or not Sighting.objects.filter(asset=asset).exists():
        raise HttpError(404, f"There is no asset {asset}.")


@router.get("/assets/{asset}/papers", response=list[PaperOut])
def papers(request: HttpRequest, asset: int, as_of: str | None = None) -> list[PaperOut]:
    """Return the notes and files kept with an asset, the newest first."""
    _seen(asset)
    return reads.papers(asset, read_dial(as_of))


@router.post("/assets/{asset}/papers", response=list[PaperOut])
def add(
    request: HttpRequest, asset: int, text: Form[str] = "", file: File[UploadedFile | None] = None
) -> list[PaperOut]:
    """Keep a note, a file or both with an asset; return what is kept with it then."""
    _seen(asset)
    actions.add_paper(request.user, asset, text, file.name or "file" if file else "", file.chunks() if file else ())
    return reads.papers(asset, None)


def _anchor(kind: str, number: int) -> str:
    anchor = reads.anchor_of(kind, number)
    if anchor is None:
        raise HttpError(404, f"There is no {kind} {number} that holds papers.")
    return anchor


@router.get("/papers-of/{kind}/{number}", response=list[PaperOut])
def papers_of(request: HttpRequest, kind: str, number: int, as_of: str | None = None) -> list[PaperOut]:
    """Return the notes and files kept with a licence, a contract or an order, the newest first."""
    anchor = _anchor(kind, number)
    return reads.papers_of([anchor], read_dial(as_of)).get(anchor, [])


@router.post("/papers-of/{kind}/{number}", response=list[PaperOut])
def add_to(
    request: HttpRequest, kind: str, number: int, text: Form[str] = "", file: File[UploadedFile | None] = None
) -> list[PaperOut]:
    """Keep a note, a file or both with a licence, a contract or an order; return what is kept with it then."""
    anchor = _anchor(kind, number)
    pieces = file.chunks() if file else ()
    actions.add_paper_to(request.user, anchor, f"{kind} {number}", text, file.name or "file" if file else "", pieces)
    return reads.papers_of([anchor], None)[anchor]


@router.get("/papers/{number}/file")
def content(request: HttpRequest, number: int) -> FileResponse:
    """Return a file as it was given. It is never shown in the page, whatever it holds."""
    paper = or_404(Paper, reads.paper, number)
    path = reads.folder() / paper.sha256
    if not paper.file_name or not path.exists():
        raise HttpError(404, f"The paper {number} has no file here.")
    return FileResponse(
        path.open("rb"), content_type="application/octet-stream", as_attachment=True, filename=paper.file_name
    )


@router.delete("/papers/{number}", response={204: None})
def remove(request: HttpRequest, number: int) -> Status[None]:
    """Take a paper away; the audit trail can bring it back."""
    or_404(Paper, lambda n: actions.remove_paper(request.user, n), number)
    return Status(204, None)
