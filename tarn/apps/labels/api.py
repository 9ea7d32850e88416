"""Labels over HTTP."""

from collections.abc import Callable
from typing import TypeVar

from django.http import HttpRequest, HttpResponse
from ninja import Router, Status
from ninja.errors import HttpError

from tarn.apps.labels import finding, numbering, printing
from tarn.apps.labels.inputs import PrintIn, SchemeIn, WordsIn
from tarn.apps.labels.models import LabelWords, NumberScheme
from tarn.apps.labels.results import FoundOut, LabelChoices, LabelOut, SchemeOut, WordsOut
from tarn.apps.people.answers import or_404
from tarn.core.labels import CODE_KINDS, SHEETS
from tarn.core.numbering import CHECKS

router = Router(tags=["labels"])
Told = TypeVar("Told")


def _or_404(find: Callable[[], Told]) -> Told:
    try:
        return find()
    except KeyError as fault:
        raise HttpError(404, str(fault.args[0])) from None


def _words(held: LabelWords) -> WordsOut:
    return {"company": held.company, "phone": held.phone, "words": held.words, "version": held.version}


@router.get("/labels/choices", response=LabelChoices)
def choices(request: HttpRequest) -> LabelChoices:
    """Return the sheets and codes there are, and what labels say."""
    return {
        "sheets": [
            {"key": s.key, "name": s.name, "labels": s.of_page, "width": s.label[0], "height": s.label[1]}
            for s in SHEETS.values()
        ],
        "codes": list(CODE_KINDS),
        "schemes": numbering.schemes(),
        "checks": list(CHECKS),
        "words": _words(printing.words()),
    }


@router.put("/labels/words", response=WordsOut)
def change_words(request: HttpRequest, data: WordsIn) -> WordsOut:
    """Say what labels and the finder's page say."""
    return _words(printing.change_words(request.user, data))


@router.post("/labels/schemes", response=list[SchemeOut])
def make_scheme(request: HttpRequest, data: SchemeIn) -> list[SchemeOut]:
    """Make a numbering scheme."""
    numbering.make_scheme(request.user, data)
    return numbering.schemes()


@router.put("/labels/schemes/{int:number}", response=list[SchemeOut])
def change_scheme(request: HttpRequest, number: int, data: SchemeIn) -> list[SchemeOut]:
    """Change a numbering scheme, from the version it was read at."""
    or_404(NumberScheme, lambda n: numbering.change_scheme(request.user, n, data), number, "numbering scheme")
    return numbering.schemes()


@router.delete("/labels/schemes/{int:number}", response={204: None})
def drop_scheme(request: HttpRequest, number: int) -> Status[None]:
    """Drop a numbering scheme; numbers it gave stay."""
    or_404(NumberScheme, lambda n: numbering.drop_scheme(request.user, n), number, "numbering scheme")
    return Status(204, None)


@router.post("/labels/print", response={200: None})
def print_labels(request: HttpRequest, data: PrintIn) -> HttpResponse:
    """Return labels as PDF; devices that have none get one."""
    made = printing.print_labels(request.user, data)
    headers = {"Content-Disposition": 'attachment; filename="labels.pdf"'}
    return HttpResponse(made, content_type="application/pdf", headers=headers)


@router.get("/labels/{code}", response=LabelOut)
def by_code(request: HttpRequest, code: str) -> LabelOut:
    """Return the device a label is on now."""
    return _or_404(lambda: finding.by_code(code))


@router.post("/labels/{code}/lost", response=LabelOut)
def lose(request: HttpRequest, code: str) -> LabelOut:
    """Note that a label is lost."""
    return _or_404(lambda: finding.lose(request.user, code))


@router.get("/assets/{asset}/labels", response=list[LabelOut])
def of_asset(request: HttpRequest, asset: int) -> list[LabelOut]:
    """Return the labels of a device, the latest first."""
    return _or_404(lambda: finding.of_asset(asset))


@router.get("/found/{code}", response=FoundOut, auth=None)
def found(request: HttpRequest, code: str) -> FoundOut:
    """Return what a finder of a device is told: whose it is and whom to call."""
    return _or_404(lambda: finding.found(code))
