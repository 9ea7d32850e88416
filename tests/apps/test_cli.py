"""The command line as a shell user meets it: output, messages, exit codes."""

import hashlib
import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

from tests.documents import packages, sighting


@pytest.fixture(scope="module")
def tarn(tmp_path_factory):
    """Run `tarn` with a home of its own."""
    home = tmp_path_factory.mktemp("home")

    def run(*args: str, home: Path = home, stdin: str | None = None) -> subprocess.CompletedProcess[str]:
        environment = {**os.environ, "TARN_HOME": str(home), "DJANGO_SETTINGS_MODULE": "tarn.site.settings"}
        command = [sys.executable, "-m", "tarn.site.cli_main", *args]
        return subprocess.run(
            command, env=environment, capture_output=True, text=True, input=stdin, check=False, timeout=120
        )

    documents = [
        sighting(
            "salt-tix-01", d, identity={"serial": "HB-1001"}, hardware={"memory": 16 << 30}, packages=packages(quill=v)
        )
        for d, v in ((0, "1"), (5, "2"))
    ]
    lines = [d.model_dump_json(by_alias=True, exclude_none=True) for d in documents]
    first = run("ingest", "-", stdin="\n".join(lines))
    assert first.returncode == 0, first.stderr
    assert "1 new, 1 same" in first.stdout
    run.lines, run.home = lines, home
    return run


def test_ask_in_every_format(tarn):
    everything = ["standing = intake", "--fields", "name,memory,software.count,last_seen"]
    found = json.loads(tarn("ask", *everything, "--format", "json").stdout)
    assert found == [
        {"name": "salt-tix-01", "memory": 16 << 30, "software.count": 1, "last_seen": found[0]["last_seen"]}
    ]
    assert found[0]["last_seen"].endswith("Z")
    assert tarn("ask", *everything, "--format", "csv").stdout.splitlines()[0] == "name,memory,software.count,last_seen"
    assert "16 GB" in tarn("ask", *everything).stdout
    assert tarn("ask", "standing = intake", "--format", "count").stdout == "1\n"
    assert json.loads(tarn("ask", "name = nobody", "--format", "json").stdout) == []


@pytest.mark.parametrize(
    ("args", "says"),
    [
        (["knid = server"], "Did you mean kind?"),
        (["", "--fields", "nam"], "no field “nam”"),
        (["", "--as-of", "soon"], "no date"),
        (["", "--format", "xml"], "no format"),
    ],
)
def test_ask_says_what_is_wrong_and_exits_with_2(tarn, args, says):
    answer = tarn("ask", *args)
    assert (answer.returncode, answer.stdout) == (2, "")
    assert says in answer.stderr


def test_ingest_refuses_what_is_no_sighting_by_line_and_takes_the_rest(tarn, tmp_path):
    file = tmp_path / "some.jsonl"
    good = sighting("avrn-gate-01", 1, identity={"serial": "HB-7"}).model_dump_json(by_alias=True, exclude_none=True)
    file.write_text(f'{{"schema": "tarn.sighting/1"}}\nnot json\n\n{good}\n{tarn.lines[0]}\n')
    answer = tarn("ingest", str(file))
    assert answer.returncode == 1
    assert "some.jsonl:1: id: Field required" in answer.stderr
    assert "some.jsonl:2:" in answer.stderr
    assert "1 new, 1 already held" in answer.stdout
    assert tarn("ingest", str(tmp_path / "none")).returncode == 2


def _make_service(home):
    """Put a service into a home's database as it would stand there: its rule finds what has not been adopted, too."""
    from sqlite3 import connect

    parts = [{"name": "Data", "needs": 1, "rules": [{"filter": "name = data and standing != none", "why": "it is it"}]}]
    with connect(home / "tarn.sqlite3") as db:
        db.execute(
            "INSERT INTO services_service (name, purpose, owner, deputies, hours, places, importance, notes, entries, "
            "parts, made_by, made_at, version) VALUES ('Ticketing', '', '', '[]', '', '[]', 'usual', '', '[]', ?, 'x', 1, 1)",
            [json.dumps(parts)],
        )


