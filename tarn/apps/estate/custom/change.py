"""Making, changing and dropping fields and kinds of the company's own. Values stay in the evidence throughout."""

import dataclasses
import time
from typing import Any

from django.db import transaction

from tarn.apps.estate.asking.uses import uses_of
from tarn.apps.estate.custom.fields import assets_by_kind, fields, kinds, refresh, values_held
from tarn.apps.estate.custom.inputs import OwnFieldIn, OwnKindIn
from tarn.apps.estate.models import OwnField as HeldField
from tarn.apps.estate.models import OwnKind as HeldKind
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid, once, require_version
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.roles import require
from tarn.core.kinds import KINDS
from tarn.core.own import PREFIX, OwnError, OwnField, OwnKind, check_field, checked_name, lineage, pieces, read_own
from tarn.core.text import fold

_FIELD = tuple(f.name for f in dataclasses.fields(OwnField))


def _record(
    user: Any, done: str, of: str, held: HeldField | HeldKind, detail: dict[str, Any], before: dict[str, Any]
) -> None:
    """Write what was done to a field or kind into the audit trail, with what makes it as it was before."""
    undo = {"action": "own", "of": of, "id": held.pk, "as": before}
    record(user, f"{done} a {of}", held.name, detail=detail, undo=undo)


def _fresh(held: HeldField | HeldKind, data: OwnFieldIn | OwnKindIn) -> None:
    """Raise Stale unless an edit was made from the version held."""
    require_version(held, data.version, f"“{held.name}”", {"name": held.name, "version": held.version})


def _set(held: HeldField | HeldKind, values: dict[str, Any]) -> dict[str, Any]:
    """Give a field or kind these values as its next version; return those it had. It is not saved yet."""
    before = {name: getattr(held, name) for name in values}
    for name, value in values.items():
        setattr(held, name, value)
    held.version += 1
    return before


def _change(user: Any, of: str, held: HeldField | HeldKind, values: dict[str, Any]) -> None:
    before = _set(held, values)
    held.save()
    _record(user, "changed", of, held, {"from": before, "to": values}, before)


def _drop(user: Any, of: str, held: HeldField | HeldKind, detail: dict[str, Any]) -> None:
    before = _set(held, {"dropped_at": int(time.time())})
    held.save(update_fields=["dropped_at", "version"])
    _record(user, "dropped", of, held, detail, before)


def _field_values(data: OwnFieldIn) -> dict[str, Any]:
    try:
        made = OwnField(
            checked_name(data.name, "field"),
            data.type,
            data.unit.strip()[:20],
            tuple(dict.fromkeys(c.strip() for c in data.choices if c.strip())),
            data.help.strip()[:300],
            data.group.strip()[:60],
            data.required,
            tuple(data.kinds or ()),
            data.position,
            data.many,
            " ".join(data.template.split())[:300] if data.type == "made of others" else "",
            data.listed,
        )
        check_field(made)
    except OwnError as error:
        raise Invalid(error.field, str(error)) from None
    known = {*KINDS, *(k.name for k in kinds())}
    if unknown := [k for k in made.kinds if k not in known]:
        raise Invalid("kinds", f"There is no kind “{unknown[0]}”.")
    return {f: list(v) if isinstance(v := getattr(made, f), tuple) else v for f in _FIELD}


def make_field(user: Any, data: OwnFieldIn) -> HeldField:
    """Make a field. Raises Invalid."""
    require(user, "plan")
    values = _field_values(data)
    if any(fold(f.name) == fold(values["name"]) for f in fields()):
        raise Invalid("name", f"There is a field “{values['name']}” already.")
    with once("name", f"There is a field “{values['name']}” already."):
        made = HeldField.objects.create(**values)
        _record(user, "made", "field", made, values, {"dropped_at": int(time.time())})
    refresh()
    return made


def would_lose(data: dict[str, Any]) -> list[tuple[str, int]]:
    """Return the values held of a field that it could not hold as described, each with on how many assets."""
    described: dict[str, Any] = {k: tuple(v) if isinstance(v, list) else v for k, v in data.items() if k in _FIELD}
    wanted = OwnField(**described)
    out = []
    for value, assets in values_held(wanted.name).items():
        try:
            # A day is held as seconds since 1970; as any other type it is read from its text.
            read_own(wanted, value if wanted.type in ("yes/no", "date") else str(value))
        except OwnError:
            out.append((str(value), assets))
    return out


