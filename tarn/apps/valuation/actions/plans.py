"""Scenarios of refresh, and what energy costs."""

import time
from decimal import Decimal, InvalidOperation
from typing import Any

from django.db import transaction

from tarn.apps.estate.asking.ask import question
from tarn.apps.money.actions.amounts import read_amount
from tarn.apps.money.reads.ledger import ledger
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once, require_version
from tarn.apps.people.actions.rows import drop, edit, inverse, rows_undoer
from tarn.apps.people.roles import require
from tarn.apps.valuation.inputs import EnergyIn, ScenarioIn, ScenarioSettings
from tarn.apps.valuation.models import Energy, Scenario
from tarn.apps.valuation.reads.refresh import read_settings
from tarn.core.filters.parse import FilterError
from tarn.core.refresh import RefreshError

rows_undoer("scenarios", Scenario, "plan")


def checked_settings(told: ScenarioSettings) -> dict[str, Any]:
    """Return settings of a scenario with amounts in minor units. Raises Invalid naming the field."""
    own = ledger().currency
    out = {
        "life": {k: v for k, v in told.life.items() if v},
        "price": {k: read_amount(v, own, field="price")[0] for k, v in told.price.items() if v not in (None, "")},
        "memory": {k: v for k, v in told.memory.items() if v},
        "earlier": {k: v for k, v in told.earlier.items() if v},
        "budgets": [
            None if b in (None, "") else read_amount(b, own, field="budgets")[0] for b in told.budgets or [None]
        ],
        "quarters": told.quarters,
    }
    try:
        read_settings(out, {})
    except RefreshError as wrong:
        raise Invalid(wrong.field, str(wrong)) from None
    return out


def keep_scenario(user: Any, number: int | None, data: ScenarioIn) -> Scenario:
    """Keep a scenario, or change one from the version the edit was made from. Raises Invalid, Stale, DoesNotExist."""
    require(user, "plan")
    name, text = data.name.strip()[:200], data.filter.strip()
    if not name:
        raise Invalid("name", "A scenario needs a name.")
    try:
        question(text)
    except FilterError as error:
        raise Invalid("filter", error.message) from None
    values = {"name": name, "filter": text, "settings": checked_settings(data.settings)}
    with once("name", f"There is a scenario “{name}” already."):
        if number is None:
            made = Scenario.objects.create(
                **values,
                made_by=user.username,
                made_at=int(time.time()),
                organisation=owner(data.organisation),
            )
            record(user, "kept a scenario", name, undo=inverse("scenarios", made, made=True))
            return made
        scenario: Scenario = edit(user, Scenario, number, data.version, values, "scenarios", "changed a scenario")
    return scenario


def drop_scenario(user: Any, number: int) -> None:
    """Drop a scenario. Raises Scenario.DoesNotExist."""
    require(user, "plan")
    drop(user, Scenario, number, "scenarios", "dropped a scenario")


def set_energy(user: Any, data: EnergyIn) -> Energy:
    """Set what a kilowatt hour costs, and by kind watts and hours a day. Raises Invalid, Stale."""
    require(user, "plan")
    try:
        price = Decimal((data.price or "0").replace(",", "."))
    except InvalidOperation:
        raise Invalid("price", f"“{data.price}” is no price; write it like 0.31.") from None
    if not price.is_finite() or not 0 <= price < 1_000:
        raise Invalid("price", "The price of a kilowatt hour lies between nothing and 1000.")
    kinds = {}
    for kind, (watts, hours) in data.kinds.items():
        if not 0 <= watts <= 100_000 or not 0 <= hours <= 24:
            raise Invalid("kinds", f"A {kind} takes up 0 to 100000 watts for 0 to 24 hours a day.")
        kinds[kind] = [watts, hours]
    with transaction.atomic():
        energy = Energy.objects.first() or Energy(version=0)
        require_version(energy, data.version, "What energy costs", {"version": energy.version})
        energy.price, energy.kinds, energy.version = price, kinds, energy.version + 1
        energy.save()
        record(user, "set what energy costs", f"{price} a kWh", detail={"kinds": kinds})
    return energy
