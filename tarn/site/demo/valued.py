"""What the demo company's assets are worth and cost, who has which, and how it plans to replace them."""

from datetime import date, timedelta
from typing import Any

RULES: tuple[dict[str, Any], ...] = (
    {"name": "Servers and virtual hosts", "filter": "kind in (server, hypervisor)", "months": 60, "residual": "5",
     "method": "declining balance", "factor": 200},
    {"name": "Laptops and workstations", "filter": "kind in (laptop, workstation)", "months": 48},
    {"name": "At the counter", "filter": "kind in (kiosk, till, printer)", "months": 60,
     "method": "sum of years' digits"},
    {"name": "Everything else", "filter": "", "months": 60},
)  # fmt: skip

ENERGY = {"price": "0.31", "version": 0, "kinds": {
    "server": [240, 24], "hypervisor": [420, 24], "workstation": [65, 9], "laptop": [22, 9], "kiosk": [90, 16],
    "till": [45, 12], "switch": [60, 24], "router": [35, 24], "firewall": [45, 24], "access point": [12, 24],
    "camera": [8, 24], "recorder": [55, 24], "printer": [30, 10], "storage": [350, 24],
}}  # fmt: skip

SUPPORT = (("Gannet Linux", "4", 47), ("Debian GNU/Linux", "11", 92), ("Debian GNU/Linux", "12", 940),
           ("Windows", "10.0.19045", 61), ("Microsoft Windows 10 Pro", "", 61), ("Windows 10 Pro", "", 61))  # fmt: skip
"""System, release, ends in so many days."""

SCENARIOS: tuple[tuple[str, dict[str, Any]], ...] = (
    ("As the budget stands", {"life": {"laptop": 48, "workstation": 60, "server": 72, "kiosk": 72, "printer": 84},
                              "price": {"workstation": "790", "till": "640", "switch": "1350"},
                              "memory": {"workstation": 16, "laptop": 16},
                              "earlier": {"warranty": 6, "faults": 3, "memory": 6}, "budgets": ["18000"],
                              "quarters": 8}),
    ("A year longer", {"life": {"laptop": 60, "workstation": 72, "server": 84, "kiosk": 84, "printer": 96},
                       "price": {"workstation": "790", "till": "640", "switch": "1350"},
                       "earlier": {"warranty": 0, "faults": 3}, "budgets": ["12000"], "quarters": 8}),
)  # fmt: skip


def value(user: Any, today: date) -> None:
    """Make rules, prices of energy, ends of support and scenarios; hand over and lend, repair, lose, part with."""
    from tarn.apps.estate.asking.ask import ids, question
    from tarn.apps.lifecycle.actions.steps import acknowledge, take_step
    from tarn.apps.lifecycle.actions.support import take_in_support_ends
    from tarn.apps.lifecycle.inputs import StepSaid
    from tarn.apps.people.reads import roster
    from tarn.apps.valuation.actions.plans import keep_scenario, set_energy
    from tarn.apps.valuation.actions.rules import make_rule
    from tarn.apps.valuation.inputs import DepreciationRuleIn, EnergyIn, ScenarioIn

    for rule in RULES:
        make_rule(user, DepreciationRuleIn.model_validate(rule))
    set_energy(user, EnergyIn.model_validate(ENERGY))
    lines = [f"{name},{release},{today + timedelta(days=days)}" for name, release, days in SUPPORT]
    take_in_support_ends(user, "\n".join(["name,release,day", *lines]))
    for name, settings in SCENARIOS:
        filter_ = "kind in (laptop, workstation, server, kiosk, till, printer, switch)"
        keep_scenario(user, None, ScenarioIn.model_validate({"name": name, "filter": filter_, "settings": settings}))

    people = [name for name, known in roster().items() if known.left_at is None]
    laptops = sorted(ids(question('kind = laptop and state = "in use" and last_seen > now - 30d')))
    carried = sorted(ids(question('kind = tablet and state = "in use"')))

    def step(name: str, assets: list[int], ago: int, **said: Any) -> dict[int, str]:
        return take_step(user, assets, name, StepSaid(day=today - timedelta(days=ago), **said)).secrets

    for number, asset in enumerate(laptops[:6]):
        keys = step("hand over", [asset], 40 + number, person=people[3 + number * 2], why="New starter's laptop")
        if number % 2:
            acknowledge(keys[asset], people[3 + number * 2])
    # What is carried was adopted a moment ago, so nothing is said of it before.
    loans = ((laptops[6], 30, -9), (laptops[7], 12, 16), (laptops[11], 20, -2), (carried[0], 0, 60))
    for number, (asset, ago, due) in enumerate(loans):
        until = today + timedelta(days=due)
        keys = step("lend", [asset], ago, person=people[20 + number], due=until, why="While theirs is mended")
        if number == 1:
            acknowledge(keys[asset], people[21])
    step("hand over", [carried[1]], 0, place="MV Marram", department="Fleet")
    step("take back", carried[3:8], 0, condition="Wiped and charged, back from the summer crew")
    step("send to repair", [laptops[8]], 4, why="Hinge is broken")
    step("report lost or stolen", [carried[2]], 0, why="Left on the quay at Grey Ness")
    step("retire", [laptops[9], laptops[10]], 25, why="Too slow for the new planner")
    parted = {"method": "sold to a refurbisher", "erasure": "overwritten, certificate E-2291", "proceeds": "85.00"}
    step("dispose of", [laptops[9]], 10, **parted)
