"""Every operation, as every role, as a person limited to one organisation, and by a token: who is let in, and who not.

The table of doors is checked against the API's own description, so that an operation that is new fails here until it has
a door; and each door against what really happens.
"""

import json
import re

import pytest

from tarn.apps.people.actions.accounts import make_person
from tarn.apps.people.actions.organisations import make_organisation, set_rights
from tarn.apps.people.actions.tokens import make_token
from tarn.apps.people.roles import MAY, ROLES
from tarn.site.api import api
from tarn.site.doors import DOORS, NEEDED, OPENED, OWN, WHOLE

OPERATIONS = sorted(
    f"{method.upper()} {path.removeprefix('/api')}"
    for path, operations in api.get_openapi_schema()["paths"].items()
    for method in operations
)
COMPANY_WIDE = ("kinds", "own-fields", "branches", "networks", "phrases", "names/corrections", "software/rulings",
                "scripts", "lifecycle/support-ends", "lifecycle/steps", "valuation/energy", "valuation/rules",
                "money/ledger", "money/rates", "people", "organisations", "sql", "sightings")  # fmt: skip
"""What stands for the whole company, written down here by hand, apart from the table."""


def call(client, door):
    method, path = door.split()
    url = "/api" + re.sub(r"\{[^}]*\}", "987654321", path)
    return client.generic(method, url, json.dumps({}) if method != "GET" else "", content_type="application/json")


def test_every_operation_has_exactly_one_door_and_every_door_an_operation():
    assert set(OPERATIONS) == DOORS
    assert len(NEEDED) + len(OPENED) + len(OWN) == len(DOORS)
    for door in OPERATIONS:
        method, path = door.split()
        changes = method != "GET" and not path.startswith(("/names/corrections/rehearse", "/lifecycle/steps/"))
        if changes and re.match(rf"/({'|'.join(COMPANY_WIDE)})(/\{{|/up|/review|$)", path):
            assert door in WHOLE, door


@pytest.mark.parametrize("role", ["", *ROLES])
def test_who_may_call_what(role, as_role, client, people):
    caller = as_role(role) if role else client
    wrong = {}
    for door in OPERATIONS:
        if door in OPENED:
            continue
        answer = call(caller, door)
        assert answer.status_code != 405, f"{door}: another operation answers at its address"
        if not role:
            expected = answer.status_code == 401
        elif door in OWN or ROLES.index(role) >= ROLES.index(MAY[NEEDED[door]]):
            expected = answer.status_code not in (401, 403)
        else:
            expected = answer.status_code == 403
        if not expected:
            wrong[door] = (answer.status_code, getattr(answer, "content", b"")[:120])
    assert wrong == {}


def test_a_manager_of_one_organisation_changes_nothing_of_the_whole_company(client, people):
    ours = make_organisation(None, "Ferries")
    tove = make_person(None, "tove", "low-water-1234", "manager")
    set_rights(None, tove.pk, "manager", [ours.pk])
    client.force_login(tove)
    for door in OPERATIONS:
        if door in OPENED or door in OWN:
            continue
        let_in = ROLES.index("manager") >= ROLES.index(MAY[NEEDED[door]]) and door not in WHOLE
        assert (call(client, door).status_code != 403) == let_in, door


def test_a_token_reaches_what_its_person_may_but_makes_no_token(people, client):
    _, token = make_token(people["administrator"], "night job")
    with_token = {"HTTP_AUTHORIZATION": f"Bearer {token}"}
    assert client.get("/api/audit", **with_token).status_code == 200
    for door in (*OWN, "GET /people", "POST /people", "DELETE /people/{token_id}"):
        method, path = door.split()
        answer = client.generic(
            method, "/api" + re.sub(r"\{[^}]*\}", "1", path), "{}", content_type="application/json", **with_token
        )
        assert answer.status_code == 403, door


def test_no_two_shapes_of_the_description_share_a_name():
    """Where they did, the later would stand for both in the description, and in what is made of it."""
    import importlib
    import pkgutil

    import tarn.apps

    found = {}
    for info in pkgutil.walk_packages(tarn.apps.__path__, "tarn.apps."):
        if info.name.rsplit(".", 1)[1] not in ("results", "inputs", "api"):
            continue
        for name, shape in vars(importlib.import_module(info.name)).items():
            if isinstance(shape, type) and shape.__module__ == info.name and hasattr(shape, "__annotations__"):
                assert found.setdefault(name, info.name) == info.name, (
                    f"{name} is told by two: {found[name]}, {info.name}"
                )
    assert "AdvisoryFeed" in found
