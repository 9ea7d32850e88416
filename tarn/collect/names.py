"""Names of addresses and addresses of names (RFC 1035), asked of the name service of a route."""

import os

import dns.asyncresolver
import dns.exception
import dns.resolver
import dns.reversename

from tarn.collect.problems import Problem
from tarn.collect.routes import Route

LAB_NAME_SERVER = os.environ.get("TARN_NAME_SERVER", "10.60.4.53")
"""The name server of the company as the lab route reaches it; the direct route asks the system's own."""


def _resolver(route: Route, seconds: float) -> dns.asyncresolver.Resolver:
    if route.aboard is not None:
        made = dns.asyncresolver.Resolver(configure=False)
        host, port = route.dial(LAB_NAME_SERVER, 53)
        made.nameservers, made.port = [host], port
    else:
        made = dns.asyncresolver.Resolver()
    made.lifetime = made.timeout = seconds
    return made


async def name_of(route: Route, address: str, seconds: float = 2.0) -> str:
    """Return the name an address has (PTR), or "". Raises Problem where no name server answers."""
    try:
        found = await _resolver(route, seconds).resolve(dns.reversename.from_address(address), "PTR")
    except (dns.resolver.NXDOMAIN, dns.resolver.NoAnswer):
        return ""
    except (dns.exception.DNSException, OSError) as error:
        raise Problem("no-names", detail=str(error)[:160] or type(error).__name__) from None
    return str(found[0].target).rstrip(".")


async def addresses_of(route: Route, name: str, seconds: float = 2.0) -> list[str]:
    """Return the addresses a name leads to (A and AAAA). Raises Problem where no name server answers."""
    out: list[str] = []
    resolver = _resolver(route, seconds)
    for kind in ("A", "AAAA"):
        try:
            out += [str(r) for r in await resolver.resolve(name, kind)]
        except (dns.resolver.NXDOMAIN, dns.resolver.NoAnswer):
            continue
        except (dns.exception.DNSException, OSError) as error:
            raise Problem("no-names", detail=str(error)[:160] or type(error).__name__) from None
    return out
