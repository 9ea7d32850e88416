"""What codes and words lead to, and noting what was met: each for itself, so that one that is refused holds none up."""

import re
import time
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from django.db import transaction

from tarn.apps.counts.inputs import MetIn
from tarn.apps.counts.models import Count, Met
from tarn.apps.counts.reads.lines import lines_of
from tarn.apps.counts.reads.shown import Beside, describe, plates
from tarn.apps.counts.results import TakingMet
from tarn.apps.estate.register.identifiers import assets_of, by_word, first_documents
from tarn.apps.labels.finding import anchors_of
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.core.counting import moment_of
from tarn.core.labels import LabelError, read_code
from tarn.core.text import fold

_LABEL = re.compile(r"^https?://[^/\s]+/l/([^/?#\s]+)/?$", re.IGNORECASE)
"""The address a label's code leads to, whatever name this Tarn had when it was printed."""


@dataclass(frozen=True, slots=True)
class Leads:
    """What a code leads to: a document of a device's evidence, or none; `trouble`: why it cannot be told."""

    anchor: str = ""
    trouble: str = ""


def leads(codes: Iterable[str]) -> dict[str, Leads]:
    """Return what codes lead to, by themselves: labels' codes and addresses, asset numbers, names, serial numbers,
    addresses."""
    bare = {code: _bare(code) for code in set(codes)}
    labelled = anchors_of(bare.values())
    seen = assets_of(labelled.values())
    words = by_word(word for word in bare.values() if labelled.get(word) not in seen)
    anchors = first_documents(sorted({a for some in words.values() if len(some) == 1 for a in some}))
    out = {}
    for code, word in bare.items():
        met = words.get(fold(word), set())
        if labelled.get(word) in seen:
            out[code] = Leads(labelled[word])
        elif len(met) > 1:
            out[code] = Leads(trouble=f"“{word[:60]}” stands for {len(met)} devices; give its number.")
        else:
            out[code] = Leads(next((anchors[a][0] for a in met if a in anchors), ""))
    return out


def _bare(code: str) -> str:
    """Return a code without the address it was printed in, and as a label's code where it is one."""
    text = " ".join(code.split())[:300]
    led = _LABEL.match(text)
    try:
        return read_code(led[1] if led else text)
    except LabelError:
        return text


def note(user: Any, number: int, several: list[MetIn], sent_at: int | None) -> list[TakingMet]:
    """Note what was met in a count; return what came of each, in their order. What was noted under its key before is
    told again and not noted twice. Raises Invalid, NotAllowed, Count.DoesNotExist."""
    require(user, "decide")
    received = int(time.time())
    found = leads(one.code for one in several)
    with transaction.atomic():
        count = visible(Count).get(pk=number)
        there = set(count.met.filter(key__in=[m.key for m in several]).values_list("key", flat=True))
        if count.state != "open" and any(m.key not in there for m in several):
            raise Invalid("met", f"{count.number} is {count.state}: nothing more is noted in it.")
        refused, new = {}, {}
        for one in several:
            led = found[one.code]
            if not one.code.strip():
                refused[one.key] = "Nothing was scanned or typed."
            elif led.trouble:
                refused[one.key] = led.trouble
            elif one.key not in there:
                at, off = moment_of(one.at, sent_at, received, count.made_at)
                new[one.key] = Met(
                    count=count, key=one.key, how=one.how, code=" ".join(one.code.split())[:300], anchor=led.anchor,
                    place=" ".join(one.place.split()), at=at, received_at=received, clock_off=off, by=user.username,
                    note=one.note.strip(),
                )  # fmt: skip
        Met.objects.bulk_create(new.values())
    return _told(count, several, refused)


def _told(count: Count, several: list[MetIn], refused: dict[str, str]) -> list[TakingMet]:
    """Return what came of each; of what was met twice, what the latest says."""
    noted = {met.key: met for met in count.met.filter(key__in=[m.key for m in several])}
    of = assets_of(met.anchor for met in noted.values() if met.anchor)
    lines = lines_of(count)
    by_asset = {line.asset: line for line in lines if line.asset is not None}
    by_met = {line.met.pk: line for line in lines if line.met is not None}
    told = {k: by_asset.get(of.get(met.anchor, 0)) or by_met.get(met.pk) for k, met in noted.items()}
    known = Beside(plates(line.asset for line in told.values() if line is not None and line.asset is not None))
    out: list[TakingMet] = []
    for one in several:
        met, line = noted.get(one.key), told.get(one.key)
        shown = describe(line, known) if line is not None else None
        out.append(
            {
                "key": one.key,
                "id": met.pk if met else None,
                "state": line.state if line else None,
                "number": shown["number"] if shown else "",
                "name": shown["name"] if shown else "",
                "place": shown["place"] if shown else "",
                "trouble": refused.get(one.key, ""),
                "beside": shown["beside"] if shown else [],
            }
        )
    return out


def take_back(user: Any, number: int, met: int) -> None:
    """Take back that something was met. Raises Invalid, NotAllowed, Count.DoesNotExist, Met.DoesNotExist."""
    require(user, "decide")
    with transaction.atomic():
        count = visible(Count).get(pk=number)
        if count.state != "open":
            raise Invalid("met", f"{count.number} is {count.state}: nothing is taken back in it.")
        held = count.met.get(pk=met)
        held.taken_back_by = user.username
        held.save(update_fields=["taken_back_by"])
        record(user, "took back what was met in", str(count), detail={"code": held.code})
