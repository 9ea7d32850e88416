"""Identifiers: what of a device tells it from others, brought to a form in which it can be compared."""

import re

from tarn.core.makers import normal
from tarn.core.sections import Identity
from tarn.core.text import fold

KINDS = ("tarn", "serial", "uuid", "instance", "own", "bare", "mac", "key", "name", "short")
"""Kinds of identifier, the strongest first. `own`: a number of the company's own, within its scheme; `bare`: a serial
number whatever its maker, for sources that do not tell the maker or spell it otherwise; `key`: a fingerprint the
device presents (host key, certificate); `short`: a name whatever its domain, for sources that do not tell it."""

STRONG = frozenset({"tarn", "serial", "uuid", "instance"})
"""Kinds that need no other beside them."""

SAYS = {
    "tarn": "the number Tarn issued",
    "serial": "serial number",
    "uuid": "hardware UUID",
    "instance": "instance id",
    "own": "company number",
    "bare": "serial number (its maker not told)",
    "mac": "hardware address",
    "key": "presented key",
    "name": "name and domain",
    "short": "name (its domain not told)",
}

_PLACEHOLDER = re.compile(
    r"^(to be filled.*|default string|not (specified|applicable|available)|none|n/?a|unknown|system "
    r"(serial number|product name|manufacturer)|o\.?e\.?m\.?|invalid|empty|chassis serial number|"
    r"base board serial number|[-._ 0]*|[x*#]+|1234567(8(9(0)?)?)?|0?123456789|(?P<c>.)(?P=c){3,})$"
)
_UUID = re.compile(r"^[0-9a-f]{8}(-?[0-9a-f]{4}){3}-?[0-9a-f]{12}$")
_DEFAULT_UUIDS = frozenset({"03000200040005000006000700080009", "00020003000400050006000700080009"})
_SHARED_ADAPTERS = ("00:00:5e:00:01:", "00:00:5e:00:02:")
"""Virtual router addresses (RFC 9568, section 7.3): they move between devices."""


class Identifier:
    """One identifier, normalised for comparison; `key` is the whole as one text, as it is indexed."""

    __slots__ = ("key", "kind", "value")

    def __init__(self, kind: str, value: str) -> None:
        self.kind, self.value = kind, value
        self.key = f"{kind}:{value}"

    def __repr__(self) -> str:
        return f"Identifier({self.key})"


def is_placeholder(value: str | None) -> bool:
    """Whether a maker left this in where a real value belongs."""
    return value is None or bool(_PLACEHOLDER.match(value.strip().lower()))


def stable_mac(mac: str) -> bool:
    """Whether a hardware address stays with one device.

    Locally administered and group addresses (IEEE 802-2014, 8.2) and virtual router
    addresses do not.
    """
    first = int(mac[:2], 16)
    return not first & 0x03 and not mac.startswith(_SHARED_ADAPTERS) and mac != "00:00:00:00:00:00"


def identifiers(identity: Identity) -> list[Identifier]:
    """Return what identifies the device, strongest first; placeholders are left out."""
    out: list[Identifier] = []
    bare = ""
    if identity.tarn:
        out.append(Identifier("tarn", identity.tarn.upper()))
    if not is_placeholder(identity.serial) and identity.serial and len(identity.serial.strip()) > 3:
        made_by = normal(identity.manufacturer or "")
        number = "".join(identity.serial.split()).upper()
        if made_by:
            out.append(Identifier("serial", f"{number}|{made_by}"))
        bare = number
    if identity.uuid:
        uuid = identity.uuid.strip().lower()
        plain = uuid.replace("-", "")
        if _UUID.match(uuid) and len(set(plain)) > 2 and plain not in _DEFAULT_UUIDS:
            out.append(Identifier("uuid", plain))
    if identity.instance:
        out.append(Identifier("instance", identity.instance))
    if identity.own_number:
        scheme = fold(identity.own_scheme or "company number")
        out.append(Identifier("own", f"{identity.own_number.strip().upper()}|{scheme}"))
    if bare:
        out.append(Identifier("bare", bare))
    out += [Identifier("mac", m) for m in dict.fromkeys(identity.macs) if stable_mac(m)]
    out += [Identifier("key", k) for k in dict.fromkeys(identity.keys)]
    if identity.name and fold(identity.name) not in ("localhost", "localhost.localdomain", "(none)"):
        short, _, rest = identity.name.partition(".")
        if domain := fold(identity.domain or rest):
            out.append(Identifier("name", f"{fold(short)}|{domain}"))
        out.append(Identifier("short", fold(short)))
    return out
