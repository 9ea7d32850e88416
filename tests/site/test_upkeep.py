"""How Tarn is: health, figures for Prometheus, slow answers, disk, backups by the clock, logs, `tarn run`."""

import json
import logging
import os
import signal
import subprocess
import sys
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest
from django.contrib.auth import get_user_model
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.people.actions.tokens import make_token
from tarn.apps.upkeep import beat, wants
from tarn.apps.upkeep.models import Backup, DiskMark, SlowAnswer
from tarn.apps.upkeep.noting import KEPT, full_on, note_slow
from tarn.site import backups
from tarn.site.backups import back_up, due, kept_of, thin
from tarn.site.cli import app
from tarn.site.logs import Json, Line
from tarn.site.older import older
from tarn.site.run import Keeper, wait_before
from tests.apps.conftest import as_role, estate, people  # noqa: F401  fixtures

DAY = 86_400
NOW = datetime(2026, 11, 30, 12, tzinfo=UTC).timestamp()


@pytest.mark.django_db
def test_anybody_may_ask_whether_it_lives_and_nobody_learns_more(client: Any) -> None:
    assert client.get("/api/healthz").json() == {"status": "ok"}
    assert client.get("/api/readyz").json() == {"status": "ok"}
    assert client.get("/api/how").status_code == client.get("/api/metrics").status_code == 401


