"""The open formats of feeds: what is read of each, and what is refused with its place."""

import gzip
import io
import json
import zipfile

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.exposure import reading
from tarn.core.exposure.outside import Distribution
from tarn.core.exposure.ranges import Range, read_vers
from tarn.core.exposure.reading import read_file, read_json
from tarn.core.exposure.told import FeedError
from tarn.core.versions import VersionError
from tests import advisories as made
from tests.advisories import CVE, NOTICE


def _parts(data, name="feed.json"):
    body = data if isinstance(data, bytes) else json.dumps(data, ensure_ascii=False).encode()
    return list(read_file(name, io.BytesIO(body)))


def _only(document):
    [telling] = document.tellings
    return telling


def test_a_cve_record_tells_ranges_with_their_changes():
    changing = {
        "version": "16.0.0",
        "lessThan": "17.0.0",
        "status": "affected",
        "versionType": "semver",
        "changes": [{"at": "16.0.9", "status": "unaffected"}, {"at": "16.1.0", "status": "affected"}],
    }
    document = read_json(made.cve(CVE, changing))
    telling = _only(document)
    assert (document.format, document.name, document.word) == ("CVE record", CVE, "maker")
    assert telling.scores[0].base == 9.8
    affected, spared = telling.statements
    assert affected.subject.key == "product/northquill/quilloffice"
    assert affected.ranges == (Range("16.0.0", "16.0.9", fixed=True), Range("16.1.0", "17.0.0", fixed=True))
    assert spared.status == "not affected"
    assert affected.otherwise == "not affected"
    assert read_json(made.cve(by="Harbour Registry")).word == "general", "who wrote it is not the maker"


def test_a_rejected_record_says_only_that():
    telling = _only(read_json(made.rejected()))
    assert telling.withdrawn == 1794211200
    assert telling.statements == ()


def test_configurations_with_and_say_what_else_must_be_there():
    both = {
        "operator": "AND",
        "nodes": [
            {"operator": "OR", "cpeMatch": [made.match("a:tern:notes", versionEndExcluding="4.2")]},
            {"operator": "OR", "negate": True, "cpeMatch": [made.match("o:tallow:linux", vulnerable=False)]},
        ],
    }
    either = {"nodes": [{"operator": "OR", "cpeMatch": [made.match("a:tern:notes:5.0"), made.match("a:tern:pad:-")]}]}
    [part] = _parts(made.page(made.nvd(CVE, both, either)))
    needing, named, unversioned = _only(part.document).statements
    [need] = needing.needs
    assert need.negated
    assert need.statements[0].subject.key == "product/tallow/linux"
    assert needing.ranges == (Range("", "4.2", fixed=True),)
    assert named.versions == ("5.0",)
    assert not named.needs
    assert unversioned.status == "under investigation", "NVD names no version of it"
    assert _only(part.document).weaknesses == ("CWE-287",)
    assert json.loads(part.body)["cve"]["id"] == CVE, "each document is kept as it came"


def test_a_notice_of_a_distribution_tells_package_and_release():
    telling = _only(read_json(made.osv()))
    [statement] = telling.statements
    assert statement.subject.distribution == Distribution("tallow", "8")
    assert statement.subject.key == "package/secure-shell-server"
    assert telling.ids == (NOTICE, CVE)
    assert statement.fixed_in == ("9.2p1-5",)


def test_a_notice_about_several_is_no_alias_of_them():
    two = ["CVE-2026-99000001", "CVE-2026-99000002"]
    for told in ({"aliases": two}, {"aliases": [], "upstream": two}):
        telling = _only(read_json(made.osv(**told)))
        assert telling.ids == (NOTICE,)
        assert telling.about == tuple(two)


def test_events_make_ranges_with_holes_in_whatever_order_they_come():
    events = [{"introduced": "2.0.0"}, {"fixed": "1.4.2"}, {"introduced": "0"}, {"last_affected": "2.1.0"}]
    told = read_json(made.osv(package={"ecosystem": "npm", "name": "@tern/notes"}, events=events))
    [statement] = _only(told).statements
    assert statement.ranges == (Range("", "1.4.2", fixed=True), Range("2.0.0", "2.1.0", high_in=True))
    assert statement.subject.key == "npm/@tern/notes"
    assert told.word == "general"


