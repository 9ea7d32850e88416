"""What a kind of feed is: its settings, declared once, and what opens its files."""

import importlib
import pkgutil
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import cache
from typing import IO, Any

from tarn.collect.routes import Route
from tarn.collect.sources.kind import Setting, read_settings

Opened = tuple[str, IO[bytes]]
"""A file of a feed: its name, and its octets. It is closed by who opened it, when the next is asked for."""


@dataclass(frozen=True, slots=True)
class Fetching:
    """How a feed is fetched: over which route, and what it remembers (`state`, which what is fetched changes)."""

    route: Route
    state: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class FeedKind:
    """A kind of feed. `read` yields its files that may be new, one after the other; it raises Problem.

    `check` raises SettingError for what a form cannot say.
    """

    name: str
    text: str
    settings: type
    form: tuple[Setting, ...]
    read: Callable[[Any, Fetching], Iterator[Opened]]
    check: Callable[[Any], None] = lambda settings: None

    def checked(self, given: dict[str, Any]) -> Any:
        """Return settings as the reader takes them. Raises SettingError."""
        made = read_settings(self.name, self.settings, self.form, given)
        self.check(made)
        return made


@cache
def feed_kinds() -> dict[str, FeedKind]:
    """Return the kinds of feed by name: all that the files beside this one declare as KINDS."""
    package = importlib.import_module("tarn.collect.feeds")
    found: dict[str, FeedKind] = {}
    for info in pkgutil.iter_modules(package.__path__):
        for kind in getattr(importlib.import_module(f"{package.__name__}.{info.name}"), "KINDS", ()):
            found[kind.name] = kind
    return dict(sorted(found.items()))
