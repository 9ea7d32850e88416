"""The table of doors: each operation once, each with a need, and what it says is what the API has."""

import json
from collections import Counter
from pathlib import Path

import pytest

from tarn.apps.people.roles import MAY, ROLES
from tarn.site import doors

DESCRIBED = json.loads(Path("docs/openapi.json").read_text())["paths"]


def operations():
    return {
        f"{method.upper()} {path.removeprefix('/api')}" for path, methods in DESCRIBED.items() for method in methods
    }


def test_every_operation_of_the_api_is_a_door_and_no_door_leads_nowhere():
    assert operations() - doors.DOORS == set()
    assert {d for d in doors.DOORS - operations() if "account" not in d} == set()


def test_an_operation_stands_in_the_table_once():
    listed = [door for text in doors.NEEDS.values() for door in doors._listed(text)]
    assert [d for d, n in Counter(listed).items() if n > 1] == []
    assert doors.OPENED & doors.NEEDED.keys() == frozenset()


@pytest.mark.parametrize("set_name", ["WHOLE", "READS"])
def test_what_is_said_beside_is_said_of_doors_that_are(set_name):
    assert getattr(doors, set_name) - doors.DOORS == frozenset()


def test_a_call_that_changes_something_needs_more_than_to_look():
    changes = {d for d, need in doors.NEEDED.items() if need == "look" and not d.startswith("GET ")}
    said = {
        "POST /boards/answers",
        "POST /handbooks/fill",
        "POST /filter",
        "POST /filter/draft",
        "POST /filter/narrowed",
        "POST /filter/written",
        "POST /register/pasted",
        "POST /reports/listed/{format}",
        "POST /reports/preview",
        "POST /valuation/refresh",
        "POST /letters/{number}/acknowledge",
        "POST /lifecycle/feed",
    }
    assert changes == said


def test_what_operations_need_is_what_roles_may():
    assert set(doors.NEEDS) == set(MAY)
    assert set(MAY.values()) <= set(ROLES)
