"""Versions as sortable keys: one order an ecosystem, each in its own file.

A version becomes one text that sorts, byte by byte, as versions do, so that a database can compare and index it. All
keys are of one alphabet, so that releases of one product that come by several ways stay in a sensible order; what
decides is the order of the system a version is of.
"""

from collections.abc import Callable
from functools import lru_cache

from tarn.core.versions import debian, maven, plain, pypi, rpm, semver, windows
from tarn.core.versions.keys import VersionError as VersionError

ORDERS: dict[str, Callable[[str], str]] = {
    "deb": debian.key,
    "rpm": rpm.key,
    "semver": semver.key,
    "pypi": pypi.key,
    "npm": semver.npm_key,
    "maven": maven.key,
    "windows": windows.key,
    "plain": plain.key,
}
"""The orders by name: each makes the key of a version, or raises VersionError where the text is none."""

SYSTEMS = ("deb", "rpm")
"""Systems of packages with a rule of their own for versions, the one believed first before the other."""


class Release(str):
    """A version's key by the plain rule; `written` has other keys by the rules of package systems."""

    written: str

    def __new__(cls, written: str) -> "Release":
        """Make it of a version as it is written."""
        made = super().__new__(cls, version_key(written))
        made.written = written
        return made


@lru_cache(maxsize=100_000)
def version_key(text: str, system: str = "") -> str:
    """Return the sort key of a version: keys compare as plain text, byte by byte.

    `system`: an order of ORDERS; empty for the plain one. Raises VersionError by an order that does not take any text.

    >>> version_key("10.2") > version_key("9.9")
    True
    >>> version_key("1.0~rc1") < version_key("1.0")
    True
    """
    return ORDERS[system or "plain"](text)


def compare(order: str, one: str, other: str) -> int:
    """Return -1, 0 or 1: how one version stands to another by an order. Raises VersionError, KeyError."""
    left, right = version_key(one, order), version_key(other, order)
    return (left > right) - (left < right)
