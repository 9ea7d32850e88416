"""LDAP (RFC 4511) behind a narrow interface of our own: bind, paged search, each failure told apart.

The client library is synchronous: each call runs in a thread.
"""

import asyncio
import contextlib
import re
import socket
import ssl
from collections.abc import AsyncIterator, Iterator
from typing import Any

import ldap3
from ldap3.core import exceptions as wrong

from tarn.collect.credentials import LdapCredential, keep_to_reach
from tarn.collect.presented import Expected, Presented
from tarn.collect.problems import Problem
from tarn.collect.routes import Route

PAGE = 500
MOST_ENTRIES = 500_000
_CUT_SHORT = {3: "its limit of time", 4: "its limit of entries", 11: "an administrative limit"}
"""Results after which the entries that came are not all (RFC 4511, 4.1.9)."""
_NO_SUCH_BASE = 32
_SUBCODES = {"532": "password-expired", "773": "password-expired", "533": "account-locked", "775": "account-locked"}
"""What a Windows directory adds to a refused bind (`data 532` …): MS-ADTS 5.1.1.5 and winerror numbers."""
COMPUTERS = "(objectClass=computer)"
PEOPLE = "(&(objectClass=person)(!(objectClass=computer)))"
GROUPS = "(|(objectClass=group)(objectClass=groupOfNames))"

Entry = tuple[str, dict[str, list[str]]]
"""Distinguished name, and values by attribute (lower case)."""


def _refusal(credential: LdapCredential, result: dict[str, Any]) -> Problem:
    said = str(result.get("message") or "")
    match = re.search(r"data (\d{3})", said)
    code = _SUBCODES.get(match[1], "sign-in-refused") if match else "sign-in-refused"
    if result.get("result") == 53 and "expired" in said.lower():
        code = "password-expired"
    how = "disabled" if match and match[1] == "533" else "locked"
    return Problem(code, protocol="LDAP", credential=credential.name, how=how)


@contextlib.contextmanager
def _told(credential: LdapCredential, section: str) -> Iterator[None]:
    try:
        yield
    except (wrong.LDAPSocketOpenError, wrong.LDAPSocketSendError, wrong.LDAPSocketReceiveError) as error:
        said = str(error).lower()
        if "refused" in said:
            raise Problem("refused", protocol="LDAP", port=credential.port) from None
        if "certificate" in said:
            raise Problem("untrusted", protocol="LDAP", detail=error) from None
        if "timed out" in said:
            seconds = round(credential.timeout)
            raise Problem("timed-out", protocol="LDAP", seconds=seconds, section=section) from None
        raise Problem("cut-off", protocol="LDAP", section=section) from None
    except (wrong.LDAPResponseTimeoutError, TimeoutError):
        raise Problem("timed-out", protocol="LDAP", seconds=round(credential.timeout), section=section) from None
    except wrong.LDAPSessionTerminatedByServerError:
        raise Problem("cut-off", protocol="LDAP", section=section) from None
    except wrong.LDAPInvalidFilterError as error:
        raise Problem("failed", section=section, detail=f"the filter: {error}") from None
    except wrong.LDAPInsufficientAccessRightsResult:
        raise Problem("not-permitted", section=section, detail="insufficient access rights") from None
    except (wrong.LDAPException, OSError, ValueError) as error:
        raise Problem("failed", section=section, detail=str(error)[:200] or type(error).__name__) from None


