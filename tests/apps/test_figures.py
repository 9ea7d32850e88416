"""A figure opens exactly its rows: every number of devices that stands beside a filter, in every room, on two days."""

from collections.abc import Iterator
from typing import Any
from urllib.parse import quote

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.models import KeptSet
from tarn.apps.exposure.finding import deriving
from tarn.apps.software.api_administrators_and_protection import COMPUTERS
from tarn.apps.software.models import Baseline
from tests import advisories as made
from tests.apps.test_exposure import feed
from tests.apps.test_nasty import SCHEMA
from tests.documents import packages, sighting

OTHERWISE = {
    "/api/valuation/rules": "by how many a rule writes down; test_valuation.py opens them",
}
SCOPED = ("/api/software/protection", "/api/software/administrators")
FIGURES = (
    ("filled", "stands"),
    ("lack", "lacking"),
    ("unread", "never"),
    *((n, "filter") for n in ("count", "devices", "number", "holds")),
)


def figures(told: Any, day: str, path: str = "") -> Iterator[tuple[str, int, str, str]]:
    """Yield every number that stands beside a filter, with its place in the answer and the day it is told of."""
    if isinstance(told, dict):
        day = told["day"] if "stood" in told and told["day"] else day
        for number, opens in FIGURES:
            if type(told.get(number)) is int and isinstance(told.get(opens), str) and (opens != "never" or told[opens]):
                yield f"{path}.{number}", told[number], told[opens], day
        for key, inner in told.items():
            yield from figures(inner, day, f"{path}.{key}")
    elif isinstance(told, list):
        for n, inner in enumerate(told):
            yield from figures(inner, day, f"{path}[{n}]")


def test_every_figure_opens_exactly_its_rows(estate: list[int], as_role: Any) -> None:
    on = {"name": "Corvid Protect", "on": True, "up_to_date": True}
    old = {"name": "Gull Shield", "on": True, "up_to_date": False}
    off = {"name": "Gull Shield", "on": False, "up_to_date": True}
    root = [{"name": "root", "administrator": True}]
    documents = [
        sighting("salt-tix-01", 20, identity={"serial": "HB-1001"}, protections=[on, old], accounts=root),
        sighting("salt-tix-01", 21, source="other", identity={"serial": "HB-1001"}, protections=[on]),
        sighting("avrn-gate-01", 20, identity={"serial": "HB-1002"}, protections=[old, off], accounts=root),
        sighting("salt-lt-01", 20, identity={"serial": "HB-2001"}, protections=[], packages=packages(quill="")),
    ]
    list(take_in(documents))
    KeptSet.objects.create(name="big ones", filter="memory > 1GB", made_at=0)
    deriving.refresh_things()
    feed(made.cve("CVE-2026-99000001"), made.osv(package={"ecosystem": "npm", "name": "none"}))
    rules = [
        {"name": "protected", "filter": "protections[on = yes]"},
        {"name": "big", "filter": "memory >= 16GB"},
        {"name": "neither", "filter": "no protections[on = no] and software[name ~ quill]"},
    ]
    Baseline.objects.create(name="Own", filter="", rules=rules, made_at=0)
    client, seen = as_role("administrator"), 0
    advisory = "/api/exposure/advisories/CVE-2026-99000001"
    for path, operations in [*SCHEMA["paths"].items(), (advisory, SCHEMA["paths"]["/api/exposure/advisories/{name}"])]:
        if "get" not in operations or "{" in path or path in OTHERWISE:
            continue
        dated = any(q["name"] == "as_of" for q in operations["get"].get("parameters", []))
        for day in ("", "2026-09-23") if dated else ("",):
            answer = client.get(path, {"as_of": day} if day else {})
            if answer.status_code != 200 or answer.get("Content-Type", "").partition(";")[0] != "application/json":
                continue
            for place, number, text, of in figures(answer.json(), day):
                scoped = f"({COMPUTERS}) and ({text})" if path in SCOPED else text
                opened = client.get(f"/api/assets?limit=0&filter={quote(scoped)}&as_of={of}").json()["total"]
                assert opened == number, f"{path} {of} {place}: {number}, and “{scoped}” opens {opened}"
                seen += 1
    assert seen > 40
