"""A list that is declared and read, and nothing more: it is in the evidence, filters, reports, history and the dossier."""

import asyncio
import datetime as dt

import pytest

from tarn.apps.estate.door.entrance import take_in
from tarn.collect.ssh import read, workings
from tarn.collect.ssh.parsing import Unread, answers
from tarn.lab import shell
from tarn.lab.timeline import World
from tests.documents import START, sighting

DEVICES = "/sys/bus/usb/devices"


def said(classes, names=""):
    from tarn.collect.ssh.client import Output
    from tarn.collect.ssh.parsing import MARK

    return answers(Output(f"{classes}\n{MARK} classes 0\n{names}\n{MARK} names 2\n", "", 0))


def test_hubs_are_left_out_and_a_device_without_names_is_not():
    classes = f"{DEVICES}/1-1/bDeviceClass:09\n{DEVICES}/1-1.4/bDeviceClass:00\n{DEVICES}/2-3/bDeviceClass:e0"
    names = f"{DEVICES}/1-1.4/product:Scan 40: blue\n{DEVICES}/1-1/product:Hub\n{DEVICES}/1-1.4/serial:Q-7"
    (reading,) = workings.usb_devices(said(classes, names))
    assert [(i.port, i.model, i.serial) for i in reading.items] == [("1-1.4", "Scan 40: blue", "Q-7"), ("2-3", "", "")]
    assert reading.complete
    (blind,) = workings.usb_devices(said(classes))
    assert blind.unseen == ("manufacturer", "model", "serial"), "what was known of them stays known"
    with pytest.raises(Unread):
        workings.usb_devices(said("This account is not for you."))


@pytest.mark.django_db
def test_it_is_read_of_the_lab_asked_for_reported_and_shown(as_role):
    device = next(d for d in World().on(400) if d.kind == "till" and d.ssh == "yes" and d.family != "macos")
    now = dt.datetime(2026, 11, 1, tzinfo=dt.UTC)

    class Lab:
        async def run(self, line, section, seconds=0, most=0):
            from tarn.collect.ssh.client import Output

            return Output(*shell.run(device, line, now))

    readings, _ = asyncio.run(read.read_all(Lab()))
    (usb,) = [r for r in readings if r.section == "usb_devices"]
    assert [(i.port, i.manufacturer, i.model) for i in usb.items] == [("1-2", "Halberd", "Scan 40 barcode reader")]
    plugged = [i.model_dump() for i in usb.items]
    for day, listed in enumerate((plugged, [*plugged, {"port": "1-3", "model": "Spare drive"}], plugged)):
        list(take_in([sighting("till-1", day, identity={"serial": "T-1000"}, usb_devices=listed)]))
    viewer = as_role("viewer")
    anywhere = "standing in (intake, register) and "
    asked = viewer.get("/api/assets", {"filter": f'{anywhere}usb_devices[model ~ "barcode" and serial != none]'}).json()
    assert (asked["total"], asked["rows"][0]["name"]) == (1, "till-1")
    assert "USB device" in asked["sentence"]
    number = asked["rows"][0]["id"]
    definition = {
        "row": "usb_devices",
        "columns": [{"field": "model"}, {"field": "asset.name"}],
        "filter": "standing = intake",
    }
    shown = (
        as_role("operator")
        .post("/api/reports/preview", {"definition": definition}, content_type="application/json")
        .json()
    )
    assert [r["values"] for r in shown["lines"] if r["kind"] == "row"] == [["Scan 40 barcode reader", "till-1"]]
    assert [i["port"] for i in viewer.get(f"/api/assets/{number}").json()["items"]["usb_devices"]] == ["1-2"]
    until = dt.datetime.fromtimestamp(START + 9 * 86_400, dt.UTC).isoformat()[:10]
    lines = viewer.get(f"/api/assets/{number}/history", {"as_of": until}).json()
    assert {(c["section"], c["thing"], c["verb"]) for c in lines} == {
        ("usb_devices", "1-3", "added"),
        ("usb_devices", "1-3", "removed"),
    }
    lists = {one["name"]: one for one in viewer.get("/api/fields").json()["lists"]}
    assert lists["usb_devices"]["heading"] == "USB devices"
    assert [c["label"] for c in lists["usb_devices"]["columns"]] == ["Port", "Manufacturer", "Model", "Serial"]