class Directory:
    """An open, bound connection."""

    def __init__(self, connection: Any, credential: LdapCredential) -> None:
        self._connection, self._credential = connection, credential
        self.cut: Problem | None = None
        """Why what was searched is not all there is, where it is not."""

    async def naming_contexts(self) -> list[str]:
        """Return the bases the server holds (rootDSE, RFC 4512, 5.1)."""
        entries = await self.search("", "(objectClass=*)", ["namingContexts", "defaultNamingContext"], scope="base")
        held = entries[0][1] if entries else {}
        return [*dict.fromkeys([*held.get("defaultnamingcontext", []), *held.get("namingcontexts", [])])]

    async def counts(self, base: str) -> dict[str, int]:
        """Return how many computers, people and groups this account can see below a base."""
        found = {}
        for what, condition in (("computers", COMPUTERS), ("people", PEOPLE), ("groups", GROUPS)):
            found[what] = len(await self.search(base, condition, ["1.1"]))
        return found

    async def search(self, base: str, condition: str, attributes: list[str], scope: str = "subtree") -> list[Entry]:
        """Return all entries, page by page (RFC 2696); where the server stops before the end, `cut` says so.

        Raises Problem, also where a server pages in a circle, or has no such base.
        """
        return await _in_thread(self._connection, self._search, base, condition, attributes, scope)

    def _search(self, base: str, condition: str, attributes: list[str], scope: str) -> list[Entry]:
        out: list[Entry] = []
        seen: set[str] = set()
        cookie: Any = None
        reach = {"base": ldap3.BASE, "subtree": ldap3.SUBTREE}[scope]
        with _told(self._credential, f"the search below “{base}”"):
            while True:
                paged = None if scope == "base" else PAGE
                self._connection.search(
                    base, condition, reach, attributes=attributes, paged_size=paged, paged_cookie=cookie
                )
                result = self._connection.result
                if result["result"] == _NO_SUCH_BASE:
                    raise Problem("failed", section="the directory", detail=f"it has no entry “{base}” to search below")
                if result["result"] in _CUT_SHORT:
                    limit = _CUT_SHORT[result["result"]]
                    self.cut = Problem("cut-short", protocol="LDAP", detail=f"it stopped at {limit} below “{base}”")
                elif result["result"] != 0:
                    detail = f"{result['description']} {result.get('message', '')}".strip()
                    raise Problem("not-permitted", section=f"entries below “{base}”", detail=detail[:200])
                before = len(out)
                for raw in self._connection.response or []:
                    if raw.get("type") != "searchResEntry" or raw["dn"] in seen:
                        continue
                    seen.add(raw["dn"])
                    out.append((raw["dn"], {k.lower(): _texts(v or []) for k, v in raw["raw_attributes"].items()}))
                control = (result.get("controls") or {}).get("1.2.840.113556.1.4.319")
                cookie = control["value"]["cookie"] if control else None
                if not cookie:
                    return out
                if len(out) == before or len(out) > MOST_ENTRIES:
                    raise Problem("looping-pages", protocol="LDAP", detail=f"{len(out)} entries")


async def _in_thread(connection: Any, work: Any, *given: Any) -> Any:
    """Run what the client library does in a thread; who gives up waiting closes the connection, so that it ends."""
    try:
        return await asyncio.to_thread(work, *given)
    except asyncio.CancelledError:
        with contextlib.suppress(OSError, AttributeError):
            connection.socket.shutdown(socket.SHUT_RDWR)
        raise


def _texts(values: list[Any]) -> list[str]:
    return [_text(v) if isinstance(v, bytes) else str(v) for v in values]


def _text(value: bytes) -> str:
    """Return an attribute's octets as text, or in hexadecimal where they are none (an objectGUID)."""
    try:
        return value.decode()
    except UnicodeDecodeError:
        return value.hex()


@contextlib.asynccontextmanager
async def directory(
    route: Route, address: str, credential: LdapCredential, expected: Expected
) -> AsyncIterator[Directory]:
    """Open a connection and bind. Raises Problem.

    Unless an authority vouches for it, the password goes only to a server with a key that is `expected` of it.
    """
    keep_to_reach(credential, address)
    connection = _connection(route, address, credential)
    judged = not credential.plain and not credential.verify
    presented = Presented(expected, credential.port, credential.name) if judged else None
    await _in_thread(connection, _bind, connection, credential, presented)
    try:
        yield Directory(connection, credential)
    finally:
        with contextlib.suppress(wrong.LDAPException, OSError):
            await asyncio.to_thread(connection.unbind)


def _connection(route: Route, address: str, credential: LdapCredential) -> Any:
    host, port = route.dial(address, credential.port)
    tls = ldap3.Tls(validate=ssl.CERT_REQUIRED if credential.verify else ssl.CERT_NONE)
    with _told(credential, "the connection"):
        server = ldap3.Server(
            host,
            port,
            use_ssl=not credential.plain,
            tls=None if credential.plain else tls,
            connect_timeout=credential.timeout,
            get_info=ldap3.NONE,  # the schema of a strange server is not to stop us
        )
        return ldap3.Connection(
            server,
            credential.user,
            credential.password,
            receive_timeout=max(1, round(credential.timeout)),
            read_only=True,
            check_names=False,
        )


def _bind(connection: Any, credential: LdapCredential, presented: Presented | None) -> None:
    with _told(credential, "the bind"):
        if presented is not None:
            connection.open(read_server_info=False)
            presented.judge(connection.socket.getpeercert(True))
        if not connection.bind(read_server_info=False):
            raise _refusal(credential, connection.result)
