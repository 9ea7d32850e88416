"""Finding devices by their labels: for those who work here the device, for anybody else whom to call."""

import time
from collections.abc import Iterable
from typing import Any

from django.db import transaction

from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.register.identifiers import assets_of, documents_of
from tarn.apps.labels.models import Label
from tarn.apps.labels.printing import plates_of, words
from tarn.apps.labels.results import FoundOut, LabelOut
from tarn.apps.people.actions.audit import record
from tarn.apps.people.roles import require
from tarn.core.labels import LabelError, read_code


def by_code(text: str) -> LabelOut:
    """Return the label of a code, with the device it is on now. Raises KeyError with words for one that leads
    nowhere."""
    label = _label(text)
    told = _told([label])
    if not told:
        raise KeyError(f"The device of label {label.code}, printed for {label.number}, is not to be seen here.")
    return told[0]


def of_asset(asset: int) -> list[LabelOut]:
    """Return the labels of a device, the latest first. Raises KeyError with words for one that is not to be seen."""
    if not 0 < asset < 2**63 or not assets_of(held_by := documents_of(asset)):
        raise KeyError(f"There is no asset {asset}.")
    return _told(list(Label.objects.filter(anchor__in=held_by).order_by("-pk")))


def _told(held: list[Label]) -> list[LabelOut]:
    """Return labels with the devices they are on now; those of devices that are not to be seen are left out."""
    of = assets_of(label.anchor for label in held)
    plates = plates_of(sorted(of.values()))
    out: list[LabelOut] = []
    for label in held:
        if (plate := plates.get(of.get(label.anchor, 0))) is not None:
            out.append(
                {
                    "code": label.code,
                    "asset": plate["id"],
                    "number": plate["number"],
                    "name": plate["name"],
                    "printed_for": label.number,
                    "moved": plate["number"] != label.number,
                    "printed": label.printed,
                    "printed_at": iso(label.printed_at) if label.printed_at else None,
                    "lost_at": iso(label.lost_at) if label.lost_at else None,
                }
            )
    return out


def anchors_of(codes: Iterable[str]) -> dict[str, str]:
    """Return by code of a label the document its device is known by; codes of no label are left out."""
    return dict(Label.objects.filter(code__in=set(codes)).values_list("code", "anchor"))


def codes_of(anchors: Iterable[str]) -> dict[str, list[str]]:
    """Return by document the codes of the labels that hang on it."""
    out: dict[str, list[str]] = {}
    for anchor, code in Label.objects.filter(anchor__in=set(anchors)).order_by("pk").values_list("anchor", "code"):
        out.setdefault(anchor, []).append(code)
    return out


def found(text: str) -> FoundOut:
    """Return what a finder is told. Raises KeyError with words where the code is of no label."""
    _label(text)
    said = words()
    return {"company": said.company, "phone": said.phone, "words": said.words}


def _label(text: str) -> Label:
    try:
        code = read_code(text)
    except LabelError as fault:
        raise KeyError(str(fault)) from None
    label = Label.objects.filter(code=code).first()
    if label is None:
        raise KeyError(f"No label was printed with the code {code}.")
    return label


def lose(user: Any, text: str) -> LabelOut:
    """Note that a label is lost: the device gets a new one when labels are printed next. Raises KeyError."""
    require(user, "decide")
    told = by_code(text)
    with transaction.atomic():
        label = Label.objects.get(code=told["code"])
        if label.lost_at is None:
            label.lost_at, label.lost_by = int(time.time()), user.username
            label.save()
            record(user, "noted a label as lost", str(label))
    return by_code(text)
