"""In whose language answers and letters are: what somebody chose, else what their browser asks for."""

from typing import Any

import pytest
from django.contrib.auth import get_user_model
from django.core import mail

from tarn.apps.people.speaking import choose_language, language_at
from tarn.apps.reports.models import Letter, Watch
from tarn.apps.reports.sending import send_due

pytestmark = pytest.mark.django_db


def test_a_refusal_is_told_as_it_is_read(as_role: Any) -> None:
    manager = as_role("manager")
    body = {"text": "kindd = server"}
    for tag, said in (("de-DE,de;q=0.9", "kein Feld „kindd“"), ("en", "no field “kindd”"), ("fr", "no field “kindd”")):
        refused = manager.post("/api/filter", body, "application/json", headers={"Accept-Language": tag})
        assert refused.status_code == 422
        assert said in refused.json()["detail"]


def test_fields_are_named_in_the_readers_language(as_role: Any) -> None:
    manager = as_role("manager")
    fields = manager.get("/api/fields", headers={"Accept-Language": "de"}).json()
    assert "Seriennummer" in str(fields)
    assert "Seriennummer" not in str(manager.get("/api/fields").json())


def test_a_language_there_is_none_of_is_refused_by_name(as_role: Any) -> None:
    manager = as_role("manager")
    refused = manager.put("/api/me/language", {"language": "tlh"}, "application/json")
    assert refused.status_code == 422
    assert "“tlh”" in refused.json()["detail"]
    told = manager.put("/api/me/language", {"language": "de"}, "application/json")
    assert told.json()["language"] == manager.get("/api/me").json()["language"] == "de"


def test_a_letter_is_in_the_language_of_whom_it_goes_to(db: None) -> None:
    anna = get_user_model().objects.create_user("anna", "anna@skerrivane.example")
    choose_language(anna, "de")
    watch = Watch.objects.create(name="Old", report="silent", to=[], rule="FREQ=DAILY", condition="rows", owner=anna)
    for to in ("anna@skerrivane.example", "ben@skerrivane.example"):
        html = "<p>Nothing to do.</p><td>salt-lt-04</td>"
        Letter.objects.create(
            watch=watch,
            to=[to],
            made_at=1,
            due_at=1,
            subject="Nothing to do.",
            text="Nothing to do.\nsalt-lt-04",
            html=html,
        )
    assert send_due(2) == 2
    german, english = sorted(mail.outbox, key=lambda m: m.to)
    assert (german.subject, german.body) == ("Nichts zu tun.", "Nichts zu tun.\nsalt-lt-04")
    assert "<p>Nichts zu tun.</p><td>salt-lt-04</td>" in german.alternatives[0][0]
    assert english.body == "Nothing to do.\nsalt-lt-04"
    assert language_at("nobody@skerrivane.example") == "en"
