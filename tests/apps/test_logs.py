"""What leaves by the log: one line each, in UTC, refusals and what is done; and passwords anybody would try here."""

import io
import logging
import os
import subprocess
import sys

import pytest
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import transaction

from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import make_organisation
from tarn.apps.people.passwords import OurOwnWords
from tarn.site.logs import Line


def test_what_was_said_stays_on_one_line_and_the_time_is_utc():
    out = io.StringIO()
    handler = logging.StreamHandler(out)
    handler.setFormatter(Line("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    made = logging.LogRecord("tarn.x", logging.WARNING, "", 0, "refused %s", ("a\r\nINFO forged: \x1b[2J µ",), None)
    made.created, made.msecs = 1_700_000_000.25, 250.0
    handler.emit(made)
    assert out.getvalue() == "2023-11-14T22:13:20.250Z WARNING tarn.x: refused a\\x0d\\x0aINFO forged: \\x1b[2J µ\n"


@pytest.mark.django_db(transaction=True)
def test_what_is_done_is_said_once_it_is_kept_and_not_before(people, caplog):
    caplog.set_level(logging.INFO, "tarn.audit")
    with transaction.atomic():
        record(people["operator"], "adopted", "12 devices")
        assert not caplog.messages
    assert caplog.messages[-1] == "operator adopted “12 devices”"
    with transaction.atomic():
        record(people["operator"], "retired", "3 devices")
        transaction.set_rollback(True)
    assert "retired" not in caplog.text


def test_a_refused_door_is_said_with_who_and_where(as_role, caplog):
    assert as_role("viewer").post("/api/organisations", {}, content_type="application/json").status_code == 403
    assert "refused POST /api/organisations to viewer at 127.0.0.1" in caplog.text


@pytest.mark.parametrize(
    ("password", "refused"),
    [("tarn-tarn-2026!", True), ("Skerrivane#2026", True), ("low-water-1234", False), ("a skerrivane of ebb", False)],
)
def test_a_password_is_more_than_a_word_of_the_house(db, password, refused):
    make_organisation(None, "Skerrivane Ferries")
    if refused:
        with pytest.raises(ValidationError, match="little more than"):
            validate_password(password)
        return
    OurOwnWords().validate(password)


def test_with_https_cookies_are_of_this_host_alone(tmp_path):
    script = (
        "import django; django.setup(); from django.conf import settings as s; "
        "print(s.SESSION_COOKIE_NAME, s.CSRF_COOKIE_NAME, s.SESSION_COOKIE_SECURE, s.SECURE_HSTS_SECONDS)"
    )
    given = {
        **os.environ,
        "TARN_HTTPS": "1",
        "TARN_HOME": str(tmp_path),
        "DJANGO_SETTINGS_MODULE": "tarn.site.settings",
    }
    said = subprocess.run([sys.executable, "-c", script], env=given, capture_output=True, text=True, check=True).stdout
    assert said.split() == ["__Host-session", "__Host-csrf", "True", "31536000"]
