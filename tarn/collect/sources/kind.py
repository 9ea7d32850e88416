"""What a kind of source is: how it is asked, what its settings are, and what they must keep to.

Each is declared once, in the file that reads it; the form, the checks and the choices of the screen follow from that.
"""

import importlib
import pkgutil
from collections.abc import AsyncIterator, Callable
from dataclasses import dataclass, field, fields
from functools import cache
from types import NoneType
from typing import Any, Literal
from urllib.parse import urlsplit

from pydantic import TypeAdapter, ValidationError

from tarn.collect.credentials import Credential
from tarn.collect.routes import Route
from tarn.collect.sources.finding import Finding
from tarn.collect.sources.known import KnownDevices


class SettingError(ValueError):
    """A setting a source cannot be asked with; `name` says which, `credential` being what it is asked with."""

    def __init__(self, name: str, message: str) -> None:
        self.name = name
        super().__init__(message)


@dataclass(frozen=True, slots=True)
class Setting:
    """One line of the form. `needed`: what is said where it is empty; empty where it may be. `usual`: what it begins
    with. `options`: of a choice; `least` and `most`: of a number."""

    name: str
    label: str
    type: Literal["text", "number", "choice"] = "text"
    needed: str = ""
    usual: str | int = ""
    options: tuple[str, ...] = ()
    least: int = 0
    most: int = 1_000_000


def base(label: str = "Address of the service") -> Setting:
    """Return the setting that says where a service over HTTP is."""
    return Setting("base", label, needed="Say where the service is, such as https://people.example/api.")


CERTIFICATE = Setting("certificate", "Key of its certificate, where no authority signed it")


def read_settings(name: str, shape: type, form: tuple[Setting, ...], given: dict[str, Any]) -> Any:
    """Return what was given as a dataclass of settings, held against its form. Raises SettingError."""
    if unknown := set(given) - {f.name for f in fields(shape)}:
        raise SettingError(min(unknown), f"A {name} source has no setting “{min(unknown)}”.")
    for setting in form:
        value = given.get(setting.name, setting.usual)
        if setting.needed and value in ("", None):
            raise SettingError(setting.name, setting.needed)
        if setting.options and value not in setting.options:
            raise SettingError(setting.name, f"“{value}” is none of: {', '.join(setting.options)}.")
    try:
        made: Any = TypeAdapter(shape).validate_python(given)
    except ValidationError as wrong:
        first = wrong.errors()[0]
        place = ".".join(str(part) for part in first["loc"])
        raise SettingError(str(first["loc"][0]), f"The setting “{place}”: {first['msg']}.") from None
    for setting in form:
        if setting.type == "number" and not setting.least <= getattr(made, setting.name) <= setting.most:
            bounds = f"{setting.least:,} to {setting.most:,}"
            said = f"{setting.label}: {getattr(made, setting.name):,} is out of bounds, {bounds}."
            raise SettingError(setting.name, said)
    return made


@dataclass(frozen=True, slots=True)
class Asking:
    """With what a source is asked: over which route, with which credential, since when ("" for all), and what of the
    devices there are it is asked about."""

    route: Route
    credential: Any
    since: str = ""
    known: KnownDevices = field(default_factory=KnownDevices)


@dataclass(frozen=True)
class SourceKind:
    """A kind of source. `settings`: the dataclass its reader takes; `form`: the settings that are asked for, in order;
    `read` yields what it knows, a device or person at a time.

    `credential`: the class it is asked with, `protocol` as people know it, both empty where it takes none; `must` is
    said where there is none, empty where it may be asked without. `host_in`: the setting that holds its address.
    `about`: it is asked about devices of the register and brings none. `mapped`: its fields are put to ours by a
    mapping; `prepared`: some made ready.
    `check` raises SettingError for what a form cannot say.
    """

    name: str
    collector: str
    text: str
    settings: type
    form: tuple[Setting, ...]
    read: Callable[[Any, Asking], AsyncIterator[Finding]]
    credential: type = NoneType
    protocol: str = ""
    must: str = ""
    host_in: str = "base"
    about: bool = False
    mapped: bool = False
    prepared: dict[str, dict[str, Any]] = field(default_factory=dict)
    check: Callable[[Any], None] = lambda settings: None

    def checked(self, given: dict[str, Any]) -> Any:
        """Return settings as the reader takes them. Raises SettingError."""
        made = read_settings(self.name, self.settings, self.form, given)
        self.check(made)
        return made

    def host(self, settings: Any) -> str:
        """Return the host it is asked at, for checked settings; empty where that is its maker's own service."""
        address = str(getattr(settings, self.host_in) or "")
        return (urlsplit(address).hostname or "") if "://" in address else address

    def findings(self, given: dict[str, Any], asking: Asking) -> AsyncIterator[Finding]:
        """Return what a source knows, a device or person at a time. Raises SettingError; Problem while it is asked."""
        credential: Credential | None = asking.credential
        if (credential is None and self.must) or (
            credential is not None and not isinstance(credential, self.credential)
        ):
            said = self.must or f"A {self.name} is asked with a credential of {self.protocol}, or with none."
            if not self.protocol:
                said = f"A {self.name} is asked without a credential."
            raise SettingError("credential", said)
        return self.read(self.checked(given), asking)


@cache
def kinds() -> dict[str, SourceKind]:
    """Return the kinds of source by name: all that the files beside this one declare as KINDS."""
    package = importlib.import_module("tarn.collect.sources")
    found: dict[str, SourceKind] = {}
    for module_info in pkgutil.iter_modules(package.__path__):
        for kind in getattr(importlib.import_module(f"{package.__name__}.{module_info.name}"), "KINDS", ()):
            found[kind.name] = kind
    return dict(sorted(found.items(), key=lambda kind: (kind[1].about, kind[0])))
