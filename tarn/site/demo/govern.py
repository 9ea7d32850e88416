"""What the demo company says of its software, and what it wants every computer to have."""

import time
from datetime import UTC, datetime
from typing import Any

DAY = 86_400
BASELINES: tuple[dict[str, Any], ...] = (
    {
        "name": "Every computer of the office",
        "filter": "kind in (workstation, laptop) and place = Saltholm",
        "rules": [
            {"name": "an office suite", "filter": "software[product in @office_suites]"},
            {"name": "protection installed", "filter": "software[product in @protection]"},
            {"name": "protection on and current", "filter": "protections[on = yes and up_to_date = yes]"},
            {"name": "free of barred software", "filter": "no software[ruling = barred]"},
        ],
    },
    {
        "name": "What is carried",
        "filter": "kind in (laptop, phone, tablet)",
        "rules": [
            {"name": "encrypted", "filter": "encrypted = yes"},
            {"name": "seen this fortnight", "filter": "checked_in > now - 14d or last_seen > now - 14d"},
        ],
    },
)


WATCHES: tuple[dict[str, Any], ...] = (
    {
        "name": "New devices",
        "report": "new-week",
        "rule": "FREQ=DAILY;BYHOUR=7;BYMINUTE=0",
        "condition": "new",
        "to": ["ines@skerrivane.example"],
        "quiet": "20-6",
    },
    {
        "name": "What ends",
        "report": "notices",
        "rule": "FREQ=DAILY;BYHOUR=7;BYMINUTE=15",
        "condition": "new",
        "to": ["piet@skerrivane.example"],
    },
    {
        "name": "A new advisory touches us",
        "report": "touches-us",
        "rule": "FREQ=HOURLY;BYMINUTE=35",
        "condition": "new",
        "to": ["ines@skerrivane.example"],
    },
    {
        "name": "Barred software",
        "report": "barred",
        "rule": "FREQ=WEEKLY;BYDAY=MO;BYHOUR=7;BYMINUTE=30",
        "condition": "any",
        "to": ["ines@skerrivane.example", "piet@skerrivane.example"],
        "attach": "xlsx",
    },
)


SCRIPTS: tuple[dict[str, Any], ...] = (
    {
        "name": "Take out the release job's account",
        "platform": "Linux",
        "text": "userdel svc-deploy",
        "meaning": "The account was made for a release and is not needed after it.",
    },
    {
        "name": "Take out the guest account",
        "platform": "Windows",
        "text": "Remove-LocalUser -Name Guest",
        "meaning": "Nobody signs in as a guest.",
    },
)
"""The first is reviewed, the second waits for it."""


OWN_FIELDS: tuple[dict[str, Any], ...] = (
    {"name": "Berth side", "type": "choice", "choices": ["port", "starboard"], "group": "Aboard"},
    {"name": "Last inspected", "type": "date", "group": "Upkeep"},
    {"name": "Cooling", "type": "number", "unit": "kW", "group": "Upkeep", "kinds": ["air conditioner"]},
)
OWN_KINDS: tuple[dict[str, Any], ...] = (
    {"name": "building gear", "names": {"nb": "bygningsutstyr"}},
    {"name": "air conditioner", "parent": "building gear", "names": {"nb": "klimaanlegg", "de": "Klimaanlage"}},
)
ENTERED: tuple[dict[str, Any], ...] = (
    {
        "kind": "air conditioner",
        "name": "salt-air-1",
        "serial": "KB-2207",
        "manufacturer": "Kittle Bay Cooling",
        "model": "Drift 12",
        "place": "Saltholm",
        "own:Cooling": "12",
        "own:Last inspected": "2026-06-15",
    },
)
FILL_RULES: tuple[dict[str, Any], ...] = (
    {
        "name": "Department of tills and kiosks",
        "filter": "",
        "fills": "department",
        "reads": "name",
        "pattern": "-(till|kiosk)-",
        "table": {"till": "Galley and Retail", "kiosk": "Ticketing"},
    },
    {
        "name": "Place from the switch port",
        "filter": "kind != switch",
        "fills": "place",
        "reads": "switch.place",
    },
    {
        "name": "Department from the holder",
        "filter": "person != none and department = none",
        "fills": "department",
        "reads": "person.department",
        "when": "change",
    },
    {
        "name": "Holder from who is signed in",
        "filter": "kind in (workstation, laptop)",
        "fills": "person",
        "reads": "usual.person",
    },
)
"""None of them in force: whoever opens the demo rehearses them first."""


