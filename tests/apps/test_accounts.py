"""Accounts: signing in with and without a second factor, being held back, changed, ended, switched off and removed."""

import json
import time

import pytest
from allauth.mfa.totp.internal.auth import format_hotp_value, hotp_value
from django.contrib.auth import get_user_model
from django.test import Client, RequestFactory

from tarn.apps.people import throttle
from tarn.apps.people.actions import first
from tarn.apps.people.actions.accounts import make_person
from tarn.apps.people.actions.tokens import make_token
from tarn.apps.people.models import AuditEntry, FailedSignIn

AUTH = "/api/account/browser/v1"
PASSWORD, OTHER = "low-water-1234", "slack-tide-5678"


def send(client, path, body=None, method="post"):
    return getattr(client, method)(path, json.dumps(body or {}), content_type="application/json")


def signed_in(name, password=PASSWORD, client=None):
    client = client or Client()
    return client, send(client, f"{AUTH}/auth/login", {"username": name, "password": password})


def code_of(secret):
    return format_hotp_value(hotp_value(secret, int(time.time()) // 30))


def test_a_person_signs_in_and_out_and_it_is_noted(people):
    client, answer = signed_in("viewer")
    assert answer.status_code == 200
    assert client.get("/api/me").json()["username"] == "viewer"
    assert answer.json()["data"]["user"]["username"] == "viewer"
    assert send(client, f"{AUTH}/auth/session", method="delete").status_code == 401
    assert client.get("/api/me").json() is None
    assert AuditEntry.objects.filter(verb="signed in", thing="viewer", detail__address="127.0.0.1").exists()
    _, wrong = signed_in("viewer", "no")
    assert "name or the password is not right" in wrong.content.decode()
    assert AuditEntry.objects.filter(verb="failed to sign in", thing="viewer").exists()


def test_failures_are_held_back_by_account_longer_each_time_and_never_for_good(people):
    for n in range(6):
        signed_in("viewer", f"wrong {n}")
        FailedSignIn.objects.update(at=time.time() - 60)
    FailedSignIn.objects.update(at=time.time())
    assert throttle.must_wait("viewer", "10.0.0.1") == pytest.approx(4, abs=1), "from everywhere"
    assert throttle.must_wait("operator", "10.0.0.1") == 0, "and nobody else"
    _, held = signed_in("viewer")
    assert (held.status_code, "Too many failed" in held.content.decode()) == (400, True)
    assert [throttle.ACCOUNT.wait(n) for n in (3, 4, 5, 8, 60)] == [0, 1, 2, 16, 900]
    FailedSignIn.objects.update(at=time.time() - 20)
    assert signed_in("viewer")[1].status_code == 200
    assert throttle.must_wait("viewer", "10.0.0.1") == 0, "forgiven"
    assert FailedSignIn.objects.count() == 6, "but on record; who is held back has not failed anew"


def test_many_names_from_one_address_are_held_back_too(people):
    for n in range(21):
        throttle.failed(f"name {n}", "203.0.113.9")
    assert throttle.must_wait("viewer", "203.0.113.9") > 0
    assert throttle.must_wait("viewer", "203.0.113.10") == 0


@pytest.mark.parametrize(
    ("told", "proxies", "address"),
    [
        ("203.0.113.7", [], "127.0.0.1"),
        ("203.0.113.7", ["127.0.0.1"], "203.0.113.7"),
        ("198.51.100.1, 203.0.113.7", ["127.0.0.1"], "203.0.113.7"),
        ("203.0.113.7, 10.0.0.2", ["127.0.0.1", "10.0.0.2"], "203.0.113.7"),
        ("nonsense", ["127.0.0.1"], "127.0.0.1"),
    ],
)
def test_a_header_is_believed_from_our_proxies_alone(settings, told, proxies, address):
    settings.TARN_PROXIES = proxies
    assert throttle.address_of(RequestFactory().get("/", HTTP_X_FORWARDED_FOR=told)) == address


def test_a_second_factor_is_asked_for_and_recovery_codes_stand_in(people):
    client, _ = signed_in("manager")
    secret = client.get(f"{AUTH}/account/authenticators/totp").json()["meta"]["secret"]
    made = send(client, f"{AUTH}/account/authenticators/totp", {"code": code_of(secret)})
    assert made.status_code == 401, "whoever finds a screen unlocked adds no factor: the password is asked for again"
    assert send(client, f"{AUTH}/auth/reauthenticate", {"password": "no"}).status_code == 400
    assert send(client, f"{AUTH}/auth/reauthenticate", {"password": PASSWORD}).status_code == 200
    secret = client.get(f"{AUTH}/account/authenticators/totp").json()["meta"]["secret"]
    made = send(client, f"{AUTH}/account/authenticators/totp", {"code": code_of(secret)})
    assert made.status_code == 200, made.content
    codes = client.get(f"{AUTH}/account/authenticators/recovery-codes").json()["data"]["unused_codes"]
    client, half = signed_in("manager")
    assert half.status_code == 401
    assert next(f for f in half.json()["data"]["flows"] if f.get("is_pending"))["id"] == "mfa_authenticate"
    assert client.get("/api/me").json() is None
    assert client.get("/api/assets").status_code == 401, "half signed in is not signed in"
    assert send(client, f"{AUTH}/auth/2fa/authenticate", {"code": "000000"}).status_code == 400
    assert send(client, f"{AUTH}/auth/2fa/authenticate", {"code": codes[0]}).status_code == 200
    assert client.get("/api/me").json()["username"] == "manager"
    admin, _ = signed_in("administrator")
    assert admin.get(f"/api/people/{people['manager'].pk}").json()["factors"] == ["recovery_codes", "totp"]
    assert send(admin, f"/api/people/{people['manager'].pk}/factors", method="delete").status_code == 204
    assert client.get("/api/me").json() is None, "its sessions end with it"
    assert signed_in("manager")[1].status_code == 200


def test_ones_own_password_is_changed_and_other_sessions_end(people):
    here, _ = signed_in("viewer")
    there, _ = signed_in("viewer")
    path = f"{AUTH}/account/password/change"
    for new, says in (("short", "12 characters"), ("password1234", "too common"), (PASSWORD, "")):
        answer = send(here, path, {"current_password": "not it" if new == PASSWORD else PASSWORD, "new_password": new})
        assert answer.status_code == 400
        assert says in answer.content.decode()
    assert send(here, path, {"current_password": PASSWORD, "new_password": OTHER}).status_code == 200
    assert here.get("/api/me").json()["username"] == "viewer"
    assert there.get("/api/me").json() is None
    assert signed_in("viewer", OTHER)[1].status_code == 200


def test_a_forgotten_password_is_set_anew_by_a_letter(people, mailoutbox, settings):
    settings.EMAIL_BACKEND = "django.core.mail.backends.locmem.EmailBackend"
    people["viewer"].email = "vi@skerrivane.example"
    people["viewer"].save()
    client = Client()
    for address in ("vi@skerrivane.example", "nobody@skerrivane.example"):
        assert send(client, f"{AUTH}/auth/password/request", {"email": address}).status_code == 200, "alike for both"
    (letter,) = [m for m in mailoutbox if m.to == ["vi@skerrivane.example"]]
    key = letter.body.split("reset=")[1].split()[0]
    assert send(client, f"{AUTH}/auth/password/reset", {"key": key, "password": OTHER}).status_code in (200, 401)
    assert signed_in("viewer", OTHER)[1].status_code == 200
    assert send(client, f"{AUTH}/auth/password/reset", {"key": key, "password": PASSWORD}).status_code == 400, "once"


def test_sessions_are_listed_and_ended_by_their_person_and_by_an_administrator(people):
    here, _ = signed_in("viewer")
    there, _ = signed_in("viewer")
    listed = here.get(f"{AUTH}/auth/sessions").json()["data"]
    assert len(listed) == 2
    other = next(s["id"] for s in listed if not s["is_current"])
    assert send(here, f"{AUTH}/auth/sessions", {"sessions": [other]}, "delete").status_code == 200
    assert there.get("/api/me").json() is None
    admin, _ = signed_in("administrator")
    number = people["viewer"].pk
    (session,) = admin.get(f"/api/people/{number}").json()["held_sessions"]
    assert session["address"] == "127.0.0.1"
    assert send(admin, f"/api/people/{number}/sessions/{session['id']}", method="delete").status_code == 204
    assert here.get("/api/me").json() is None
    again, _ = signed_in("viewer")
    assert send(admin, f"/api/people/{number}/sign-out").status_code == 204
    assert again.get("/api/me").json() is None


def test_a_session_ends_when_it_is_idle_and_when_it_is_old(people, settings):
    for name, back in (("seen", settings.TARN_SESSION_IDLE), ("began", settings.TARN_SESSION_LIFE)):
        client, _ = signed_in("viewer")
        client.get("/api/me")
        session = client.session
        session[name] = int(time.time()) - back - 5
        session.save()
        assert client.get("/api/me").json() is None, name


def test_an_account_is_switched_off_given_a_password_and_removed(people):
    admin, _ = signed_in("administrator")
    viewer, _ = signed_in("viewer")
    number = people["viewer"].pk
    _, token = make_token(people["viewer"], "job")
    with_token = {"HTTP_AUTHORIZATION": f"Bearer {token}"}
    assert Client().get("/api/assets", **with_token).status_code == 200
    assert send(admin, f"/api/people/{number}/switch", {"on": False}).json()["active"] is False
    assert viewer.get("/api/me").json() is None
    assert Client().get("/api/assets", **with_token).status_code == 401
    assert signed_in("viewer")[1].status_code != 200
    assert send(admin, f"/api/people/{number}/switch", {"on": True}).json()["active"] is True
    assert send(admin, f"/api/people/{number}/password", {"password": "password1234"}).json()["field"] == "password"
    assert send(admin, f"/api/people/{number}/password", {"password": OTHER}).status_code == 204
    assert signed_in("viewer", OTHER)[1].status_code == 200
    assert send(admin, f"/api/people/{number}", method="delete").status_code == 204
    assert not get_user_model().objects.filter(pk=number).exists()
    assert AuditEntry.objects.filter(who="administrator", verb="removed the account", thing="viewer").exists()
    mine = people["administrator"].pk
    for path, method, body in ((f"/{mine}", "delete", {}), (f"/{mine}/switch", "post", {"on": False})):
        assert send(admin, f"/api/people{path}", body, method).status_code == 422, "not oneself"


def test_a_token_is_bounded_in_reach_and_time(people, estate):
    manager, _ = signed_in("manager")
    assert send(manager, "/api/tokens", {"name": "x", "scope": "moon"}).json()["field"] == "scope"
    assert send(manager, "/api/tokens", {"name": "x", "days": 900}).json()["field"] == "days"
    made = send(manager, "/api/tokens", {"name": "reader", "scope": "read", "days": 7}).json()
    with_token = {"HTTP_AUTHORIZATION": f"Bearer {made['token']}", "content_type": "application/json"}
    client = Client()
    assert client.get("/api/assets", **with_token).status_code == 200
    assert client.post("/api/filter", json.dumps({"text": "kind = server"}), **with_token).status_code == 200
    assert client.post("/api/decide", json.dumps({"assets": estate[:1], "place": "x"}), **with_token).status_code == 403
    assert client.post("/api/tokens", json.dumps({"name": "y"}), **with_token).status_code == 403
    from tarn.apps.people.models import ApiToken

    ApiToken.objects.update(expires_at=int(time.time()) - 1)
    assert client.get("/api/assets", **with_token).status_code == 401
    _, hands_in = make_token(people["administrator"], "hands in", "evidence")
    with_token["HTTP_AUTHORIZATION"] = f"Bearer {hands_in}"
    assert client.get("/api/assets", **with_token).status_code == 403
    assert client.post("/api/sightings", "{}", **with_token).status_code == 422


def test_the_first_account_needs_the_servers_own_code_and_is_made_once(db, settings, tmp_path):
    settings.HOME = tmp_path
    client = Client()
    assert client.get("/api/first").json()["needed"] is True
    told = {"code": "guess", "username": "ines", "password": OTHER}
    assert send(client, "/api/first", told).json()["field"] == "code"
    told["code"] = first.code()
    assert oct((tmp_path / first.FILE).stat().st_mode)[-3:] == "600"
    assert send(client, "/api/first", {**told, "password": "short"}).json()["field"] == "password"
    assert send(client, "/api/first", told).status_code == 204
    assert signed_in("ines", OTHER, client)[0].get("/api/me").json()["role"] == "administrator"
    assert client.get("/api/first").json()["needed"] is False
    assert send(client, "/api/first", {**told, "username": "eve"}).status_code == 403
    assert not (tmp_path / first.FILE).exists()


def test_a_role_may_ask_for_a_second_factor_and_nothing_else_goes_until_there_is_one(people, settings):
    settings.TARN_SECOND_FACTOR = "manager"
    viewer, _ = signed_in("viewer")
    assert viewer.get("/api/assets").status_code == 200
    client, _ = signed_in("manager")
    assert client.get("/api/me").json()["factor_wanted"] is True
    for answer in (client.get("/api/assets"), send(client, "/api/tokens", {"name": "x"})):
        assert (answer.status_code, "second factor" in answer.json()["detail"]) == (403, True)
    send(client, f"{AUTH}/auth/reauthenticate", {"password": PASSWORD})
    secret = client.get(f"{AUTH}/account/authenticators/totp").json()["meta"]["secret"]
    assert send(client, f"{AUTH}/account/authenticators/totp", {"code": code_of(secret)}).status_code == 200
    assert client.get("/api/me").json()["factor_wanted"] is False
    assert client.get("/api/assets").status_code == 200
    made = make_person(None, "elsewhere", None, "manager")
    client.force_login(made, backend="django.contrib.auth.backends.ModelBackend")
    assert client.get("/api/assets").status_code == 200, "who signs in elsewhere is asked there"
