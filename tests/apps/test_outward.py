"""What is told outward is read back as it was meant: VEX in three formats, bills of materials."""

import io
import json

import pytest

from tarn.apps.estate.asking.ask import question
from tarn.apps.exposure import outward
from tarn.apps.exposure.models import Thing
from tarn.core.exposure.reading import read_file
from tarn.core.exposure.status import Witness, decide
from tests import advisories as made
from tests.advisories import CVE
from tests.apps.test_exposure import SSH, adopt, device, feed
from tests.documents import DAY, START

pytestmark = pytest.mark.django_db


def read(body):
    [part] = read_file("told.json", io.BytesIO(body.encode()))
    assert part.refused is None, part.refused
    return part.document


@pytest.fixture
def open_estate(people):
    adopt(
        device("dev-a", 0, {SSH: "9.2p1-2", "quill-office": "16.0"}),
        device("dev-b", 0, {SSH: "9.2p1-5"}),
        device("dev-c", 0, {"heron": "1.0"}),
    )
    feed(made.osv(), day=1)


@pytest.mark.parametrize("format", ["cyclonedx", "csaf", "openvex"])
def test_vex_written_and_read_back_says_the_same(open_estate, format):
    document = read(outward.vex(question("", None), format))
    from tarn.apps.exposure.finding import things

    told = {}
    for number, row in things.everything().items():
        thing = things.names().thing(row)
        said = [
            Witness(1, "maker", 0, statement)
            for telling in document.tellings
            if CVE in telling.ids
            for statement in telling.statements
        ]
        if decided := decide(thing, said):
            told[row.version] = decided.status
        assert Thing.objects.filter(pk=number).exists()
    assert told == {"9.2p1-2": "affected", "9.2p1-5": "fixed"}
    assert document.warnings == ()


def test_vex_tells_only_of_what_is_asked_for_and_of_the_day(open_estate):
    only = json.loads(outward.vex(question("name = dev-b", None), "openvex"))
    assert [s["status"] for s in only["statements"]] == ["fixed"]
    assert json.loads(outward.vex(question("", START), "openvex"))["statements"] == [], "nobody knew of it yet"
    assert json.loads(outward.vex(question("name = dev-c", None), "openvex"))["statements"] == []


def test_a_bill_of_materials_names_what_is_there_in_the_words_of_the_world(open_estate, as_role):
    document = read(outward.bom(question("name = dev-a", None)))
    parts = {c.purl: c.version for c in document.components if c.purl}
    assert parts == {
        "pkg:deb/tallow/secure-shell-server@9.2p1-2?distro=tallow-8.10": "9.2p1-2",
        "pkg:deb/tallow/quill-office@16.0?distro=tallow-8.10": "16.0",
    }
    assert document.of.name == "dev-a"
    assert len(read(outward.bom(question("", None))).components) > 4
    answer = as_role("viewer").get("/api/exposure/bom", {"filter": "name = dev-a", "as_of": str(START + DAY)[:0]})
    assert answer["Content-Type"] == "application/vnd.cyclonedx+json"
    assert as_role("viewer").get("/api/exposure/vex/pdf").status_code == 422