def test_what_stands_on_what_is_told_in_every_format(tarn, tmp_path):
    home = tmp_path / "standing"
    address = {"web": "10.60.4.21", "data": "10.60.4.22"}
    calls = [{"direction": "out", "process": "tixline", "peer": address["data"], "port": 5432}]
    called = [{"direction": "out", "process": "till", "peer": address["web"], "port": 443}]
    documents = [
        sighting("web", identity={"serial": "HB-1"}, placement={"address": address["web"]}, connections=calls),
        sighting("data", identity={"serial": "HB-2"}, placement={"address": address["data"]}),
        sighting("till", identity={"serial": "HB-3"}, placement={"address": "10.60.4.23"}, connections=called),
    ]
    lines = "\n".join(d.model_dump_json(by_alias=True, exclude_none=True) for d in documents)
    assert tarn("ingest", "-", stdin=lines, home=home).returncode == 0
    (edge,) = json.loads(tarn("depends", "web", "--on", "--format", "json", home=home).stdout)
    assert {n: edge[n] for n in ("side", "hop", "from", "to", "kind", "port", "process", "sure", "witnesses")} == {
        "side": "on", "hop": 1, "from": "web", "to": "data", "kind": "talks to", "port": "5432", "process": "tixline",
        "sure": 90, "witnesses": ["web"],
    }  # fmt: skip
    under = tarn("depends", address["data"], "--under", "--hops", "2", "--format", "csv", home=home).stdout
    assert [line.split(",")[:4] for line in under.splitlines()[1:]] == [
        ["under", "1", "web", "data"],
        ["under", "2", "till", "web"],
    ]
    fallen = json.loads(tarn("stops", "data", "--format", "json", home=home).stdout)
    assert [(f["name"], f["fate"]) for f in fallen] == [("web", "stops"), ("till", "weakened")]
    assert json.loads(tarn("links", "--place", "Saltholm", "--format", "json", home=home).stdout) == []
    _make_service(home)
    fallen = json.loads(tarn("stops", "data", "--format", "json", home=home).stdout)
    assert (fallen[0]["what"], fallen[0]["name"], fallen[0]["fate"]) == ("service", "Ticketing", "stops")
    (member,) = tarn("service", "ticketing", "--format", "csv", home=home).stdout.splitlines()[1:]
    assert member.split(",")[:2] == ["Data", "data"]
    assert json.loads(tarn("service", "Ticketing", "--format", "json", home=home).stdout)["members"]["devices"] == 1
    for args, says in (
        (["service", "Ticketin"], "no service is “Ticketin”. Did you mean Ticketing?"),
        (["depends", "nobody"], "no device is “nobody”"),
        (["stops", "web", "nobody"], "no device is “nobody”"),
        (["links", "--as-of", "soon"], "no date"),
        (["depends", "web", "--format", "xml"], "no format"),
    ):
        answer = tarn(*args, home=home)
        assert (answer.returncode, answer.stdout) == (2, "")
        assert says in answer.stderr


def test_rebuild_checks_and_rebuilds(tarn):
    assert tarn("rebuild", "--check").returncode == 0
    from sqlite3 import connect

    with connect(tarn.home / "tarn.sqlite3") as db:
        db.execute("UPDATE estate_installspan SET valid_to = NULL WHERE valid_to IS NOT NULL")
    broken = tarn("rebuild", "--check")
    assert broken.returncode == 1
    assert "estate_installspan" in broken.stdout
    assert tarn("rebuild").returncode == 0
    assert tarn("rebuild", "--check").returncode == 0


def test_backup_and_restore(tarn, tmp_path):
    file = tmp_path / "kept.tar.gz"
    (tarn.home / "papers").mkdir()
    (tarn.home / "papers" / hashlib.sha256(b"a manual").hexdigest()).write_text("a manual")
    (tarn.home / "papers" / "part-x").write_text("half a manual")
    assert tarn("backup", str(file)).returncode == 0
    assert tarn("backup", str(file)).returncode == 1
    other = tmp_path / "other"
    assert tarn("restore", str(file), home=other).returncode == 0
    assert "salt-tix-01" in tarn("ask", "standing = intake", home=other).stdout
    assert [p.read_text() for p in (other / "papers").iterdir()] == ["a manual"]
    again = tarn("restore", str(file), home=other)
    assert again.returncode == 1
    assert "--force" in again.stderr
    (tmp_path / "bad").write_text("no archive")
    assert tarn("restore", str(tmp_path / "bad"), "--force", home=other).returncode == 1


@pytest.mark.parametrize(
    ("args", "says"),
    [
        (["10.60.4.1/24"], "10.60.4.0/24"),
        (["10.0.0.0/8"], "16,777,216"),
        (["10.60.4.1", "--ssh", "nonsense"], "USER:PASSWORD@PORT"),
        (["10.60.4.1", "--snmp", "v1:x"], "v2c:COMMUNITY@PORT"),
        (["10.60.4.1", "--credential", "nobody"], "no credential “nobody”"),
        (["10.60.4.1", "--route", "moon"], "no route"),
    ],
)
def test_sweep_refuses_bad_options(tarn, args, says):
    answer = tarn("sweep", *args)
    assert answer.returncode == 2
    assert says in answer.stderr


def test_sweep_with_nothing_there_is_no_error(tarn):
    answer = tarn("sweep", "10.60.97.1", "--route", "lab", "--patience", "0.2", "--format", "json")
    assert answer.returncode == 0, answer.stderr
    assert json.loads(answer.stdout)["found"] == []


def test_versions_are_weighed_a_line_each_and_what_is_none_is_named(tarn):
    done = tarn("versions", "semver", stdin="1.0.0-rc.1\t1.0.0\n1.0.0\t1.0.0+b2\nnone\n1.2\t1.3\n2.0.0\t1.9.9\n")
    assert done.stdout.split() == ["-1", "0", "?", "?", "1"]
    assert "line 3" in done.stderr
    assert "line 4: “1.2”" in done.stderr
    assert done.returncode == 1
    assert tarn("versions", "cobol", stdin="").returncode == 2


def test_labels_and_what_wants_a_hand(tarn, tmp_path):
    out = tmp_path / "labels.pdf"
    assert "is no sheet" in tarn("labels", "standing != none", "--sheet", "napkin", "--out", str(out)).stderr
    assert "not printed at once" in tarn("labels", "name = nobody", "--out", str(out)).stderr
    assert not out.exists()
    made = tarn("labels", "standing != none", "--sheet", "strip-62", "--out", str(out))
    assert made.returncode == 0, made.stderr
    assert out.read_bytes().startswith(b"%PDF")
    lines = json.loads(tarn("today", "--format", "json").stdout)
    assert ("intake", "/discovery/intake") in {(w["key"], w["to"]) for w in lines}
    assert tarn("today", "--format", "xml").returncode == 2