def test_csaf_tells_statuses_by_product_with_flags_and_remedies():
    told = {
        "product_status": {"known_not_affected": ["P1"]},
        "flags": [{"label": "vulnerable_code_not_present", "product_ids": ["P1"]}],
        "remediations": [{"category": "mitigation", "details": "Shut port 22.", "product_ids": ["P1"]}],
    }
    document = read_json(made.csaf(told))
    telling = _only(document)
    [statement] = telling.statements
    assert (document.word, statement.status, statement.versions) == ("maker", "not affected", ("16.1.0",))
    assert statement.justification == "vulnerable_code_not_present"
    assert telling.remedies[0].text == "Shut port 22."
    assert telling.ids == (CVE, "NQ-2026-11")
    ranged = {"category": "product_version_range", "name": "vers:semver/>=16.0.0|<16.1.1"}
    [statement] = _only(read_json(made.csaf({"product_status": {"known_affected": ["P1"]}}, ranged))).statements
    assert statement.ranges == (Range("16.0.0", "16.1.1", fixed=True),)


def test_vex_and_bills_of_materials():
    vex = read_json(made.openvex("not_affected", "pkg:deb/tallow/secure-shell-server@9.8p1?distro=tallow-8"))
    [statement] = _only(vex).statements
    assert statement.subject.distribution == Distribution("tallow", "8")
    assert statement.versions == ("9.8p1",)
    part = {
        "type": "library",
        "bom-ref": "n",
        "name": "notes",
        "version": "1.0.0",
        "purl": "pkg:npm/%40tern/notes@1.0.0",
    }
    analysed = {"id": CVE, "analysis": {"state": "in_triage"}, "affects": [{"ref": "n"}]}
    document = read_json(made.bom([part], [analysed]))
    assert document.of is not None
    assert document.of.key == "product/ostler/ostlerclient"
    [component] = document.components
    assert (component.subject.key, component.version) == ("npm/@tern/notes", "1.0.0")
    [statement] = _only(document).statements
    assert (statement.status, statement.versions) == ("under investigation", ("1.0.0",))


def test_lists_of_chances_of_use_and_of_ends():
    chances = b"#model_version:v2026.01.01,score_date:2026-11-01T00:00:00+0000\ncve,epss,percentile\n"
    chances += f"{CVE},0.64,0.97\nCVE-2026-99000001,1.5,0.2\n".encode()
    [part] = _parts(gzip.compress(chances), "epss.csv.gz")
    assert part.document.chances[0].percentile == 0.97
    assert "line 4" in part.document.warnings[0]
    used = {"title": "In use", "catalogVersion": "1", "vulnerabilities": [{"cveID": CVE, "dateAdded": "2026-11-09"}]}
    assert read_json(used).used[0].since == 1794182400
    ends = b"product,maker,versions,ends\nTallow Linux,Tallow Systems,6,2026-08-31\nTern Notes,Ternwork,4,soon\n"
    [part] = _parts(ends, "ends.csv")
    assert part.document.ends[0].ranges == (Range("6", "7"),)
    assert "line 3" in part.document.warnings[0]


@pytest.mark.parametrize(
    ("document", "place", "rule"),
    [
        (made.cve() | {"dataVersion": "4.0"}, "/dataVersion", "pattern"),
        (
            made.cve(CVE, {"version": "2", "lessThan": "1", "status": "affected"}),
            "/containers/cna/affected/0",
            "backwards",
        ),
        (made.osv(events=[{"fixed": "1.0"}]), "/affected/0/ranges/0/events", "begins nowhere"),
        (made.osv(package={"ecosystem": "npm", "name": "x"}, events=[{"introduced": "one"}]), "/affected/0", "npm"),
        (made.osv(modified="yesterday"), "/modified", "no time"),
        (made.osv(aliases=["two words"]), "/aliases/0", "no identifier"),
        (made.csaf({"product_status": {"fixed": ["P9"]}}), "/vulnerabilities/0/product_status/fixed/0", "P9"),
        (made.csaf({}, csaf_version="1.2"), "/document/csaf_version", "2.0"),
        (made.bom([{"type": "thing", "name": "x"}]), "/components/0/type", "thing"),
        (made.bom([]) | {"specVersion": "1.2"}, "/specVersion", "1.4"),
        ({"hello": "world"}, "", "no format we read"),
    ],
)
def test_what_breaks_a_standard_is_refused_with_its_place(document, place, rule):
    with pytest.raises(FeedError) as refused:
        read_json(document)
    assert refused.value.place.startswith(place)
    assert rule in refused.value.rule


