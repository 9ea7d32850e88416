"""Steps and hand-overs over HTTP: thin; parse, call, shape."""

from typing import Any

from django.http import HttpRequest
from ninja import File, Form, Router, Schema
from ninja.errors import HttpError
from ninja.files import UploadedFile

from tarn.apps.estate.asking.ask import ids, question, visible_among
from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.estate.papers.held import papers_of
from tarn.apps.estate.papers.keep import add_paper
from tarn.apps.estate.papers.results import PaperOut
from tarn.apps.lifecycle.actions import acquisition as typed
from tarn.apps.lifecycle.actions import steps as actions
from tarn.apps.lifecycle.inputs import AcquisitionIn, StepSaid
from tarn.apps.lifecycle.models import HandOver, StepTaken
from tarn.apps.lifecycle.reads import steps as reads
from tarn.apps.lifecycle.reads.cover import cover
from tarn.apps.lifecycle.reads.stock import stock
from tarn.apps.lifecycle.results import (
    AcknowledgeAt,
    AcknowledgePath,
    BookVersion,
    CoverOut,
    EntryOut,
    HandOverOut,
    StepDone,
    StepWithPapers,
    StockOut,
    ToAcknowledge,
)
from tarn.apps.people.actions.tokens import digest
from tarn.apps.people.answers import or_404
from tarn.apps.people.speaking import Words
from tarn.core.lifecycle import CLEARS, NEEDS

router = Router(tags=["lifecycle"])
_NOTHING = "There is nothing to acknowledge here: the link is mistyped, or a newer one was made."


class StepRow(Schema):
    name: str
    begins: list[str]
    to: str
    needs: list[str] = []
    clears: list[str] = []
    hands: str = ""


class BookOut(Schema):
    steps: list[StepRow]
    own: bool
    version: int
    needs: dict[str, Words]
    clears: list[str]


class BookIn(Schema):
    steps: list[StepRow]
    version: int


class MeantIn(Schema):
    assets: list[int] = []
    filter: str | None = None
    expected: int | None = None


class StepIn(MeantIn, StepSaid):
    step: str


class AssetSteps(Schema):
    open: list[StepRow]
    taken: list[StepWithPapers]
    hand_over: HandOverOut | None


class AcknowledgeIn(Schema):
    name: str


def _path(key: str) -> str:
    return f"/acknowledge/{key}"


@router.get("/lifecycle/steps", response=BookOut)
def step_book(request: HttpRequest) -> Any:
    """The steps in force, and what a step may need and take away."""
    return {**reads.book_rows(), "needs": NEEDS, "clears": list(CLEARS)}


@router.put("/lifecycle/steps", response=BookVersion)
def change_book(request: HttpRequest, body: BookIn) -> Any:
    """Make the steps the company's own; none at all bring what ships back."""
    return actions.change_book(request.user, [s.dict() for s in body.steps], body.version)


@router.post("/lifecycle/steps/open", response=list[StepRow])
def steps_open(request: HttpRequest, body: MeantIn) -> Any:
    """The steps that all assets named, or all that answer a filter, may take now."""
    life_steps = reads.open_to(_meant(body))
    if life_steps is None:
        raise HttpError(404, "Some of these are not in the register.")
    return life_steps


@router.post("/lifecycle/steps/take", response=StepDone)
def take_step(request: HttpRequest, body: StepIn) -> StepDone:
    """Take a step with assets, or with all that answer a filter; `expected`: how many were shown. All or none."""
    assets = _meant(body)
    done = actions.take_step(request.user, assets, body.step, body)
    acknowledge_ats: list[AcknowledgeAt] = [{"asset": asset, "path": _path(key)} for asset, key in done.secrets.items()]
    return {"assets": len(done.assets), "entry": done.entry, "acknowledge": acknowledge_ats}


def _meant(body: MeantIn) -> list[int]:
    if body.filter is None and not body.assets:
        raise HttpError(400, "Say which assets: by `assets`, their numbers, or by a `filter`.")
    assets = body.assets if body.filter is None else ids(question(body.filter))
    if body.expected is not None and len(assets) != body.expected:
        raise HttpError(
            409, f"{body.expected} were shown and {len(assets)} answer by now. Nothing was done; look again."
        )
    return assets


