"""The sighting document: checked, with faults at their places; one reading a section to go by."""

import pytest

from tarn.core.sightings import SightingError, effective, read_sighting
from tests.documents import reading, sighting


def document(**changes):
    base = {
        "schema": "tarn.sighting/1",
        "id": "document-1",
        "source": {"kind": "sweep", "name": "night"},
        "at": "2026-08-03T01:30:00Z",
        "readings": [reading("packages", [{"name": "quill", "version": "1"}])],
    }
    return {**base, **changes}


@pytest.mark.parametrize(
    ("change", "place"),
    [
        ({"schema": "tarn.sighting/9"}, "schema"),
        ({"at": "yesterday"}, "at"),
        ({"at": "2026-08-03T01:30:00"}, "at"),
        ({"source": {"kind": "rumour", "name": "x"}}, "source.kind"),
        ({"extra": 1}, "extra"),
        ({"readings": [reading("packages", [{"name": "", "version": "1"}])]}, "items[0].name"),
        ({"readings": [reading("packages", [{"name": "x" * 400, "version": "1"}])]}, "items[0].name"),
        ({"readings": [reading("packages", [{"name": "a\x00b"}])]}, "items[0].name"),
        ({"readings": [reading("hardware", {"memory": -1})]}, "memory"),
        ({"readings": [reading("addresses", [{"address": "10.0.0.999"}])]}, "items[0]"),
        ({"readings": [reading("rumours", {})]}, "readings[0]"),
    ],
)
def test_faults_are_named_with_their_place(change, place):
    with pytest.raises(SightingError) as caught:
        read_sighting(document(**change))
    assert any(place in where for where, _ in caught.value.places), caught.value.places


def test_garbage_is_refused():
    with pytest.raises(SightingError):
        read_sighting(b"\xff\xfe not json")


def test_the_fuller_collector_is_gone_by_and_facts_are_joined():
    read = read_sighting(
        document(
            readings=[
                reading("packages", [{"name": "quill-office-16"}], "snmp.software"),
                reading("packages", [{"name": "quill-office", "version": "16"}], "ssh.packages"),
                reading("identity", {"name": "snmp-name", "serial": "S-1"}, "snmp.system"),
                reading("identity", {"name": "ssh-name", "macs": ["7c:1e:b0:00:00:01"]}, "ssh.identity"),
            ]
        )
    )
    chosen = effective(read)
    assert chosen["packages"].items[0].name == "quill-office"
    assert (chosen["identity"].facts.name, chosen["identity"].facts.serial) == ("ssh-name", "S-1")


def test_a_complete_reading_goes_before_a_cut_short_one():
    cut = reading("packages", [{"name": "half"}], "ssh.packages", complete=False, note="cut off")
    whole = reading("packages", [{"name": "whole"}], "snmp.software")
    assert effective(sighting("h", packages=cut)).get("packages").complete is False
    both = read_sighting(document(readings=[cut, whole]))
    assert effective(both)["packages"].items[0].name == "whole"