@pytest.mark.django_db
def test_it_is_not_ready_while_its_data_is_of_another_release(client: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("django.db.migrations.executor.MigrationExecutor.migration_plan", lambda *given: [1, 2])
    told = client.get("/api/readyz")
    assert (told.status_code, told.json()) == (503, {"status": "2 migrations are due"})
    monkeypatch.setattr("django.db.migrations.executor.MigrationExecutor.migration_plan", lambda *given: 1 / 0)
    assert client.get("/api/readyz").json() == {"status": "the data cannot be read"}


@pytest.mark.django_db
def test_how_it_is_and_its_figures_are_an_administrators(as_role: Any) -> None:  # noqa: F811
    assert as_role("manager").get("/api/how").status_code == 403
    told = as_role("administrator").get("/api/how").json()
    parts = {part["name"]: part for part in told["parts"]}
    assert {"Worker", "Queue", "Other systems", "Feeds", "Room", "Backups"} <= parts.keys()
    assert not parts["Backups"]["sound"]
    assert any(s["name"] == "installations" for s in told["remembered"])
    assert told["tables"][0]["bytes"] > 0


@pytest.mark.django_db
def test_prometheus_reads_what_is_measured(as_role: Any, client: Any) -> None:  # noqa: F811
    from tarn.site import measuring  # noqa: F401, I001  before what it sets up is imported
    from prometheus_client.parser import text_string_to_metric_families

    as_role("viewer").get("/api/kinds")
    secret = make_token(get_user_model().objects.get(username="administrator"), "scraper", "read", 30)[1]
    told = client.get("/api/metrics", headers={"Authorization": f"Bearer {secret}"})
    families = {family.name: family for family in text_string_to_metric_families(told.content.decode())}
    assert families["tarn_devices"].samples[0].value >= 0
    doors = {sample.labels.get("door") for sample in families["tarn_answer_seconds"].samples}
    assert "GET /kinds" in doors


@pytest.mark.django_db
def test_each_answer_has_a_number_and_a_slow_one_is_noted(as_role: Any, settings: Any) -> None:  # noqa: F811
    settings.TARN_SLOW = 0.0
    told = as_role("operator").get("/api/assets?filter=kind+%3D+server", headers={"X-Request-Id": "from-a-proxy.1"})
    assert told["X-Request-Id"] == "from-a-proxy.1"
    (noted,) = SlowAnswer.objects.all()
    assert (noted.door, noted.who) == ("GET /assets", "operator")
    assert "kind" in noted.asked
    odd = as_role("operator").get("/api/kinds", headers={"X-Request-Id": "two\nlines" * 30})
    assert len(odd["X-Request-Id"]) == 12, "what is no number is not taken over"


@pytest.mark.django_db
def test_of_slow_answers_the_latest_are_kept() -> None:
    for n in range(KEPT + 5):
        note_slow("GET /x", "q" * 900, float(n), "w" * 300)
    assert SlowAnswer.objects.count() == KEPT
    assert SlowAnswer.objects.order_by("-pk")[0].seconds == KEPT + 4


@given(pace=st.integers(1, 10**9), days=st.integers(3, 60), left=st.integers(1, 3000))
def test_the_day_a_disk_fills_is_where_its_line_meets_the_top(pace: int, days: int, left: int) -> None:
    whole = pace * (days - 1 + left)
    marks = [DiskMark(day=_day(n), used=pace * n, whole=whole, data=0) for n in range(days)]
    told = full_on(marks)
    assert told is not None
    assert abs((datetime.fromisoformat(told) - datetime.fromisoformat(_day(days - 1 + left))).days) <= 1


def _day(number: int) -> str:
    return datetime.fromtimestamp(NOW + number * DAY, UTC).date().isoformat()


def test_a_disk_that_empties_or_is_little_known_fills_on_no_day() -> None:
    marks = [DiskMark(day=_day(n), used=1000 - n, whole=5000, data=0) for n in range(9)]
    assert full_on(marks) is None
    assert full_on(marks[:2]) is None


@given(st.lists(st.floats(NOW - 900 * DAY, NOW), min_size=1, max_size=80, unique=True))
def test_of_backups_the_last_of_each_day_week_and_month_stay(times: list[float]) -> None:
    kept = kept_of(times)
    assert max(times) in kept
    assert len(kept) <= backups.DAYS + backups.WEEKS + backups.MONTHS
    assert kept_of(sorted(kept)) == kept, "thinning twice is thinning once"


@pytest.fixture
def folder(tmp_path: Path, settings: Any) -> Path:
    settings.TARN_BACKUPS = str(tmp_path / "backups")
    return tmp_path / "backups"


@pytest.mark.django_db
def test_a_backup_that_fails_is_told_and_the_next_mends_it(
    folder: Path,
    monkeypatch: pytest.MonkeyPatch,
    as_role: Any,  # noqa: F811
) -> None:
    assert due(NOW)
    monkeypatch.setattr(backups, "write_backup", lambda path: path.write_bytes(b"no archive"))
    made = back_up(folder, time.time())
    assert "cannot be read" in made.trouble
    assert made.checked_at is None
    assert wants._backups().things == ("backup",)
    told = as_role("administrator").get("/api/how").json()
    assert "cannot be read" in told["backups"][0]["trouble"]
    monkeypatch.setattr(backups, "check_backup", lambda path: None)
    good = back_up(folder, time.time() + 1)
    assert not good.trouble
    assert wants._backups().things == ()


@pytest.mark.django_db
def test_it_is_due_by_its_rule_and_only_what_it_wrote_is_thinned(folder: Path) -> None:
    folder.mkdir()
    Backup.objects.create(at=int(NOW), file="x", checked_at=int(NOW))
    assert not due(NOW + 3600)
    assert due(NOW + DAY)
    strange = [folder / "tarn-by-hand.tar.gz", folder / "letters.tar.gz"]
    for path in strange:
        path.touch()
    for n in range(40):
        stamp = datetime.fromtimestamp(NOW - n * DAY, UTC).strftime("%Y-%m-%dT%H%M%SZ")
        (folder / f"tarn-{stamp}.tar.gz").touch()
    gone = thin(folder)
    left = list(folder.glob("*"))
    assert len(gone) + len(left) == 42
    assert set(strange) <= set(left)


def test_a_line_of_the_log_names_its_request() -> None:
    import structlog

    record = logging.LogRecord("tarn.x", logging.WARNING, "", 1, "a\nb %s", ("c",), None)
    structlog.contextvars.bind_contextvars(request="r-1")
    try:
        assert Line("%(levelname)s %(name)s: %(message)s").format(record) == "WARNING tarn.x: a\\x0ab c request=r-1"
        told = json.loads(Json().format(record))
    finally:
        structlog.contextvars.clear_contextvars()
    assert told["message"] == "a\nb c"
    assert (told["level"], told["logger"], told["request"]) == ("warning", "tarn.x", "r-1")


def test_an_exception_is_one_line_of_json() -> None:
    try:
        raise ValueError("salt")
    except ValueError:
        record = logging.LogRecord("tarn.x", logging.ERROR, "", 1, "it failed", (), sys.exc_info())
    said = Json().format(record)
    assert "\n" not in said
    assert "ValueError: salt" in json.loads(said)["exception"]


def test_the_worker_is_there_while_it_beats(tmp_path: Path, settings: Any) -> None:
    settings.HOME = tmp_path
    assert beat.last_beat() is None
    assert not beat.worker_is_there()
    assert wants._worker().things == (), "on data no worker ever ran on nothing is amiss"
    (tmp_path / "worker.beat").touch()
    assert beat.worker_is_there()
    os.utime(tmp_path / "worker.beat", (time.time() - 300,) * 2)
    assert not beat.worker_is_there()
    assert wants._worker().things == ("worker",)


def test_a_part_that_keeps_ending_is_waited_for_ever_longer() -> None:
    waits = [wait_before(n) for n in range(1, 12)]
    assert waits[0] == 0.0
    assert waits == sorted(waits)
    assert waits[-1] == 60.0


def test_what_ends_by_itself_is_started_again_and_all_ends_together(tmp_path: Path) -> None:
    log = tmp_path / "log"
    program = f"""
import sys
sys.path.insert(0, {str(Path(__file__).parents[2])!r})
from tarn.site.run import Keeper
steady = "import time,os; open({str(log)!r},'a').write('steady %d\\\\n' % os.getpid()); time.sleep(60)"
brief = "open({str(log)!r},'a').write('brief\\\\n'); raise SystemExit(3)"
sys.exit(Keeper({{"steady": [sys.executable, "-c", steady], "brief": [sys.executable, "-c", brief]}}).run())
"""
    keeper = subprocess.Popen([sys.executable, "-c", program], stderr=subprocess.PIPE, text=True)
    until = time.monotonic() + 30
    while log.exists() is False or log.read_text().count("brief") < 3:
        assert time.monotonic() < until
        time.sleep(0.1)
    steady = int(log.read_text().split("steady ")[1].split()[0])
    keeper.send_signal(signal.SIGTERM)
    _, said = keeper.communicate(timeout=30)
    assert keeper.returncode == 0
    assert "the brief ended by itself (code 3); started again" in said
    assert log.read_text().count("steady") == 1
    with pytest.raises(ProcessLookupError):
        os.kill(steady, 0)


def test_systemd_is_told_when_it_stands(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    import socket

    from tarn.site.run import _tell_system

    with socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM) as listening:
        listening.bind(str(tmp_path / "notify"))
        monkeypatch.setenv("NOTIFY_SOCKET", str(tmp_path / "notify"))
        _tell_system("READY=1")
        assert listening.recv(64) == b"READY=1"
    monkeypatch.delenv("NOTIFY_SOCKET")
    _tell_system("READY=1")
    assert Keeper({}).parts == []


@pytest.mark.django_db
def test_what_only_tells_of_former_days_is_told_with_what_it_takes(estate: Any) -> None:  # noqa: F811
    db = raw_connection()
    (first, last) = db.execute("SELECT min(at), max(at) FROM estate_sighting").fetchone()
    assert older(first) == [], "nothing is as old as that"
    between = {one.table: one for one in older(last)}
    seen, closed = db.execute(
        "SELECT (SELECT count(*) FROM estate_sighting WHERE at < ?),"
        " (SELECT count(*) FROM estate_installspan WHERE valid_to <= ?)",
        (last, last),
    ).fetchone()
    assert (between["estate_sighting"].rows, between["estate_installspan"].rows) == (seen, closed)
    bodies = between["estate_sectionbody"]
    assert 0 < bodies.rows < bodies.of, "what is read still is needed"
    later = {one.table: one for one in older(last + 1)}
    (still,) = db.execute(
        "SELECT count(*) FROM estate_sectionbody WHERE hash IN (SELECT hash FROM estate_sectionstate)"
    ).fetchone()
    assert later["estate_sectionbody"].rows == bodies.of - still, "how things are stays, whatever the day"
    (whole,) = db.execute("SELECT sum(pgsize) FROM dbstat WHERE aggregate = TRUE").fetchone()
    assert sum(one.bytes for one in later.values()) < whole


@pytest.mark.django_db
def test_a_day_that_is_none_is_named() -> None:
    refused = CliRunner().invoke(app, ["older", "yesterday"])
    assert (refused.exit_code, "“yesterday” is no day" in refused.output) == (2, True)
