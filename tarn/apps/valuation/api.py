"""What assets are worth, cost, and when they are replaced, over HTTP: thin; parse, call, shape."""

from typing import Annotated, Any

from django.http import HttpRequest
from ninja import Query, Router, Status
from ninja.errors import HttpError

from tarn.apps.estate.asking.ask import visible_among
from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.people.answers import or_404
from tarn.apps.people.scope import visible
from tarn.apps.valuation.actions import plans, rules
from tarn.apps.valuation.inputs import DepreciationRuleIn, EnergyIn, RefreshIn, ScenarioIn, TermsIn
from tarn.apps.valuation.models import DepreciationRule, Energy, Scenario
from tarn.apps.valuation.reads import lens, refresh, shown_rules
from tarn.apps.valuation.results import (
    AssetMoneyOut,
    DepreciationRulesOut,
    EnergyOut,
    MoneyOut,
    PlannedOut,
    ScenarioOut,
    SideBySide,
    ValuationVersion,
)

router = Router(tags=["valuation"])


@router.get("/valuation/money", response=MoneyOut)
def money(
    request: HttpRequest,
    filter: str = "",
    by: str = "department",
    as_of: str | None = None,
    written: str = "",
    offset: Annotated[int, Query(ge=0)] = 0,
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> MoneyOut:
    """The money of a selection: cost, worth, and what it costs a month all in, by what one asks."""
    if by not in lens.BY:
        raise HttpError(422, f"“{by}” is nothing money is told by; one of: {', '.join(lens.BY)}.")
    return lens.money_of(filter, by, read_dial(as_of), offset, limit, written=written)


@router.get("/valuation/assets/{asset}", response=AssetMoneyOut)
def asset_money(request: HttpRequest, asset: int, as_of: str | None = None) -> AssetMoneyOut:
    """The money of one asset: its terms, its schedule, what it costs a month and why."""
    if not visible_among([asset]):
        raise HttpError(404, f"There is no asset {asset}.")
    return lens.money_of_asset(asset, read_dial(as_of))


@router.put("/valuation/assets/{asset}/terms", response=ValuationVersion)
def set_terms(request: HttpRequest, asset: int, body: TermsIn) -> Any:
    """Give one asset terms of its own in place of its rule's."""
    return rules.set_terms(request.user, asset, body)


@router.delete("/valuation/assets/{asset}/terms", response={204: None})
def drop_terms(request: HttpRequest, asset: int) -> Any:
    """Let an asset's rule hold for it again."""
    rules.drop_terms(request.user, asset)
    return Status(204, None)


@router.get("/valuation/rules", response=DepreciationRulesOut)
def all_rules(request: HttpRequest, as_of: str | None = None) -> DepreciationRulesOut:
    """The rules of depreciation in their order, with what is written down by each."""
    return shown_rules.rules(read_dial(as_of))


@router.post("/valuation/rules", response={201: ValuationVersion})
def make_rule(request: HttpRequest, body: DepreciationRuleIn) -> Any:
    """Make a rule, after those there are."""
    return Status(201, rules.make_rule(request.user, body))


@router.put("/valuation/rules/{number}", response=ValuationVersion)
def change_rule(request: HttpRequest, number: int, body: DepreciationRuleIn) -> Any:
    """Change a rule from the version the edit was made from."""
    return or_404(DepreciationRule, lambda n: rules.change_rule(request.user, n, body), number, "rule")


@router.post("/valuation/rules/{number}/up", response={204: None})
def move_rule(request: HttpRequest, number: int) -> Any:
    """Move a rule before the one it follows."""
    or_404(DepreciationRule, lambda n: rules.move_rule(request.user, n), number, "rule")
    return Status(204, None)


@router.delete("/valuation/rules/{number}", response={204: None})
def drop_rule(request: HttpRequest, number: int) -> Any:
    """Drop a rule; it can be undone."""
    or_404(DepreciationRule, lambda n: rules.drop_rule(request.user, n), number, "rule")
    return Status(204, None)


@router.get("/valuation/energy", response=EnergyOut)
def energy(request: HttpRequest) -> Any:
    """What energy costs, and what devices of each kind take up."""
    return Energy.objects.first() or Energy(version=0)


@router.put("/valuation/energy", response=ValuationVersion)
def set_energy(request: HttpRequest, body: EnergyIn) -> Any:
    """Set what energy costs, from the version the edit was made from."""
    return plans.set_energy(request.user, body)


@router.get("/valuation/scenarios", response=list[ScenarioOut])
def scenarios(request: HttpRequest) -> list[ScenarioOut]:
    """The scenarios kept."""
    return refresh.scenarios()


@router.get("/valuation/scenarios/beside", response=list[SideBySide])
def beside(request: HttpRequest, as_of: str | None = None) -> list[SideBySide]:
    """What every scenario comes to, by quarter."""
    return refresh.side_by_side(read_dial(as_of))


@router.post("/valuation/scenarios", response={201: ScenarioOut})
def keep_scenario(request: HttpRequest, body: ScenarioIn) -> Any:
    """Keep a scenario."""
    return Status(201, refresh.scenario(plans.keep_scenario(request.user, None, body)))


@router.put("/valuation/scenarios/{number}", response=ScenarioOut)
def change_scenario(request: HttpRequest, number: int, body: ScenarioIn) -> ScenarioOut:
    """Change a scenario from the version the edit was made from."""
    kept = or_404(Scenario, lambda n: plans.keep_scenario(request.user, n, body), number, "scenario")
    return refresh.scenario(kept)


@router.delete("/valuation/scenarios/{number}", response={204: None})
def drop_scenario(request: HttpRequest, number: int) -> Any:
    """Drop a scenario; it can be undone."""
    or_404(Scenario, lambda n: plans.drop_scenario(request.user, n), number, "scenario")
    return Status(204, None)


@router.post("/valuation/refresh", response=PlannedOut)
def preview(request: HttpRequest, body: RefreshIn, as_of: str | None = None) -> PlannedOut:
    """What a scenario would make of a selection, kept or not; `beside`: the kept one it is held against."""
    held = None
    if body.beside is not None:
        held = or_404(Scenario, lambda n: visible(Scenario).get(pk=n), body.beside, "scenario").settings
    settings = plans.checked_settings(body.settings)
    return refresh.planned(body.filter, settings, read_dial(as_of), held, min(body.most, refresh.MOST_ROWS))
