"""Where a call to another system may go: a name is looked up once, and the address dialled is the one checked."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from ipaddress import ip_address
from urllib.parse import urlsplit


class NotDialled(ValueError):
    """An address of the web that is not called; the message says why."""


@dataclass(frozen=True, slots=True)
class Dialled:
    """How a call is made: the URL with the address in place of the name, and the name for its head and for TLS."""

    url: str
    host: str
    server_name: str


def _forbidden(text: str) -> str:
    address = ip_address(text)
    mapped = getattr(address, "ipv4_mapped", None)
    address = mapped or address
    if address.is_loopback or address.is_unspecified:
        return "this machine itself"
    if address.is_link_local:
        return "a link-local address, where services of the machine listen (RFC 3927)"
    return "no address of one machine" if address.is_multicast or address.is_reserved else ""


def dialled(url: str, allowed: Iterable[str], look_up: Callable[[str, int], list[str]]) -> Dialled:
    """Return how an address of the web is called. Raises NotDialled.

    `allowed`: hosts that may be called in clear text and on this machine all the same, by name. `look_up` gives the
    addresses of a name and port; the first counts, and all have to be harmless, so that no later answer of the name
    service leads elsewhere than was checked.
    """
    try:
        parts = urlsplit(url)
        port = parts.port or (443 if parts.scheme == "https" else 80)
    except ValueError as error:
        raise NotDialled(f"“{url}” is no address of the web: {error}.") from None
    host = (parts.hostname or "").lower()
    if parts.scheme not in ("https", "http") or not host or parts.username or parts.password:
        raise NotDialled(f"“{url}” is no address of the web: write https://, a host and a path, without a password.")
    free = host in {a.lower() for a in allowed}
    if parts.scheme == "http" and not free:
        raise NotDialled(f"{host} would be called in clear text; use https, or have it allowed by name.")
    found = look_up(host, port)
    if not found:
        raise NotDialled(f"The name {host} leads nowhere.")
    if not free and (why := next((w for w in map(_forbidden, found) if w), "")):
        raise NotDialled(f"{host} leads to {why}; have it allowed by name if that is meant.")
    at = f"[{found[0]}]" if ":" in found[0] else found[0]
    rest = parts._replace(netloc=f"{at}:{port}").geturl()
    return Dialled(rest, parts.netloc, host)
