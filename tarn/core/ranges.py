"""Address ranges as people write them, and addresses as sortable keys."""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from ipaddress import IPv4Address, IPv6Address, ip_address, ip_network

MOST_ADDRESSES = 1 << 17
"""How many addresses one sweep may name: a /15. More is nearly always a slip of the pen."""


ALL_THERE_ARE = 1 << 160
"""A bound for ranges that are only asked whether they hold an address: more than any number of them holds."""


class RangeError(ValueError):
    """A range that cannot be read or is too large; the message names it and says why."""


@dataclass(frozen=True, slots=True)
class AddressRange:
    """An unbroken run of addresses, both ends in, with the text it was written as."""

    first: IPv4Address | IPv6Address
    last: IPv4Address | IPv6Address
    text: str

    @property
    def size(self) -> int:
        """How many addresses it holds: more, in IPv6, than Python's `len` can say."""
        return int(self.last) - int(self.first) + 1

    def __contains__(self, address: object) -> bool:
        return (
            isinstance(address, IPv4Address | IPv6Address)
            and address.version == self.first.version
            and int(self.first) <= int(address) <= int(self.last)
        )

    def __iter__(self) -> Iterator[IPv4Address | IPv6Address]:
        make = type(self.first)
        for number in range(int(self.first), int(self.last) + 1):
            yield make(number)


_SHORT_LAST = re.compile(r"^\d{1,3}$")


def parse_range(text: str) -> AddressRange:
    """Read one range: an address, CIDR (RFC 4632), or `first-last` (last may be its final part alone).

    Raises RangeError with the text and what was expected.
    """
    text = text.strip()
    try:
        if "/" in text:
            net = ip_network(text, strict=True)
            return AddressRange(net.network_address, net.broadcast_address, text)
        if "-" in text:
            left, right = (part.strip() for part in text.split("-", 1))
            first = ip_address(left)
            if _SHORT_LAST.match(right) and first.version == 4:
                right = left.rsplit(".", 1)[0] + "." + right
            last = ip_address(right)
            if first.version != last.version:
                raise RangeError(f"“{text}” mixes IPv4 and IPv6: both ends must be of one family.")
            if int(last) < int(first):
                raise RangeError(f"“{text}” ends before it begins: write the lower address first.")
            return AddressRange(first, last, text)
        one = ip_address(text)
        return AddressRange(one, one, text)
    except RangeError:
        raise
    except ValueError as error:
        reason = str(error)
        if "host bits set" in reason:
            net = ip_network(text, strict=False)
            raise RangeError(f"“{text}” is not the start of its network: did you mean {net}?") from None
        raise RangeError(
            f"“{text}” is not an address range: write an address, a network such as 10.60.4.0/24, "
            "or two addresses joined by a hyphen."
        ) from None


def parse_ranges(lines: list[str], most: int = MOST_ADDRESSES) -> list[AddressRange]:
    """Read a list of ranges; entries may hold several, parted by commas or white space.

    Raises RangeError naming the first entry that is wrong, or the total where it exceeds `most`.
    """
    ranges = []
    for line in lines:
        joined = re.sub(r"\s*-\s*", "-", line)
        for word in re.split(r"[,;\s]+", joined.strip()):
            if word:
                ranges.append(parse_range(word))
    total = sum(r.size for r in ranges)
    if total > most:
        widest = max(ranges, key=lambda r: r.size)
        raise RangeError(
            f"These ranges hold {total:,} addresses, over the {most:,} one sweep may have; "
            f"the widest is “{widest.text}”. Split it, or name the networks in use."
        )
    return ranges


def expand(ranges: list[AddressRange], exclusions: list[AddressRange]) -> tuple[list[str], dict[str, str]]:
    """Return the addresses to probe, in order, and those left out with what leaves each out.

    Exclusions always win; the text of the first that holds an address is its reason. In an IPv4
    network of /30 or wider written as CIDR the network and broadcast addresses are nobody's
    (RFC 1122, section 3.2.1.3): their reason is empty.
    """
    probe: dict[IPv4Address | IPv6Address, None] = {}
    left: dict[IPv4Address | IPv6Address, str] = {}
    for r in ranges:
        edges = (r.first, r.last) if "/" in r.text and r.first.version == 4 and r.size > 2 else ()
        near = [x for x in exclusions if x.first.version == r.first.version and x.first <= r.last and x.last >= r.first]  # type: ignore[operator]
        for address in r:
            by = next((x for x in near if address in x), None)
            if by is not None:
                left[address] = by.text
            elif address in edges:
                left.setdefault(address, "")
            else:
                probe[address] = None
    for address in probe:
        left.pop(address, None)
    order = sorted(probe, key=lambda a: (a.version, int(a)))
    out = sorted(left, key=lambda a: (a.version, int(a)))
    return [str(a) for a in order], {str(a): left[a] for a in out}


def address_key(text: str) -> str:
    """Return 32 hexadecimal digits that sort as addresses do; IPv4 as mapped (RFC 4291, 2.5.5.2).

    Raises ValueError where `text` is no address.
    """
    address = ip_address(text.split("%")[0])
    number = int(address) | (0xFFFF << 32) if address.version == 4 else int(address)
    return f"{number:032x}"


def hardware_address(text: str) -> str:
    """Return a hardware address, or a piece of one, as Tarn writes it (`3c:52:82`): its digits in pairs, whatever parts
    them in the text."""
    digits = re.sub("[^0-9a-f]", "", text.lower())
    return ":".join(digits[i : i + 2] for i in range(0, len(digits), 2))


def keys_in(text: str) -> list[tuple[str, str]]:
    """Return the lowest and highest key of each address and network that stands in a text, such as an address block.

    An address with its mask (`10.60.4.9/24`) is that address; the start of a network (`10.60.4.0/24`) all of it.
    """
    out = []
    for word in re.split(r"[\s,;]+", text):
        try:
            out.append(range_keys(word))
        except RangeError:
            try:
                out.append((address_key(word.split("/")[0]),) * 2)
            except ValueError:
                continue
    return out


def range_keys(text: str) -> tuple[str, str]:
    """Return the lowest and the highest key of a range. Raises RangeError."""
    r = parse_range(text)
    return address_key(str(r.first)), address_key(str(r.last))
