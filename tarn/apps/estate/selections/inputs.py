"""What people say when they make or change something here; the API reads it, actions take it."""

from typing import Literal

from ninja import Schema


class PhraseIn(Schema):
    name: str
    meaning: str = ""
    values: list[str]


class SetIn(Schema):
    name: str
    filter: str = ""
    kind: Literal["live", "picked", "address"] = "live"
    assets: list[int] = []
    picked: str = ""
    ranges: list[str] = []
    folder: str = ""
    note: str = ""
    access: Literal["all", "read", "own"] = "all"
    version: int | None = None
