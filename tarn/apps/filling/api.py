"""Fill rules over HTTP: thin; parse, call, shape."""

from django.http import HttpRequest
from ninja import Router, Schema, Status

from tarn.apps.filling import reads
from tarn.apps.filling.actions import rules as actions
from tarn.apps.filling.inputs import FillRuleIn, RehearseIn
from tarn.apps.filling.models import FillRule
from tarn.apps.filling.results import FillChoicesOut, FillRehearsalOut, FillRuleOut, ForceOut
from tarn.apps.people.answers import or_404

router = Router(tags=["fill rules"])


class ForceIn(Schema):
    on: bool


class OrderIn(Schema):
    order: list[int]


@router.get("/fill-rules", response=list[FillRuleOut])
def rules(request: HttpRequest) -> list[FillRuleOut]:
    """Return the fill rules in their order."""
    return reads.rules()


@router.get("/fill-rules/choices", response=FillChoicesOut)
def choices(request: HttpRequest) -> FillChoicesOut:
    """Return what a rule may read and fill, when, and what can come of it."""
    return reads.choices()


@router.post("/fill-rules/rehearse", response=FillRehearsalOut)
def rehearse(request: HttpRequest, data: RehearseIn) -> FillRehearsalOut:
    """Say what a rule would do, device by device; changes nothing."""
    return reads.rehearsal(
        actions.rehearse(request.user, data, None)
        if data.number is None
        else or_404(FillRule, lambda n: actions.rehearse(request.user, data, n), data.number, "fill rule")
    )


@router.post("/fill-rules", response=FillRuleOut)
def new_rule(request: HttpRequest, data: FillRuleIn) -> FillRuleOut:
    """Make a rule, not yet in force."""
    return reads.row(actions.make_rule(request.user, data))


@router.put("/fill-rules/{number}", response=FillRuleOut)
def change_rule(request: HttpRequest, number: int, data: FillRuleIn) -> FillRuleOut:
    """Change a rule; its name stays. One in force is carried out as it is now."""
    return reads.row(or_404(FillRule, lambda n: actions.change_rule(request.user, n, data), number, "fill rule"))


@router.post("/fill-rules/{number}/force", response=ForceOut)
def force(request: HttpRequest, number: int, data: ForceIn) -> ForceOut:
    """Put a rule in force, or take it out: its values are taken back then."""
    rule, assets = or_404(FillRule, lambda n: actions.set_in_force(request.user, n, data.on), number, "fill rule")
    return {"rule": reads.row(rule), "assets": assets}


@router.put("/fill-rules", response=list[FillRuleOut])
def order(request: HttpRequest, data: OrderIn) -> list[FillRuleOut]:
    """Put the rules in this order: of those that fill one field the first does."""
    actions.order(request.user, data.order)
    return reads.rules()


@router.delete("/fill-rules/{number}", response={204: None})
def drop_rule(request: HttpRequest, number: int) -> Status[None]:
    """Drop a rule; what it filled is taken back."""
    or_404(FillRule, lambda n: actions.drop_rule(request.user, n), number, "fill rule")
    return Status(204, None)
