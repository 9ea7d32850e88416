"""Every kind of source keeps to what is asked of one: its form, its checks, its host."""

from dataclasses import fields

import pytest

from tarn.collect.credentials import HttpCredential, LdapCredential
from tarn.collect.routes import DIRECT
from tarn.collect.sources.kind import Asking, SettingError, kinds

KINDS = list(kinds().values())
GIVEN = {"base": "https://one.example/api", "address": "dir.example", "manufacturer": "Quoin", "list": "all", "key": "id",
         "items": "rows", "device": "serial", "server": "10.0.0.53", "zone": "one.example"}  # fmt: skip


def given(kind):
    needed = {one.name: GIVEN[one.name] for one in kind.form if one.needed}
    return needed | ({"fields": {"serial": {"from": "serial"}}} if kind.mapped else {})


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.name)
def test_a_kind_asks_for_settings_its_reader_has_and_says_which_is_wrong(kind):
    assert {one.name for one in kind.form} <= {f.name for f in fields(kind.settings)}
    assert kind.checked({**{one.name: one.usual for one in kind.form if one.usual != ""}, **given(kind)})
    for one in kind.form:
        wrong = []
        if one.needed:
            wrong.append("")
        if one.options:
            wrong.append("anything else")
        if one.type == "number":
            wrong += ["many", one.most + 1, one.least - 1]
        for value in wrong:
            with pytest.raises(SettingError) as refused:
                kind.checked({**given(kind), one.name: value})
            assert refused.value.name == one.name, (value, str(refused.value))
    with pytest.raises(SettingError, match=f"A {kind.name} source has no setting “shoe”"):
        kind.checked({**given(kind), "shoe": 1})


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.name)
def test_a_kind_is_asked_at_its_address_with_its_own_credential_alone(kind):
    host = kind.host(kind.checked(given(kind)))
    assert (
        host == {"base": "one.example", "address": "dir.example", "endpoint": "", "server": "10.0.0.53"}[kind.host_in]
    )
    other = (
        LdapCredential("o", "o", "o") if kind.credential is HttpCredential else HttpCredential("o", "basic", "o", "o")
    )
    with pytest.raises(SettingError) as refused:
        kind.findings(given(kind), Asking(DIRECT, other))
    assert refused.value.name == "credential"
    if kind.must:
        with pytest.raises(SettingError, match=kind.must):
            kind.findings(given(kind), Asking(DIRECT, None))


def test_a_setting_of_the_wrong_type_is_named_with_its_place():
    with pytest.raises(SettingError, match=r"The setting “fields\.name\.from”") as refused:
        kinds()["inventory"].checked({**given(kinds()["inventory"]), "fields": {"name": {"from": 1}}})
    assert refused.value.name == "fields"
