"""What people say when they make or change something here; the API reads it, actions take it."""

from typing import Literal

from ninja import Schema


class TaskIn(Schema):
    kind: Literal["restart", "wake", "uninstall", "update", "script"]
    filter: str = ""
    assets: list[int] = []
    product: int | None = None
    script: int | None = None
    why: str = ""
    expected: int | None = None


class ScriptIn(Schema):
    name: str
    platform: Literal["Linux", "macOS", "Windows"]
    text: str
    meaning: str = ""
    version: int = 0
