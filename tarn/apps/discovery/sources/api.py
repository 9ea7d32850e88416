"""Other systems over HTTP: thin; parse, call, shape."""

from django.http import HttpRequest
from ninja import Router, Schema, Status

from tarn.apps.discovery.models import Source, Sync
from tarn.apps.discovery.sources import change as actions
from tarn.apps.discovery.sources import shown as reads
from tarn.apps.discovery.sources.inputs import SourceIn
from tarn.apps.discovery.sources.results import ChoicesOut, PickOut, SourceOut, SourcePage, SyncOut, TestOut
from tarn.apps.people.answers import or_404

router = Router(tags=["sources"])


class PickIn(Schema):
    pick: str


@router.get("/sources", response=list[SourceOut])
def sources(request: HttpRequest) -> list[SourceOut]:
    """Return all sources."""
    return reads.sources()


@router.get("/sources/choices", response=ChoicesOut)
def choices(request: HttpRequest) -> ChoicesOut:
    """Return what a mapping may fill, and the mappings made ready."""
    return reads.mapping_choices()


@router.post("/sources/test", response=TestOut)
def test(request: HttpRequest, data: SourceIn) -> TestOut:
    """Ask a source as described and show a sample; nothing is stored."""
    return actions.test_source(request.user, data)


@router.post("/sources", response=SourcePage)
def new_source(request: HttpRequest, data: SourceIn) -> SourcePage:
    """Make a source."""
    return reads.source_page(actions.make_source(request.user, data).pk)


@router.get("/sources/{number}", response=SourcePage)
def one_source(request: HttpRequest, number: int) -> SourcePage:
    """Return a source and its latest syncs."""
    return or_404(Source, reads.source_page, number)


@router.put("/sources/{number}", response=SourcePage)
def edit_source(request: HttpRequest, number: int, data: SourceIn) -> SourcePage:
    """Change a source."""
    or_404(Source, lambda n: actions.change_source(request.user, n, data.version, data), number)
    return reads.source_page(number)


@router.delete("/sources/{number}", response={204: None})
def end_source(request: HttpRequest, number: int) -> Status[None]:
    """Drop a source; what it brought stays."""
    or_404(Source, lambda n: actions.drop_source(request.user, n), number)
    return Status(204, None)


@router.post("/sources/{number}/syncs", response=SyncOut)
def start(request: HttpRequest, number: int) -> SyncOut:
    """Start a sync."""
    return reads.sync(or_404(Source, lambda n: actions.start_sync(request.user, n), number))


@router.post("/syncs/{number}/loss", response=SyncOut)
def accept_loss(request: HttpRequest, number: int) -> SyncOut:
    """Hold what a sync misses, beyond the share its source allows, to be gone, and deal with it as the source says."""
    return reads.sync(or_404(Sync, lambda n: actions.accept_loss(request.user, n), number))


@router.post("/sources/{number}/pick", response=PickOut)
def pick(request: HttpRequest, number: int, data: PickIn) -> PickOut:
    """Return the addresses of a directory's computers of one sort, for a sweep."""
    return or_404(Source, lambda n: actions.pick(request.user, n, data.pick), number)
