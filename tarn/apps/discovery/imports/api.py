"""Files of devices over HTTP: thin; parse, call, shape."""

import csv
import io

from django.http import HttpRequest, HttpResponse
from ninja import File, Router, Schema
from ninja.files import UploadedFile

from tarn.apps.discovery.imports import change as actions
from tarn.apps.discovery.imports.results import ImportOut, RehearsalOut
from tarn.apps.discovery.models import FileImport
from tarn.apps.people.answers import or_404
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.core.text import cell

router = Router(tags=["imports"])


class MappingIn(Schema):
    name: str
    mapping: dict[str, dict[str, str]]
    heading: int | None = None
    written: dict[str, str] = {}


def _shown(held: FileImport) -> ImportOut:
    return {
        "id": held.pk,
        "name": held.name,
        "file_name": held.file_name,
        "format": held.shape["format"],
        "encoding": held.shape["encoding"],
        "heading": held.shape.get("heading", 1),
        "written": held.shape.get("written") or {},
        "headings": held.shape["headings"],
        "first": actions.first_rows(held),
        "mapping": held.mapping,
        "state": held.state,
        "counts": held.counts,
        "progress": held.progress,
        "total": held.total,
        "made_at": held.made_at,
    }


@router.post("/imports", response=ImportOut)
def upload(request: HttpRequest, file: File[UploadedFile], organisation: int | None = None) -> ImportOut:
    """Upload a file of devices; how it is read and what its columns are is found out and can be corrected."""
    return _shown(actions.upload(request.user, file.name or "file", file.chunks(), organisation))


@router.post("/assets/{asset}/sbom")
def sbom(request: HttpRequest, asset: int, file: File[UploadedFile]) -> dict[str, str]:
    """Take a CycloneDX bill of materials in as an asset's software."""
    return {"asset": actions.take_sbom(request.user, asset, file.name or "sbom", file.read())}


@router.get("/imports/{number}", response=ImportOut)
def one(request: HttpRequest, number: int) -> ImportOut:
    """Return an import and its first rows."""
    require(request.user, "plan")
    return _shown(or_404(FileImport, lambda n: visible(FileImport).get(pk=n), number, "import"))


@router.put("/imports/{number}", response=ImportOut)
def mapping(request: HttpRequest, number: int, data: MappingIn) -> ImportOut:
    """Say what the columns are, what the source is called, where the headings stand, and how it is written."""

    def say(number: int) -> FileImport:
        return actions.set_mapping(
            request.user, number, data.name, data.mapping, heading=data.heading, as_written=data.written
        )

    return _shown(or_404(FileImport, say, number, "import"))


@router.post("/imports/{number}/rehearse", response=RehearsalOut)
def rehearse(request: HttpRequest, number: int) -> RehearsalOut:
    """Say what it would do, row by row, storing nothing."""
    return or_404(FileImport, lambda n: actions.rehearse(request.user, n), number, "import")


@router.post("/imports/{number}/carry-out", response=ImportOut)
def carry_out(request: HttpRequest, number: int) -> ImportOut:
    """Take every sound row in, piece by piece; what was broken off goes on. Can be undone from the audit trail."""
    return _shown(or_404(FileImport, lambda n: actions.carry_out(request.user, n), number, "import"))


@router.get("/imports/{number}/refused.csv")
def refused(request: HttpRequest, number: int) -> HttpResponse:
    """Return the refused rows as they came, each with its reason."""
    require(request.user, "plan")
    held = or_404(FileImport, lambda n: visible(FileImport).get(pk=n), number, "import")
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["row", "reason", *map(cell, held.shape["headings"])])
    for row in held.refused:
        writer.writerow([row["row"], row["why"], *(cell(row["cells"].get(h, "")) for h in held.shape["headings"])])
    answer = HttpResponse(out.getvalue(), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="refused-{number}.csv"'
    return answer
