"""Asking another system: from a stored source to what it knows."""

from collections.abc import AsyncIterator
from typing import Any

from tarn.apps.people.actions.refusals import Invalid
from tarn.collect.credentials import Credential
from tarn.collect.routes import ROUTES
from tarn.collect.sources.finding import Finding
from tarn.collect.sources.kind import Asking, SettingError, SourceKind, kinds
from tarn.collect.sources.known import KnownDevices


def kind_of(name: Any) -> SourceKind:
    """Return a kind of source by its name. Raises Invalid."""
    if name not in kinds():
        raise Invalid("kind", f"“{name}” is no kind of source; one of: {', '.join(sorted(kinds()))}.")
    return kinds()[name]


def asked_at(kind: SourceKind, given: dict[str, Any]) -> str:
    """Return the host a source is asked at, empty for its maker's own service. Raises Invalid naming the setting."""
    try:
        return kind.host(kind.checked(given))
    except SettingError as error:
        raise _refused(error) from None


def _refused(error: SettingError) -> Invalid:
    return Invalid("credential" if error.name == "credential" else f"settings.{error.name}", str(error))


def findings(
    kind: str,
    given: dict[str, Any],
    credential: Credential | None,
    route: str,
    since: str = "",
    known: KnownDevices = KnownDevices(),  # noqa: B008  (frozen)
) -> AsyncIterator[Finding]:
    """Return what a source knows, a device at a time; `known`: for those that are asked about devices there are.

    Raises Invalid; Problem while it is asked.
    """
    try:
        return kind_of(kind).findings(given, Asking(ROUTES[route], credential, since, known))
    except SettingError as error:
        raise _refused(error) from None
