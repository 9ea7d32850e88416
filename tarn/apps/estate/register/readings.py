"""Which sections were ever read of which devices, so that what nobody has looked at is not called missing."""

import json
from collections.abc import Iterable

from tarn.apps.estate.asking.places import ever_read
from tarn.apps.estate.store.database import raw_connection
from tarn.core.fields import FIELDS
from tarn.core.filters.check import Checked, Cond, Either, Every, Member, Number, RelatedTo, Some, Without
from tarn.core.sections import FACTS

_OF_GROUP = {"software": "packages", "vulnerability": "packages"}
_OF_CLAIM = {field: section for section, facts in FACTS.items() for field in facts.model_fields}


def sections_of(checked: Checked) -> set[str]:
    """Return the sections of evidence a filter rests on; fields that people decide rest on none."""
    match checked:
        case Every(items) | Either(items):
            return {s for i in items for s in sections_of(i)}
        case Without(item) | Member(_, item) | RelatedTo(other=item):
            return sections_of(item)
        case Some(group, _):
            return {_OF_GROUP.get(group, group)}
        case Number():
            return {_OF_GROUP.get(checked.group, checked.group)}
        case Cond(field) if field.name in FIELDS:
            name = field.stored.partition(".")[2]
            section = _OF_CLAIM.get(name, "")
            return {section} if section and section not in ("decision", "placement") else set()
    return set()


def never_read(assets: Iterable[int], sections: set[str], at: int | None) -> set[int]:
    """Return those of these assets of which at least one of these sections was never read, up to a moment."""
    wanted, db = set(assets), raw_connection()
    out: set[int] = set()
    if not wanted:
        return out
    listed = json.dumps(sorted(wanted))
    for section in sorted(sections):
        read = ever_read(section, at)
        mine = "r.asset_id IN (SELECT value FROM json_each(?))"
        out |= wanted - {a for (a,) in db.execute(f"{read.text} AND {mine}", [*read.values, listed])}
    return out
