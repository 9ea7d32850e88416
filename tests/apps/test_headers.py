"""What stands on every answer, and networks and refused rows as they are sent out."""

import pytest
from django.test import Client

from tarn.apps.discovery.imports import change as imports
from tarn.apps.discovery.models import FileImport, Network
from tarn.apps.reports.calling import addresses_of


@pytest.mark.parametrize(
    "path", ["/", "/sign-in", "/api/me", "/api/nonsense", "/api/assets", "/api/account/browser/v1/config"]
)
def test_every_answer_keeps_the_page_to_what_tarn_ships(db, path):
    answer = Client().get(path)
    assert "default-src 'self'" in answer["Content-Security-Policy"]
    for rule in ("frame-ancestors 'none'", "object-src 'none'", "base-uri 'none'"):
        assert rule in answer["Content-Security-Policy"]
    assert (answer["X-Frame-Options"], answer["X-Content-Type-Options"]) == ("DENY", "nosniff")
    assert (answer.get("Cache-Control", "") == "no-store") == path.startswith("/api/")


def test_no_other_origin_is_let_in_and_what_no_page_needs_is_refused(as_role, db):
    viewer = as_role("viewer")
    told = viewer.get("/api/me", headers={"Origin": "https://elsewhere.example"})
    assert not [h for h in told.headers if h.lower().startswith("access-control")]
    assert viewer.trace("/api/assets").status_code == 405
    assert Client().get("/api/openapi.json").status_code == 401
    assert viewer.get("/api/openapi.json").json()["openapi"].startswith("3.")
    assert viewer.get("/.git/config").headers["Content-Type"].startswith("text/html"), "the page, never a file of ours"


def test_a_network_is_one_range_and_one_of_old_stops_nothing(as_role):
    manager = as_role("manager")
    for text in ("10.60.4.0/24, 10.60.5.0/24", "10.60.4.0/24 10.60.5.0/24", "", "::/0,::/0", "zz"):
        answer = manager.post("/api/networks", {"range": text, "name": "n"}, content_type="application/json")
        assert (answer.status_code, answer.json()["field"]) == (422, "range"), text
    Network.objects.create(range="10.60.4.0/24, 10.60.5.0/24", name="of old")
    Network.objects.bulk_create(Network(range=f"fd0{n}::/16", name=str(n), never_probe=True) for n in range(2, 7))
    assert len(manager.get("/api/networks").json()) == 6
    assert manager.get("/api/sweeps").status_code == 200
    checked = manager.post(
        "/api/sweeps/check", {"ranges": ["10.60.5.1"], "exclusions": []}, content_type="application/json"
    )
    assert checked.status_code == 200, checked.content


def test_refused_rows_run_no_formula(as_role, people):
    held = imports.upload(people["manager"], "list.csv", iter([b"name,serial\n=1+1,SN-1\n"]), None)
    row = {"row": 2, "why": "-because", "cells": {"name": "=1+1", "serial": "SN-1"}}
    FileImport.objects.filter(pk=held.pk).update(refused=[row])
    said = as_role("manager").get(f"/api/imports/{held.pk}/refused.csv").content.decode()
    assert "'=1+1" in said


def test_a_name_is_looked_up_as_the_system_does():
    assert "127.0.0.1" in addresses_of("localhost", 80)
    assert addresses_of("no-such-host.invalid", 80) == []