TREE: tuple[tuple[str, str, str], ...] = (
    ("place", "Saltholm", "Ashore"),
    ("place", "Terminals", "Ashore"),
    *(("place", name, "Terminals") for name in ("Port Averne", "Grey Ness", "Kittiwake Bay", "Holm of Rusk")),
    *(("place", name, "Vessels") for name in ("MV Tansy", "MV Marram", "MV Sea Campion", "MV Thrift")),
)


def _of_ones_own(user: Any) -> None:
    from tarn.apps.estate.branches.inputs import PlacedIn
    from tarn.apps.estate.branches.place import place
    from tarn.apps.estate.custom.change import make_field, make_kind
    from tarn.apps.estate.custom.inputs import OwnFieldIn, OwnKindIn
    from tarn.apps.estate.register.enter import enter
    from tarn.apps.filling.actions.rules import make_rule
    from tarn.apps.filling.inputs import FillRuleIn

    for field, name, under in TREE:
        place(user, PlacedIn.model_validate({"field": field, "name": name, "under": under}))
    for kind in OWN_KINDS:
        make_kind(user, OwnKindIn.model_validate(kind))
    for described in OWN_FIELDS:
        make_field(user, OwnFieldIn.model_validate(described))
    for asset in ENTERED:
        enter(user, dict(asset))
    for rule in FILL_RULES:
        make_rule(user, FillRuleIn.model_validate(rule))


def govern() -> None:
    """Make all that people decide of an estate (rulings, baselines, watches …), in the administrator's name."""
    from django.contrib.auth import get_user_model

    from tarn.apps.estate.software.correct import correct
    from tarn.apps.estate.software.inputs import CorrectionIn
    from tarn.apps.reports.actions.watches import make_watch
    from tarn.apps.reports.inputs import WatchIn
    from tarn.apps.software.actions.baselines import make_baseline
    from tarn.apps.software.actions.rulings import rule
    from tarn.apps.software.inputs import BaselineIn, SoftwareRulingIn
    from tarn.apps.tasks.actions.scripts import review_script, write_script
    from tarn.apps.tasks.inputs import ScriptIn
    from tarn.site.demo.owned import own
    from tarn.site.demo.racked import rack
    from tarn.site.demo.serving import serve
    from tarn.site.demo.valued import value

    ines = get_user_model().objects.get(username="ines")
    _of_ones_own(ines)
    written = [write_script(ines, ScriptIn.model_validate(script)) for script in SCRIPTS]
    review_script(get_user_model().objects.get(username="sten"), written[0].pk, 1)
    soon = int(time.time()) + 25 * DAY
    correct(
        ines,
        CorrectionIn.model_validate(
            {
                "field": "product",
                "match": "tillmaster",
                "product": "Galleykeeper Till",
                "publisher": "Galleykeeper",
                "note": "Its maker was bought and gave it another name.",
            }
        ),
    )
    for names, data in (
        (["Quill Office", "Berthwright Planner", "Corvid Protect", "Crewroster"], {"verdict": "permitted"}),
        (["Driftshare"], {"verdict": "barred", "why": "It copies files to machines outside the company."}),
        (["Pellucid Reader"], {"verdict": "tolerated", "until": soon, "why": "Until the new reader is chosen."}),
        (
            ["Pellucid Reader"],
            {"verdict": "barred", "high": "11.0.1", "why": "Its first release opens what it should not."},
        ),
        (["Tern Notes"], {"verdict": "permitted", "department": "Ticketing", "why": "Asked for by the ticket office."}),
    ):
        rule(ines, SoftwareRulingIn.model_validate({"names": names, **data}))
    for baseline in BASELINES:
        make_baseline(ines, BaselineIn.model_validate(baseline))
    for watch in WATCHES:
        make_watch(ines, WatchIn.model_validate(watch))
    today = datetime.fromtimestamp(time.time(), UTC).date()
    own(ines, today)
    value(ines, today)
    serve(ines)
    rack(ines)
