"""Live blocks: what each kind shows, what it has to be told, and how what it was filled with is kept."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

from typing_extensions import TypedDict

SettingKind = Literal["report", "filter", "service", "place", "asset", "text", "number", "paper"]
MOST_ROWS = 2_000
"""Rows a live block holds; what is more is said."""


class LiveError(ValueError):
    """A live block that is told something wrong; `field` says what."""

    def __init__(self, field: str, message: str) -> None:
        self.field = field
        super().__init__(message)


@dataclass(frozen=True, slots=True)
class LiveSetting:
    """Something a live block is told: by a word people choose or write."""

    name: str
    label: str
    kind: SettingKind
    needed: bool = False


@dataclass(frozen=True, slots=True)
class LiveKind:
    """A kind of live block."""

    label: str
    what: str
    settings: tuple[LiveSetting, ...] = ()


_TITLE = LiveSetting("title", "Heading", "text")
_MOST = LiveSetting("most", "Rows at most", "number")
LIVE: dict[str, LiveKind] = {
    "report": LiveKind(
        "Rows of a report", "any report, as of the day of issue",
        (_TITLE, LiveSetting("report", "Report", "report", True), _MOST),
    ),
    "devices": LiveKind(
        "Devices", "those that answer a question",
        (_TITLE, LiveSetting("filter", "Question", "filter", True), LiveSetting("columns", "Columns", "text"), _MOST),
    ),
    "figure": LiveKind(
        "A figure", "how many devices answer a question",
        (_TITLE, LiveSetting("filter", "Question", "filter"), LiveSetting("words", "In words", "text")),
    ),
    "services": LiveKind("Services by promise", "which comes back first, and who looks after it", (_TITLE,)),
    "stands": LiveKind(
        "What it stands on", "of a service: what must be up before it",
        (_TITLE, LiveSetting("service", "Service", "service", True)),
    ),
    "ports": LiveKind("Ports and links", "of a place", (_TITLE, LiveSetting("place", "Place", "place"), _MOST)),
    "subnets": LiveKind("Networks", "of a place, or all of them", (_TITLE, LiveSetting("place", "Place", "place"))),
    "people": LiveKind(
        "People to call", "by service", (_TITLE, LiveSetting("service", "Service", "service"))
    ),
    "changes": LiveKind(
        "What changed", "since the last issue",
        (_TITLE, LiveSetting("filter", "Question", "filter"), _MOST),
    ),
    "plate": LiveKind(
        "An asset’s plate", "what it is, and where", (_TITLE, LiveSetting("asset", "Asset", "asset", True))
    ),
}  # fmt: skip
"""The kinds of live blocks, in the order they are offered."""


def checked_settings(kind: str, said: Mapping[str, Any]) -> dict[str, Any]:
    """Return what a live block is told, read. Raises LiveError."""
    known = {s.name: s for s in LIVE[kind].settings}
    out: dict[str, Any] = {}
    for name, value in said.items():
        setting = known.get(name)
        if setting is None:
            raise LiveError(str(name)[:40], f"“{LIVE[kind].label}” is told nothing of “{str(name)[:40]}”.")
        if value in (None, ""):
            continue
        if setting.kind in ("number", "paper"):
            if not isinstance(value, int) or isinstance(value, bool) or not 0 < value <= 10**9:
                raise LiveError(name, f"{setting.label} has to be a number above 0.")
        elif not isinstance(value, str) or len(value) > 4_000:
            raise LiveError(name, f"{setting.label} has to be text of at most 4,000 characters.")
        out[name] = value
    return out


class Filled(TypedDict):
    """What a live block was filled with: a table, facts, a figure or words; `trouble`: why it could not be; `note`: of
    what and of which day it is; `cut`: how many rows there are beside those kept."""

    title: str
    shape: Literal["table", "facts", "figure", "words"]
    note: str
    columns: list[str]
    rows: list[list[str]]
    figure: str
    cut: int
    trouble: str


def empty(title: str, shape: Literal["table", "facts", "figure", "words"] = "words", *, trouble: str = "") -> Filled:
    """Return a block that holds nothing yet."""
    return {
        "title": title,
        "shape": shape,
        "note": "",
        "columns": [],
        "rows": [],
        "figure": "",
        "cut": 0,
        "trouble": trouble,
    }
