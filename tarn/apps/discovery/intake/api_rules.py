"""Intake rules over HTTP: thin; parse, call, shape."""

from typing import Any

from django.db.models import Count
from django.http import HttpRequest
from ninja import Router, Schema, Status
from ninja.errors import HttpError

from tarn.apps.discovery.intake import rules as actions
from tarn.apps.discovery.intake.inputs import RuleIn
from tarn.apps.discovery.intake.results import IntakeRehearsedOut, RuleOut
from tarn.apps.discovery.models import IntakeRule
from tarn.apps.people.scope import visible

router = Router(tags=["intake rules"])


class InForce(Schema):
    in_force: bool


class IntakeFilterIn(Schema):
    filter: str


def _rules() -> Any:
    return visible(IntakeRule).annotate(decided=Count("ruled")).order_by("pk")


@router.get("/intake/rules", response=list[RuleOut])
def rules(request: HttpRequest) -> list[RuleOut]:
    """Return the intake rules, in the order they are carried out."""
    return _rules()


@router.post("/intake/rules/rehearse", response=IntakeRehearsedOut)
def rehearse(request: HttpRequest, data: IntakeFilterIn) -> IntakeRehearsedOut:
    """Say what a rule with this filter would decide of now, changing nothing."""
    return actions.rehearse_rule(request.user, data.filter)


@router.post("/intake/rules", response=RuleOut)
def new_rule(request: HttpRequest, data: RuleIn) -> RuleOut:
    """Make a rule."""
    return _rules().get(pk=actions.make_rule(request.user, data).pk)


@router.put("/intake/rules/{number}", response=RuleOut)
def in_force(request: HttpRequest, number: int, data: InForce) -> RuleOut:
    """Put a rule in force, or take it out of force."""
    try:
        return _rules().get(pk=actions.set_in_force(request.user, number, data.in_force).pk)
    except IntakeRule.DoesNotExist:
        raise HttpError(404, f"There is no rule {number}.") from None


@router.delete("/intake/rules/{number}", response={204: None})
def end_rule(request: HttpRequest, number: int) -> Status[None]:
    """Drop a rule; what it decided stays."""
    try:
        actions.drop_rule(request.user, number)
    except IntakeRule.DoesNotExist:
        raise HttpError(404, f"There is no rule {number}.") from None
    return Status(204, None)
