"""Where a credential may be used: addresses and networks, and hosts by name."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from ipaddress import ip_address

from tarn.core.ranges import AddressRange, RangeError, parse_range

_HOST = re.compile(r"^(?=.{1,253}$)[a-z0-9_]([a-z0-9_-]{0,62})(\.[a-z0-9_]([a-z0-9_-]{0,62}))*$")
"""A name of a host (RFC 1123, 2.1), in small letters."""


class ReachError(ValueError):
    """An entry that names no place; the message says which."""


@dataclass(frozen=True, slots=True)
class Reach:
    """Ranges of addresses, and hosts by the name they are asked for under."""

    ranges: tuple[AddressRange, ...]
    hosts: frozenset[str]

    def holds(self, host: str) -> bool:
        """Whether something at this address, or asked for under this name, lies within."""
        try:
            address = ip_address(host.strip("[]"))
        except ValueError:
            return host.lower().rstrip(".") in self.hosts
        return any(address in r for r in self.ranges)

    def within(self, other: "Reach") -> bool:
        """Whether all of it lies in another reach, each range in one of its ranges."""
        return self.hosts <= other.hosts and all(
            any(r.first in o and r.last in o for o in other.ranges) for r in self.ranges
        )

    def meets(self, other: AddressRange) -> bool:
        """Whether any address of a range lies within."""
        return any(
            r.first.version == other.first.version
            and int(r.first) <= int(other.last)
            and int(other.first) <= int(r.last)
            for r in self.ranges
        )

    @property
    def wide(self) -> str:
        """The first entry that is of more than one host, or nothing."""
        return next((r.text for r in self.ranges if r.size > 1), "")


def written(entries: Iterable[str]) -> tuple[str, ...]:
    """Return entries one by one as they are kept: parted by commas or white space, each once, in small letters."""
    words = (w for e in entries for w in re.split(r"[,;\s]+", re.sub(r"\s*-\s*", "-", e).strip()) if w)
    return tuple(dict.fromkeys(w.lower().rstrip(".") for w in words))


@lru_cache(maxsize=1_000)
def read_reach(entries: tuple[str, ...]) -> Reach:
    """Read a reach from its entries, as `written` gives them. Raises ReachError."""
    ranges, hosts = [], set()
    for entry in entries:
        numeric = bool(re.fullmatch(r"[0-9a-f:.]+([/-][0-9a-f:.]+)?", entry)) and any(c in entry for c in ".:")
        if _HOST.match(entry) and not (numeric and re.fullmatch(r"[0-9.]+([/-][0-9.]+)?", entry)):
            hosts.add(entry)
            continue
        try:
            ranges.append(parse_range(entry))
        except RangeError as error:
            if numeric:
                raise ReachError(str(error)) from None
            raise ReachError(f"“{entry}” is neither an address, a network nor the name of a host.") from None
    return Reach(tuple(ranges), frozenset(hosts))