def change_field(user: Any, number: int, data: OwnFieldIn) -> HeldField:
    """Change a field, made from the version it was read at; its name stays. Raises Invalid, Stale, DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        held_field = HeldField.objects.get(pk=number, dropped_at=None)
        _fresh(held_field, data)
        values = _field_values(data.model_copy(update={"name": held_field.name}))
        lost = would_lose(values)
        if lost and not data.anyway:
            listed = ", ".join(f"“{v}” on {n}" for v, n in lost[:4])
            raise Invalid(
                "type", f"{sum(n for _, n in lost)} values would not fit: {listed}. They would be kept unseen."
            )
        _change(user, "field", held_field, values)
    refresh()
    return held_field


def drop_field(user: Any, number: int) -> None:
    """Drop a field: its values stay in the evidence and come back with it. Raises Invalid, DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        held_field = HeldField.objects.get(pk=number, dropped_at=None)
        if uses := uses_of(field=f"{PREFIX}{held_field.name}"):
            raise Invalid(
                "name", f"The {uses[0].what} “{uses[0].name}” asks for “{held_field.name}”; change that first."
            )
        if made := [
            f.name for f in fields() if f.template and f"{PREFIX}{held_field.name}" in {n for _, n in pieces(f)}
        ]:
            raise Invalid("name", f"The field “{made[0]}” is made of “{held_field.name}”; change that first.")
        _drop(user, "field", held_field, {"values": sum(values_held(held_field.name).values())})
    refresh()


def _kind_values(data: OwnKindIn) -> dict[str, Any]:
    try:
        name = checked_name(data.name, "kind").lower()
        values: dict[str, Any] = {
            "name": name,
            "parent": data.parent.strip(),
            "icon": data.icon.strip()[:20],
            "names": {k: v.strip() for k, v in data.names.items() if v.strip()},
            "hidden": list(data.hidden),
        }
        known = {*KINDS, *(k.name for k in kinds())}
        if values["parent"] and values["parent"] not in known:
            raise OwnError("parent", f"There is no kind “{values['parent']}” to stand below.")
        others = [k for k in kinds() if k.name != name]
        taken = {fold(word): k.name for k in others for word in (k.name, *k.names)} | {fold(k): k for k in KINDS}
        for word in values["names"].values():
            if (other := taken.get(fold(word))) is not None and fold(word) != fold(name):
                raise OwnError("names", f"“{word}” is what the kind “{other}” is called already.")
        lineage(name, [*others, OwnKind(name, values["parent"])])
    except OwnError as error:
        raise Invalid(error.field, str(error)) from None
    return values


def make_kind(user: Any, data: OwnKindIn) -> HeldKind:
    """Make a kind. Raises Invalid."""
    require(user, "plan")
    values = _kind_values(data)
    if values["name"] in KINDS:
        raise Invalid("name", f"“{values['name']}” is a kind that Tarn brings along.")
    with once("name", f"There is a kind “{values['name']}” already."):
        made = HeldKind.objects.create(**values)
        _record(user, "made", "kind", made, values, {"dropped_at": int(time.time())})
    refresh()
    return made


def change_kind(user: Any, number: int, data: OwnKindIn) -> HeldKind:
    """Change a kind, made from the version it was read at; its name stays. Raises Invalid, Stale, DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        held_kind = HeldKind.objects.get(pk=number, dropped_at=None)
        _fresh(held_kind, data)
        _change(user, "kind", held_kind, _kind_values(data.model_copy(update={"name": held_kind.name})))
    refresh()
    return held_kind


def drop_kind(user: Any, number: int) -> None:
    """Drop a kind that nothing is of. Raises Invalid, DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        held_kind = HeldKind.objects.get(pk=number, dropped_at=None)
        if assets := assets_by_kind().get(held_kind.name, 0):
            raise Invalid("name", f"{assets} assets are of the kind “{held_kind.name}”; give them another first.")
        if below := [k.name for k in kinds() if k.parent == held_kind.name]:
            raise Invalid("name", f"“{below[0]}” stands below it; move that first.")
        _drop(user, "kind", held_kind, {})
    refresh()


@undoer("own", needs="plan")
def _undo(user: Any, inverse: dict[str, Any]) -> dict[str, Any]:
    held = (HeldField if inverse["of"] == "field" else HeldKind).objects.get(pk=inverse["id"])
    before = _set(held, inverse["as"])
    with once("name", f"There is another “{held.name}” by now."):
        held.save()
    refresh()
    return {**inverse, "as": before}
