"""What products are called outside: proposed, said, taken back, and found anew for the past as well."""

import pytest

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.exposure.actions import outside_names as actions
from tarn.apps.exposure.inputs import OutsideNameIn
from tarn.apps.exposure.models import OutsideName
from tarn.apps.exposure.outside_names import listed
from tarn.apps.exposure.shown import listed as findings
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.actions.undo import undo
from tarn.apps.people.models import AuditEntry
from tarn.apps.people.roles import NotAllowed
from tarn.core.exposure.proposing import Outside
from tests import advisories as made
from tests.apps.test_exposure import adopt, feed
from tests.documents import DAY, START, sighting

pytestmark = pytest.mark.django_db
MAIL = {"name": "merlin-mail", "version": "9.1.0", "publisher": "Northquill"}


def estate():
    for name, package in (("salt-pc-01", MAIL), ("salt-pc-02", MAIL), ("salt-pc-03", {**MAIL, "name": "tern-notes"})):
        system = {"platform": "Windows", "os_name": "Windows 11 Pro", "os_version": "10.0.26100"}
        adopt(sighting(name, 0, identity={"serial": f"S-{name}"}, packages=[package], system=system))
    match = made.match("a:nortquill:merlin_mail:*", versionEndExcluding="9.2.2")
    feed(made.nvd("CVE-2026-99370001", {"nodes": [{"operator": "OR", "negate": False, "cpeMatch": [match]}]}), day=2)


def mail(**more):
    return OutsideNameIn(product="merlin-mail", maker="Northquill", **more)


def open_on(day):
    return sorted(f["device"] for f in findings(question("", START + int(day * DAY))))


def row():
    return next(r for r in listed() if r["product"] == "merlin-mail")


def test_a_maker_told_otherwise_is_proposed_said_and_found_in_the_past(people):
    estate()
    assert open_on(3) == []
    found = row()
    assert (found["state"], found["devices"]) == ("proposed", 2)
    [proposal] = found["proposals"]
    assert (proposal["key"], proposal["advisories"]) == ("product/nortquill/merlinmail", 1)
    assert proposal["sure"] > 0.9
    with pytest.raises(NotAllowed):
        actions.name_outside(people["viewer"], mail(name=proposal["key"]))

    actions.name_outside(people["operator"], mail(name=proposal["key"]))
    assert open_on(3) == ["salt-pc-01", "salt-pc-02"]
    assert open_on(1) == [], "nobody had told of it"
    found = row()
    assert (found["state"], found["said"][0]["name"]) == ("said", "nortquill merlin mail")

    again = undo(people["operator"], AuditEntry.objects.filter(verb="named outside").latest("pk").pk)
    assert (open_on(3), row()["state"]) == ([], "proposed")
    undo(people["operator"], again.pk)
    assert open_on(3) == ["salt-pc-01", "salt-pc-02"]
    actions.drop_name(people["operator"], OutsideName.objects.get().pk)
    assert open_on(3) == []


def test_a_cpe_name_serves_and_nobody_and_a_name_shut_each_other_out(people):
    estate()
    ours = people["operator"]
    actions.name_outside(ours, mail(name="cpe:2.3:a:nortquill:merlin_mail:*:*:*:*:*:*:*:*"))
    assert open_on(3) == ["salt-pc-01", "salt-pc-02"]
    actions.name_outside(ours, mail())
    assert (open_on(3), row()["state"], OutsideName.objects.count()) == ([], "none", 1)
    actions.name_outside(ours, mail(name="product/nortquill/merlinmail"))
    assert (row()["state"], OutsideName.objects.count()) == ("said", 1)
    for wrong in (
        "cpe:2.3:a",
        "pkg:",
        "left-hand",
        "product/nobody/nothing",
        "x" * 500,
        "product/nortquill/merlinmail",
    ):
        with pytest.raises(Invalid):
            actions.name_outside(ours, mail(name=wrong))
    with pytest.raises(Invalid):
        actions.name_outside(ours, OutsideNameIn(product="no such thing"))


def test_every_figure_opens_its_devices():
    estate()
    assert {"merlin-mail", "tern-notes", "Windows 11 Pro"} <= {r["product"] for r in listed()}
    for one in listed():
        assert one["devices"] == len(ids(question(one["filter"], None))), one["product"]


def test_what_is_proposed_and_what_is_not():
    outside = Outside(["product/nortquill/merlinmail", "product/selkie/sx48firmware", "package/merlin-mail", "npm/a/b"])
    assert [p.key for p in outside.proposals("Merlin Mail", "Northquill Ltd")] == ["product/nortquill/merlinmail"]
    assert [p.key for p in outside.proposals("SX48-firmwares", "Selkie")] == ["product/selkie/sx48firmware"]
    assert outside.proposals("SX24 firmware", "Selkie") == [], "another number is another model"
    assert outside.proposals("Merlin Mail", "Orrin") == [], "a name many have, of somebody else"
    assert outside.proposals("SX48 firmware", "Selkie") == [], "that is its name"
    assert [p.sure for p in outside.proposals("Merlin Mail", "")] == [0.7], "no maker is told here"
