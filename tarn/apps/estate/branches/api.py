"""The trees of places, departments and people over HTTP: thin; parse, call, shape."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Status
from ninja.errors import HttpError

from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.estate.branches import place as actions
from tarn.apps.estate.branches import tree as reads
from tarn.apps.estate.branches.inputs import PlacedIn
from tarn.apps.estate.models import Branch

router = Router(tags=["branches"])


class BranchOut(PlacedIn):
    depth: int
    here: int
    within: int
    kept: bool
    filter: str


@router.get("/branches", response=list[BranchOut])
def branches(request: HttpRequest, as_of: str | None = None) -> Any:
    """Return the places, departments and holders as trees, each with the assets of its branch."""
    return reads.branches(read_dial(as_of))


@router.put("/branches", response=list[BranchOut])
def put_under(request: HttpRequest, data: PlacedIn) -> Any:
    """Put a place, department or person under another, or at the top; return the trees as they stand then."""
    actions.place(request.user, data)
    return reads.branches(None)


@router.delete("/branches", response={204: None})
def take_out(request: HttpRequest, field: str, name: str) -> Status[None]:
    """Take a name out of its tree; refused while something lies under it. Devices that say it keep saying it."""
    try:
        actions.take_out(request.user, field, name)
    except Branch.DoesNotExist:
        raise HttpError(404, f"No {field} “{name}” was put in the tree.") from None
    return Status(204, None)
