"""Span tables of the sections that are lists, made from the one table of sections in the core."""

import types
import typing
from typing import Any

from django.db import models

from tarn.core.sections import ITEMS, KEYS


def _column(annotation: Any) -> Any:
    """Return the database column for an attribute of an item."""
    if typing.get_origin(annotation) in (typing.Union, types.UnionType):
        inner = [a for a in typing.get_args(annotation) if a is not type(None)]
        return _column(inner[0])
    if typing.get_origin(annotation) is typing.Annotated:
        return _column(typing.get_args(annotation)[0])
    if annotation is bool:
        return models.BooleanField(null=True)
    if annotation is int:
        return models.BigIntegerField(null=True)
    return models.TextField(null=True)


def _make(section: str) -> type[models.Model]:
    singular = section.title()
    name = f"{singular}Span"
    attributes: dict[str, Any] = {
        "__module__": __name__,
        "__doc__": f"An item of the section “{section}” on an asset, from when to when, says a source.",
        "asset": models.ForeignKey(
            "estate.Asset", models.CASCADE, db_index=False, db_constraint=False, related_name="+"
        ),
        "source": models.ForeignKey(
            "estate.Source", models.PROTECT, db_index=False, db_constraint=False, related_name="+"
        ),
        "valid_from": models.BigIntegerField(),
        "valid_to": models.BigIntegerField(null=True),
        "initial": models.BooleanField(),
    }
    hints = typing.get_type_hints(ITEMS[section])
    indexes = [
        models.Index(fields=["asset", "valid_to"], condition=models.Q(valid_to__isnull=False), name=f"{section}_closed")
    ]
    for column in ITEMS[section].model_fields:
        attributes[column] = _column(hints[column])
        if column == "address":
            attributes["address_key"] = models.TextField(null=True)
            indexes.append(
                models.Index(
                    fields=["address_key"], condition=models.Q(valid_to__isnull=True), name=f"{section}_open_address"
                )
            )
    constraint = models.UniqueConstraint(
        fields=["asset", "source", *KEYS[section]],
        condition=models.Q(valid_to__isnull=True),
        name=f"{section}_open_once",
    )
    attributes["Meta"] = type("Meta", (), {"constraints": [constraint], "indexes": indexes, "app_label": "estate"})
    return type(name, (models.Model,), attributes)


ITEM_MODELS: dict[str, type[models.Model]] = {s: _make(s) for s in ITEMS if s != "packages"}


def span_model(group: str) -> type[models.Model]:
    """Return the span table behind a list of the filter registry."""
    from tarn.apps.estate.models.software import InstallSpan

    return InstallSpan if group == "software" else ITEM_MODELS[group]
