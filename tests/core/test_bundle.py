"""A position taken away: sound as it was made, and every change to it found."""

import io
import json
import zipfile
from datetime import date

import pytest

from tarn.core.licensing.bundle import Basis, make_bundle, verify_bundle
from tarn.core.licensing.position import LeftOut
from tarn.core.licensing.rights import Licence, Use
from tarn.core.signed_archive import key_of

DAY = date(2026, 6, 1)
KEY = key_of(b"a secret of an installation")
BASIS = Basis(
    DAY,
    [
        Licence(1, "Suite", "device", 1, frozenset({1, 2}), price=900, release="16", maintained_until=DAY),
        Licence(2, "Single", "named person", 1, frozenset({1}), departments=frozenset({"fleet"})),
    ],
    [
        Use(11, 1, "16.2", 1, "una", date(2026, 1, 1), "fleet"),
        Use(12, 2, "3", 1, "una"),
        Use(13, 1, "16.2", 2, "piet", facts={"memory": 16.0}),
    ],
    disputed=[13],
    left_out=[LeftOut("exempt: test bench", {1: (1, 2)})],
    names={1: "One", 2: "Two"},
    devices={1: "pc-1", 2: "pc-2"},
)


@pytest.fixture
def bundle():
    return make_bundle(BASIS, "ines", "2026-06-01T10:00:00Z", KEY)


def changed(bundle, name, change):
    """Return a bundle with one file's text changed."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(bundle)) as old, zipfile.ZipFile(out, "w") as new:
        for one in old.namelist():
            text = old.read(one).decode()
            told = change(text) if one == name else text
            assert one != name or told != text
            new.writestr(one, told)
    return out.getvalue()


def test_a_bundle_is_sound_and_says_who_made_it(bundle):
    found = verify_bundle(bundle)
    assert found.faults == []
    assert (found.of, found.made_by, found.number) == ("2026-06-01", "ines", 2)
    assert verify_bundle(make_bundle(BASIS, "ines", "x", key_of(b"another"))).fingerprint != found.fingerprint


@pytest.mark.parametrize(
    ("name", "old", "new", "says"),
    [
        ("position.json", '"short": 1', '"short": 0', "does not follow from rules and uses"),
        ("rules.json", '"quantity": 1', '"quantity": 9', "rules.json is not what was signed"),
        ("uses.json", '"device": 2', '"device": 1', "uses.json is not what was signed"),
        ("assignment.json", '"licence": 2', '"licence": 1', "the assignment does not follow"),
        ("manifest.json", "ines", "sten", "the signature does not fit"),
        ("rules.json", '"day": "2026', '"day": "20x6', "cannot be reckoned anew"),
    ],
)
def test_what_was_changed_is_found(bundle, name, old, new, says):
    forged = changed(bundle, name, lambda text: text.replace(old, new, 1))
    assert any(says in fault for fault in verify_bundle(forged).faults)


def test_a_position_forged_with_its_hash_is_found_by_its_signature_and_its_sums(bundle):
    import hashlib

    text = zipfile.ZipFile(io.BytesIO(bundle)).read("position.json").decode()
    forged_text = text.replace('"short": 1', '"short": 0', 1)

    def rehash(manifest):
        told = json.loads(manifest)
        told["sha256"]["position.json"] = hashlib.sha256(forged_text.encode()).hexdigest()
        return json.dumps(told)

    forged = changed(changed(bundle, "position.json", lambda _: forged_text), "manifest.json", rehash)
    faults = verify_bundle(forged).faults
    assert "the signature does not fit the manifest" in faults
    assert any("does not follow" in fault for fault in faults)


def test_what_is_no_bundle_is_said_to_be_none():
    assert "no bundle" in verify_bundle(b"PK nothing").faults[0]


def test_an_archive_is_exactly_its_manifest_and_names_what_was_left_out(bundle):
    out = io.BytesIO(bundle)
    with pytest.warns(UserWarning, match="Duplicate name"), zipfile.ZipFile(out, "a") as archive:
        archive.writestr("position.json", zipfile.ZipFile(io.BytesIO(bundle)).read("position.json"))
    assert verify_bundle(out.getvalue()).faults == ["position.json is there twice"]
    more = io.BytesIO(bundle)
    with zipfile.ZipFile(more, "a") as archive:
        archive.writestr("note.txt", "all is well")
    assert verify_bundle(more.getvalue()).faults == ["note.txt is not what was signed"]
    said = json.loads(zipfile.ZipFile(io.BytesIO(bundle)).read("left_out.json"))
    assert said == [{"reason": "exempt: test bench", "by_product": {"1": [1, 2]}}]