def test_a_vector_with_unknown_parts_is_named_and_the_rest_read():
    record = made.cve()
    record["containers"]["cna"]["metrics"].append({"cvssV3_1": {"vectorString": "CVSS:3.1/AV:Q"}})
    document = read_json(record)
    assert [s.base for s in _only(document).scores] == [9.8]
    assert "AV:Q" in document.warnings[0]


def test_a_broken_document_in_a_list_is_named_by_its_line_and_the_rest_read(monkeypatch):
    monkeypatch.setattr(reading, "_CHUNK", 300)
    lines = [json.dumps(made.osv(f"SKA-{n}", aliases=[])) for n in range(40)]
    lines[17] = lines[17].replace('"summary":', '"summary"')
    parts = _parts(("[\n" + ",\n".join(lines) + "\n]").encode())
    refused = [p for p in parts if p.refused]
    assert len(parts) == 40
    assert [p.place for p in refused] == ["feed.json:19"]
    parts = _parts("\n".join(lines).encode())
    assert [p.place for p in parts if p.refused] == ["feed.json:18"], "documents one a line"


@pytest.mark.parametrize(
    ("body", "says"),
    [
        (b"<!doctype html><p>Sign in", "web page"),
        (b"", "empty"),
        (b"\xff\xfe[]", "UTF-8"),
        (b"[" * 100_000, "nested"),
        (json.dumps([made.osv()]).encode()[:-30], "middle"),
        (gzip.compress(json.dumps([made.osv()]).encode())[:-30], "middle"),
        (gzip.compress(b"[" + b" " * (40 << 20)), "trap"),
        (b"PK\x03\x04nothing", "zip"),
        (b'[{"id": "\\ud83d", "modified": "2026-01-01"}]', "surrogate"),
    ],
)
def test_what_is_no_document_is_said(body, says):
    parts = _parts(body)
    assert says in str(parts[-1].refused)


def test_a_zip_is_taken_apart_and_its_traps_are_named():
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("a.json", json.dumps(made.osv()))
        archive.writestr("trap.json", b" " * (60 << 20))
        archive.writestr("b.json", json.dumps(made.cve()))
    a, trap, b = _parts(packed.getvalue(), "all.zip")
    assert (a.document.name, b.document.name) == (NOTICE, CVE)
    assert "trap" in str(trap.refused)
    assert trap.place.startswith("all.zip!trap.json")


@given(st.recursive(st.none() | st.booleans() | st.integers() | st.text(max_size=5), lambda x: st.lists(x, max_size=3)))
def test_whatever_stands_in_a_document_it_is_read_or_refused(junk):
    for document in (
        made.cve(),
        made.osv(),
        made.csaf({}),
        made.nvd(CVE),
        made.openvex("fixed", "pkg:npm/x"),
        made.bom([]),
    ):
        for key in document:
            try:
                read_json(document | {key: junk})
            except FeedError:
                continue


@pytest.mark.parametrize(
    ("text", "ranges"),
    [
        ("vers:deb/>=9.2|<9.2p1-5", [Range("9.2", "9.2p1-5", fixed=True)]),
        ("vers:npm/<1.4.2|>=2.0.0|<=2.1.0|3.0.0", None),
        ("vers:semver/*", [Range()]),
        ("vers:pypi/!=1.0", [Range()]),
    ],
)
def test_ranges_in_vers(text, ranges):
    found = read_vers(text)[1]
    if ranges is None:
        assert found == [
            Range("", "1.4.2", fixed=True),
            Range("2.0.0", "2.1.0", high_in=True),
            Range("3.0.0", "3.0.0", high_in=True),
        ]
    else:
        assert found == ranges
    for wrong in ("deb/1.0", "vers:npm/>=one", "vers:npm/"):
        with pytest.raises(VersionError):
            read_vers(wrong)
