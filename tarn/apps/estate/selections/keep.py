"""Keeping selections as sets: live ones by a filter, picked ones by hand, address sets by ranges."""

import re
import time
from typing import Any

from django.db import IntegrityError, transaction

from tarn.apps.estate.asking.ask import context, visible_among
from tarn.apps.estate.asking.uses import uses_of
from tarn.apps.estate.models import KeptSet, SetSpan
from tarn.apps.estate.register.identifiers import by_word, numbers_in_order
from tarn.apps.estate.selections.inputs import SetIn
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, require_version
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.apps.people.sharing import read_access, require_change
from tarn.core.filters.check import check
from tarn.core.filters.parse import FilterError, parse
from tarn.core.filters.tree import to_text
from tarn.core.ranges import RangeError, parse_range
from tarn.core.text import fold

KINDS = ("live", "picked", "address")
MOST_PICKED = 5_000


class NameTaken(ValueError):
    """A set of that name is there already."""


def _filter(data: SetIn) -> str:
    """Return the filter a set of any kind comes down to. Raises Invalid, FilterError."""
    if data.kind == "picked":
        return _of_numbers([*_pasted(data.picked), *data.assets])
    if data.kind == "address":
        return _of_ranges([r.strip() for r in data.ranges if r.strip()])
    return data.filter


def _pasted(text: str) -> list[int]:
    """Return the devices of pasted numbers, names or serial numbers, parted by lines, commas, semicolons or tabs.

    Raises Invalid naming what is none, or is several.
    """
    words = list(dict.fromkeys(w.strip() for w in re.split(r"[\n,;\t]+", text) if w.strip()))
    if len(words) > MOST_PICKED:
        raise Invalid("picked", f"{len(words):,} are too many to pick: at most {MOST_PICKED:,}. Keep a live set.")
    known = by_word(words)
    out: list[int] = []
    for word in words:
        found = known.get(fold(word), set())
        if len(found) != 1:
            what = "no device that you may see" if not found else f"{len(found)} devices; write its number"
            raise Invalid("picked", f"“{word[:60]}” is {what}. Nothing was kept.")
        out += found
    return out


def _of_numbers(assets: list[int]) -> str:
    if not assets:
        raise Invalid("assets", "A picked set needs at least one device.")
    if len(assets) > MOST_PICKED:
        raise Invalid("assets", f"{len(assets):,} are too many to pick: at most {MOST_PICKED:,}. Keep a live set.")
    numbers = numbers_in_order(visible_among(assets))
    if not numbers:
        raise Invalid("assets", "None of these devices exists.")
    return f"number in ({', '.join(numbers)})" if len(numbers) > 1 else f"number = {numbers[0]}"


def _of_ranges(ranges: list[str]) -> str:
    if not ranges:
        raise Invalid("ranges", "An address set needs at least one range.")
    for text in ranges:
        try:
            parse_range(text)
        except RangeError as error:
            raise Invalid("ranges", str(error)) from None
    return " or ".join(f"address in {text}" for text in ranges)


def keep_set(user: Any, data: SetIn) -> KeptSet:
    """Keep a selection under a name. Raises FilterError, Invalid, NameTaken."""
    require(user, "keep")
    name = data.name.strip()[:120]
    if not name:
        raise Invalid("name", "A set needs a name.")
    tree = parse(_filter(data))
    check(tree, context(None))
    now = int(time.time())
    try:
        with transaction.atomic():
            made = KeptSet.objects.create(
                name=name,
                kind=data.kind,
                folder=_folder(data.folder),
                note=data.note.strip()[:300],
                access=read_access(data.access),
                filter=to_text(tree),
                organisation=owner(None),
                made_by=user,
                made_at=now,
            )
            SetSpan.objects.create(kept=made, filter=made.filter, valid_from=now)
            record(user, "kept a set", made.name, detail={"filter": made.filter})
    except IntegrityError:
        raise NameTaken(f"There is a set “{name}” already; choose another name.") from None
    return made


def _folder(text: str) -> str:
    return "/".join(p.strip() for p in text.split("/") if p.strip())[:120]


def change_set(user: Any, set_id: int, data: SetIn) -> KeptSet:
    """Change a set made from `version`; past days keep the definition they had.

    Raises Invalid, Stale, FilterError with the path of a circle, NameTaken, KeptSet.DoesNotExist.
    """
    require(user, "keep")
    now = int(time.time())
    name = data.name.strip()[:120]
    if not name:
        raise Invalid("name", "A set needs a name.")
    try:
        with transaction.atomic():
            held = visible(KeptSet).get(pk=set_id)
            require_change(user, held.access, _maker(held))
            require_version(
                held, data.version, held.name, {"name": held.name, "filter": held.filter, "folder": held.folder}
            )
            before = {"name": held.name, "filter": held.filter}
            if name != held.name and (used := uses_of(set_name=held.name)):
                raise Invalid("name", f"“{held.name}” is spoken of by name: {_named(used)}. Change that first.")
            held.name, held.folder, held.access = name, _folder(data.folder), read_access(data.access)
            held.note, held.version = data.note.strip()[:300], held.version + 1
            if held.kind != "picked" or data.assets or data.picked:
                held.filter = to_text(parse(_filter(data.model_copy(update={"kind": held.kind}))))
            held.save()
            if held.filter != before["filter"]:
                if not SetSpan.objects.filter(kept=held, valid_to=None).update(valid_to=now):
                    # Made before definitions were dated: what it was until now is kept as well.
                    then = {"filter": before["filter"], "valid_from": held.made_at, "valid_to": now}
                    SetSpan.objects.create(kept=held, **then)
                SetSpan.objects.create(kept=held, filter=held.filter, valid_from=now)
            # Checked as it stands now, so that a set that would hold itself is seen.
            check(parse(f'in set "{held.name}"'), context(None))
            record(user, "changed a set", held.name, detail={"before": before, "filter": held.filter})
    except IntegrityError:
        raise NameTaken(f"There is a set “{name}” already; choose another name.") from None
    except FilterError as error:
        raise Invalid("filter", error.message) from None
    return held


def drop_set(user: Any, set_id: int) -> None:
    """Drop a kept set. Raises KeptSet.DoesNotExist, and NameTaken where something still speaks of it."""
    require(user, "keep")
    with transaction.atomic():
        kept = visible(KeptSet).get(pk=set_id)
        require_change(user, kept.access, _maker(kept))
        if used := uses_of(set_name=kept.name):
            raise NameTaken(f"“{kept.name}” is still used by {_named(used)}; it was not dropped.")
        record(user, "dropped a set", kept.name, detail={"filter": kept.filter})
        kept.delete()


def _maker(held: KeptSet) -> str:
    return held.made_by.username if held.made_by else ""


def _named(used: list[Any]) -> str:
    return ", ".join(f"the {u.what} “{u.name}”" for u in used[:4]) + (
        f" and {len(used) - 4} more" if len(used) > 4 else ""
    )
