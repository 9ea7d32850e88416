"""Names outside, over HTTP: thin; parse, call, shape."""

from django.http import HttpRequest
from ninja import Router, Status

from tarn.apps.exposure import outside_names as reads
from tarn.apps.exposure.actions import outside_names as actions
from tarn.apps.exposure.inputs import OutsideNameIn
from tarn.apps.exposure.models import OutsideName
from tarn.apps.exposure.results import OutsideNameOut
from tarn.apps.people.answers import or_404

router = Router(tags=["exposure"])


@router.get("/exposure/names", response=list[OutsideNameOut])
def names(request: HttpRequest) -> list[OutsideNameOut]:
    """Return the products that are here with what they are called outside, those on most devices first."""
    return reads.listed()


@router.post("/exposure/names", response=list[OutsideNameOut])
def name(request: HttpRequest, data: OutsideNameIn) -> list[OutsideNameOut]:
    """Say what a product is called outside."""
    actions.name_outside(request.user, data)
    return reads.listed()


@router.delete("/exposure/names/{number}", response={204: None})
def drop(request: HttpRequest, number: int) -> Status[None]:
    """Take a name back."""
    or_404(OutsideName, lambda n: actions.drop_name(request.user, n), number, "name outside")
    return Status(204, None)
