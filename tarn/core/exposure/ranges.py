"""Ranges of versions: where a weakness begins and where it is cured, by an ecosystem's own order."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from urllib.parse import unquote

from tarn.core.versions import ORDERS, VersionError, version_key


@dataclass(frozen=True, slots=True)
class Range:
    """Versions from `low` to `high`, "" for open ends. `low_in`, `high_in`: whether an end is within.

    `fixed`: `high` is a release that carries the cure, not only the last known to be without.
    """

    low: str = ""
    high: str = ""
    low_in: bool = True
    high_in: bool = False
    fixed: bool = False

    def holds(self, version: str, order: str) -> bool:
        """Whether a version lies within. Raises VersionError where it or an end is no version of the order."""
        at = version_key(version, order)
        if self.low and not self._above(at, version_key(self.low, order)):
            return False
        if not self.high:
            return True
        end = version_key(self.high, order)
        return at < end or (self.high_in and at == end)

    def _above(self, at: str, low: str) -> bool:
        return at > low or (self.low_in and at == low)

    def beyond(self, version: str, order: str) -> bool:
        """Whether a version lies past the upper end. Raises VersionError."""
        if not self.high:
            return False
        at, end = version_key(version, order), version_key(self.high, order)
        return at > end or (at == end and not self.high_in)

    def said(self) -> str:
        """Return the range in words."""
        low = f"{'from' if self.low_in else 'after'} {self.low}" if self.low else ""
        high = f"{'up to' if self.high_in else 'below'} {self.high}" if self.high else ""
        if self.low and self.low == self.high:
            return self.low
        return " ".join(p for p in (low, high) if p) or "every version"


def sound(ranges: Iterable[Range], order: str) -> None:
    """Raise VersionError where an end is no version of the order, or a range runs backwards."""
    for one in ranges:
        low = version_key(one.low, order) if one.low else ""
        high = version_key(one.high, order) if one.high else ""
        if low and high and low > high:
            raise VersionError(f"the range from {one.low} to {one.high} runs backwards.")


_SCHEMES = {"deb": "deb", "rpm": "rpm", "npm": "npm", "pypi": "pypi", "maven": "maven", "semver": "semver"}
_CONSTRAINT = re.compile(r"(<=|>=|!=|<|>|=)?\s*(.+)")


def read_vers(text: str) -> tuple[str, list[Range], list[str]]:
    """Return order, ranges and versions left out of a `vers:` text (the VERS specification, “A version range
    specifier”). Raises VersionError.

    >>> read_vers("vers:deb/>=9.2|<9.2p1-5")[0]
    'deb'
    """
    match = re.fullmatch(r"vers:([a-z0-9.+-]+)/(.+)", text.strip())
    if match is None:
        raise VersionError(f"“{text[:120]}” is no range of versions: vers:deb/>=1.0|<2.0 would be one.")
    order = _SCHEMES.get(match[1], "plain")
    if match[2] == "*":
        return order, [Range()], []
    ranges: list[Range] = []
    left_out: list[str] = []
    low: Range | None = None
    for constraint in match[2].split("|"):
        told = _CONSTRAINT.fullmatch(constraint.strip())
        if told is None:
            raise VersionError(f"“{text[:120]}”: “{constraint}” is no constraint.")
        sign, version = told[1] or "=", unquote(told[2])
        ORDERS[order](version)
        if sign == "!=":
            left_out.append(version)
        elif sign == "=":
            ranges.append(Range(version, version, high_in=True))
        elif sign in (">", ">="):
            if low is not None:
                ranges.append(low)
            low = Range(version, low_in=sign == ">=")
        else:
            begin = low or Range()
            ranges.append(Range(begin.low, version, begin.low_in, sign == "<=", fixed=sign == "<"))
            low = None
    if low is not None:
        ranges.append(low)
    if left_out and not ranges:
        ranges.append(Range())
    return order, ranges, left_out
