"""The reporter, run for real on this machine: it finds this machine in the register with its real packages."""

import json
import os
import shutil
import subprocess
import sys

import pytest

from tarn.apps.discovery.models import Enrolment, Reporter
from tarn.apps.estate.models import Asset, Identifier, InstallSpan
from tarn.collect.reporter.reports import powershell
from tarn.lab import powershell as lab_powershell
from tarn.lab.timeline import World

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def enrolled(as_role, live_server, tmp_path, settings):
    settings.ALLOWED_HOSTS = ["*"]
    made = (
        as_role("manager")
        .post("/api/reporters/enrolments", {"name": "by hand"}, content_type="application/json")
        .json()
    )
    script = tmp_path / "tarn-reporter.py"
    script.write_text(made["posix"].replace("http://testserver", live_server.url))
    environment = {**os.environ, "TARN_REPORTER_STATE": str(tmp_path / "state.json")}

    def run(**more):
        return subprocess.run(
            [sys.executable, script], env={**environment, **more}, capture_output=True, text=True, timeout=120
        )

    run.script, run.state, run.id = script, tmp_path / "state.json", made["id"]
    return run


@pytest.mark.skipif(not shutil.which("dpkg-query"), reason="needs dpkg")
def test_this_machine_is_found_with_its_real_packages(enrolled):
    done = enrolled()
    assert done.returncode == 0, done.stderr
    asset = Asset.objects.get()
    assert asset.number in done.stdout
    listed = subprocess.run(
        ["dpkg-query", "-W", "-f", "${Package}\t${Version}\t${db:Status-Status}\n"],
        capture_output=True,
        text=True,
        check=True,
    )
    real = {tuple(line.split("\t")[:2]) for line in listed.stdout.splitlines() if line.endswith("\tinstalled")}
    held = set(
        InstallSpan.objects.filter(asset=asset.pk, valid_to=None).values_list("listing__name", "release__version")
    )
    assert held == real
    assert Reporter.objects.get().asset_id == asset.pk


def test_only_what_changed_is_sent_and_the_rest_stands(enrolled):
    enrolled()
    before = InstallSpan.objects.filter(valid_to=None).count()
    assert enrolled().returncode == 0
    assert Asset.objects.count() == 1
    assert InstallSpan.objects.filter(valid_to=None).count() == before
    assert InstallSpan.objects.exclude(valid_to=None).count() == 0
    enrolled.state.unlink()  # installed anew: the same where the machine has more than its name to be known by
    enrolled()
    known = Identifier.objects.filter(key__regex="^(serial|bare|uuid|mac):").exists()
    assert Asset.objects.count() == (1 if known else 2)


def test_where_tarn_forgot_everything_is_sent_once_more(enrolled):
    enrolled()
    Reporter.objects.all().delete()
    assert enrolled().returncode == 0
    assert Reporter.objects.count() == 1


def test_a_report_is_kept_while_tarn_is_away_and_refused_once_withdrawn(enrolled, as_role, monkeypatch):
    text = enrolled.script.read_text()
    enrolled.script.write_text(
        text.replace('URL = "http://', 'URL = "http://127.0.0.1:9/').replace("TRIES = 3", "TRIES = 1")
    )
    away = enrolled()
    assert away.returncode == 75
    assert "kept" in json.loads(enrolled.state.read_text())
    enrolled.script.write_text(text)
    assert enrolled().returncode == 0
    assert as_role("operator").delete(f"/api/reporters/enrolments/{enrolled.id}").status_code == 403
    assert as_role("manager").delete(f"/api/reporters/enrolments/{enrolled.id}").status_code == 204
    refused = enrolled()
    assert refused.returncode == 1
    assert "withdrawn" in refused.stderr
    assert Enrolment.objects.get().withdrawn_at is not None


@pytest.mark.parametrize(
    ("body", "says"),
    [
        (b"{", "JSON"),
        (b'{"schema":"tarn.report/1","version":9,"at":1,"outputs":{}}', "up to version 2"),
        (b'{"schema":"x","version":1,"at":1,"outputs":{}}', "schema"),
    ],
)
def test_a_report_that_is_none_is_refused_in_words(client, people, body, says):
    from tarn.apps.discovery.reporters.change import enrol

    _, scripts = enrol(people["manager"], "x", "http://t")
    token = scripts["posix"].split('TOKEN = "')[1].split('"')[0]
    answer = client.post(
        "/api/reports", body, content_type="application/json", headers={"Authorization": f"Bearer {token}"}
    )
    assert answer.status_code == 422
    assert says in answer.json()["detail"]
    assert client.post("/api/reports", body, content_type="application/json").status_code == 401
    assert (
        client.post(
            "/api/reports",
            b"x",
            content_type="application/json",
            headers={"Authorization": f"Bearer {token}", "Content-Encoding": "gzip"},
        ).status_code
        == 422
    )


def test_what_the_windows_script_asks_is_read_as_remote_management_is(people):
    import datetime as dt

    from tarn.apps.discovery.reporters.change import enrol, take_report
    from tarn.collect.reporter.reports import Report

    asked = powershell("http://t", "rep_x").split("$Kept")[0]
    device = next(d for d in World().on(400) if d.name == "salt-pc-01")
    out, err, _ = lab_powershell.run(
        device, "\n".join(asked.splitlines()[5:]) + "\n$o|ConvertTo-Json", dt.datetime.now(dt.UTC)
    )
    assert err == ""
    _, scripts = enrol(people["manager"], "x", "http://t")
    token = scripts["powershell"].split("$Token = '")[1].split("'")[0]
    report = Report.model_validate(
        {"schema": "tarn.report/1", "version": 1, "at": 1, "outputs": {"windows": {"out": out}}}
    )
    assert take_report(token, report)["asset"] == "A-00001"
    assert InstallSpan.objects.filter(listing__product__key="quilloffice").exists()


def reported(token, name, host="", **more):
    """Take in a report of a computer that tells its name and nothing else."""
    from tarn.apps.discovery.reporters.change import take_report
    from tarn.collect.reporter.reports import Report

    out = f"{name}\n--tarn-- fqdn 0\n{name}\n--tarn-- host 0\n"
    body = {"schema": "tarn.report/1", "version": 2, "at": 1, "host": host, "outputs": {"identity": {"out": out}}}
    return take_report(token, Report.model_validate(body))


def test_a_reporters_own_number_is_its_identity_and_its_name_is_not(people):
    """Renamed it is the same; another of the same name is another; a list that has names only means the one there is."""
    from tarn.apps.discovery.reporters.change import enrol
    from tarn.apps.estate.door.entrance import take_in
    from tests.documents import sighting

    _, scripts = enrol(people["manager"], "x", "http://t")
    token = scripts["posix"].split('TOKEN = "')[1].split('"')[0]
    first = reported(token, "quay-1.s.example")
    assert reported(token, "quay-2.s.example", host=first["host"])["asset"] == first["asset"]
    fresh = reported(token, "quay-2.s.example")
    assert fresh["asset"] != first["asset"]
    assert Asset.objects.count() == 2
    reported(token, "lock-9.s.example")
    (named,) = take_in([sighting("lock-9", 0, source="directory", identity={"domain": "s.example"})])
    assert (named.verdict, Asset.objects.count()) == ("same", 3)
