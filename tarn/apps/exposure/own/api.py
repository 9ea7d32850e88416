"""Rules of our own over HTTP: thin; parse, call, shape."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Status

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.exposure.models import OwnRule
from tarn.apps.exposure.own import change as actions
from tarn.apps.exposure.own import shown
from tarn.apps.exposure.own.inputs import OwnRuleIn, OwnRuleTried
from tarn.apps.exposure.own.results import OwnRulesOut, OwnRuleTriedOut
from tarn.apps.people.answers import or_404

router = Router(tags=["exposure"])


@router.get("/exposure/own", response=OwnRulesOut)
def rules(request: HttpRequest, filter: str = "", as_of: str | None = None) -> OwnRulesOut:
    """Return the rules of our own, with what each finds on a selection."""
    return shown.listed(question(filter, read_dial(as_of)))


@router.post("/exposure/own/tried", response=OwnRuleTriedOut)
def try_rule(request: HttpRequest, data: OwnRuleTried) -> OwnRuleTriedOut:
    """Return what a rule with such a filter would find now; keeps nothing."""
    return shown.tried(data.filter)


@router.post("/exposure/own", response=OwnRulesOut)
def make_rule(request: HttpRequest, data: OwnRuleIn) -> OwnRulesOut:
    """Make a rule of our own."""
    actions.make_rule(request.user, data)
    return shown.listed(question(""))


@router.put("/exposure/own/{number}", response=OwnRulesOut)
def change_rule(request: HttpRequest, number: int, data: OwnRuleIn) -> OwnRulesOut:
    """Change a rule of our own, or put it in force or out of it."""
    or_404(OwnRule, lambda n: actions.change_rule(request.user, n, data), number, "rule")
    return shown.listed(question(""))


@router.delete("/exposure/own/{number}", response={204: None})
def drop_rule(request: HttpRequest, number: int) -> Any:
    """Drop a rule of the company's making."""
    or_404(OwnRule, lambda n: actions.drop_rule(request.user, n), number, "rule")
    return Status(204, None)