@router.get("/lifecycle/hand-overs", response=list[HandOverOut])
def hand_overs(request: HttpRequest, as_of: str | None = None) -> list[HandOverOut]:
    """What is handed over: what is overdue first, then what leavers hold, then what is due soonest."""
    return reads.hand_overs(read_dial(as_of))


@router.get("/lifecycle/stock", response=StockOut)
def in_stock(request: HttpRequest, as_of: str | None = None) -> StockOut:
    """What lies in stock, model by model, and what is still to come of orders."""
    return stock(read_dial(as_of))


@router.get("/lifecycle/assets/{asset}/steps", response=AssetSteps)
def steps_of(request: HttpRequest, asset: int, as_of: str | None = None) -> Any:
    """The steps an asset took, those open to it now, and in whose hands it is."""
    if not visible_among([asset]):
        raise HttpError(404, f"There is no asset {asset}.")
    at = read_dial(as_of)
    taken = reads.history(asset, at)
    papers = papers_of([step_taken["anchor"] for step_taken in taken], at)
    hand = reads.hand_overs(at, [asset])
    return {
        "open": [] if at is not None else reads.open_to([asset]) or [],
        "taken": [{**step_taken, "papers": papers.get(step_taken["anchor"], [])} for step_taken in taken],
        "hand_over": hand[0] if hand else None,
    }


@router.put("/lifecycle/assets/{asset}/acquisition", response=EntryOut)
def set_acquisition(request: HttpRequest, asset: int, body: AcquisitionIn) -> EntryOut:
    """Say how an asset was acquired and until when its warranty lasts; what is left empty is taken back."""
    return {"entry": typed.set_acquisition(request.user, asset, body)}


@router.get("/lifecycle/assets/{asset}/cover", response=CoverOut)
def cover_of(request: HttpRequest, asset: int, as_of: str | None = None) -> CoverOut:
    """Whether an asset is in cover, until when, by whom, and how that is claimed."""
    if not visible_among([asset]):
        raise HttpError(404, f"There is no asset {asset}.")
    return cover(asset, read_dial(as_of))


@router.post("/lifecycle/steps-taken/{anchor}/papers", response=list[PaperOut])
def add_step_paper(
    request: HttpRequest, anchor: str, text: Form[str] = "", file: File[UploadedFile | None] = None
) -> list[PaperOut]:
    """Keep a note or a file with a step: a form signed, a certificate of erasure."""
    asset = reads.asset_of_step(anchor)
    if asset is None or not StepTaken.objects.filter(anchor=anchor).exists():
        raise HttpError(404, f"There is no step “{anchor}”.")
    add_paper(request.user, asset, text, file.name or "file" if file else "", file.chunks() if file else (), anchor)
    return papers_of([anchor], None)[anchor]


@router.post("/lifecycle/hand-overs/{number}/acknowledgement", response=AcknowledgePath)
def new_acknowledgement(request: HttpRequest, number: int) -> AcknowledgePath:
    """Make a new link by which whoever received something acknowledges it; the former no longer holds."""
    key = or_404(HandOver, lambda n: actions.new_acknowledgement(request.user, n), number, "open hand-over")
    return {"path": _path(key)}


@router.get("/acknowledgements/{key}", auth=None, response=ToAcknowledge)
def to_acknowledge(request: HttpRequest, key: str) -> ToAcknowledge:
    """What was handed over, for whoever has the link."""
    hand_over = HandOver.objects.exclude(digest="").filter(digest=digest(key)).first()
    if hand_over is None:
        raise HttpError(404, _NOTHING)
    return reads.to_acknowledge(hand_over)


@router.post("/acknowledgements/{key}", auth=None, response=ToAcknowledge)
def acknowledge(request: HttpRequest, key: str, body: AcknowledgeIn) -> ToAcknowledge:
    """Acknowledge in one's own name that something was received."""
    try:
        hand_over = actions.acknowledge(key, body.name)
    except HandOver.DoesNotExist:
        raise HttpError(
            404, "There is nothing to acknowledge here: the link is mistyped, or a newer one was made."
        ) from None
    return reads.to_acknowledge(hand_over)
