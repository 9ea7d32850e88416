"""SNMP behind a narrow interface of our own, so that the library beneath can be exchanged.

Adds to the library: retransmission, a bound on rows, and an end to agents that answer in a circle.
"""

from collections.abc import AsyncIterator, Iterable
from contextlib import asynccontextmanager
from functools import lru_cache
from typing import Any, Protocol

from gufo.snmp import (
    Aes128Key,
    Aes192Key,
    Aes256Key,
    DesKey,
    Md5Key,
    Sha1Key,
    Sha224Key,
    Sha256Key,
    Sha384Key,
    Sha512Key,
    SnmpAuthError,
    SnmpError,
    SnmpVersion,
    User,
)
from gufo.snmp.aio.client import SnmpSession
from gufo.snmp.user import KeyType

from tarn.collect.credentials import SnmpCredential, keep_to_reach
from tarn.collect.problems import Problem
from tarn.collect.routes import Route

AUTH_KEYS: dict[str, Any] = {
    "md5": Md5Key,
    "sha1": Sha1Key,
    "sha224": Sha224Key,
    "sha256": Sha256Key,
    "sha384": Sha384Key,
    "sha512": Sha512Key,
}
PRIVACY_KEYS: dict[str, Any] = {"des": DesKey, "aes128": Aes128Key, "aes192": Aes192Key, "aes256": Aes256Key}

TRIES = 2
MOST_ROWS = 100_000
REPETITIONS = 40
"""Rows asked for in one GETBULK: agents answer with what fits their datagram."""

V3_REPETITIONS, CAREFUL_REPETITIONS = 12, 4
"""The same for v3, where the library takes answers of 2,048 octets at the most."""

Pair = tuple[str, Any]


class Walker(Protocol):
    """What the readers of tables need: scalars and walks. Values are int, bytes, or dotted text."""

    async def get(self, oids: Iterable[str]) -> dict[str, Any]:
        """Return the values an agent has of these object ids; what it lacks is left out."""
        ...

    async def walk(self, oid: str) -> list[Pair]:
        """Return all rows below an object id, in order. Raises Problem."""
        ...


@lru_cache(maxsize=256)
def _master(kind: Any, secret: str) -> bytes:
    """Return a password's master key: 22 ms to make, so it is kept (RFC 3414, A.2)."""
    return bytes(kind.get_master_key(secret.encode()))


def _user(credential: SnmpCredential) -> User:
    auth = AUTH_KEYS[credential.auth]
    auth_key = auth(_master(auth, credential.auth_secret), KeyType.Master)
    if not credential.privacy_secret:
        return User(credential.user, auth_key=auth_key)
    privacy = PRIVACY_KEYS[credential.privacy]
    # The privacy key is made by the hash of the authentication protocol (RFC 3826, 1.2).
    master = _master(auth, credential.privacy_secret)
    return User(credential.user, auth_key=auth_key, priv_key=privacy(master, KeyType.Master))


class _Session:
    def __init__(self, session: SnmpSession, credential: SnmpCredential) -> None:
        self._session, self._credential = session, credential

    async def get(self, oids: Iterable[str]) -> dict[str, Any]:
        wanted = list(oids)
        if self._credential.version != "v1":
            return await self._get(wanted)
        # v1 refuses a whole question for one object it lacks (RFC 1157, 4.1.2): they are asked one by one.
        out: dict[str, Any] = {}
        for oid in wanted:
            try:
                out |= await self._get([oid])
            except Problem as problem:
                if problem.code != "nonsense":
                    raise
        return out

    async def _get(self, wanted: list[str]) -> dict[str, Any]:
        for left in range(TRIES, 0, -1):
            try:
                return dict(await self._session.get_many(wanted))
            except TimeoutError:
                if left == 1:
                    raise Problem("snmp-silent", credential=self._credential.name) from None
            except SnmpAuthError:
                raise Problem("sign-in-refused", protocol="SNMP", credential=self._credential.name) from None
            except (SnmpError, OSError, ValueError) as error:
                raise Problem("nonsense", protocol="SNMP", detail=error or type(error).__name__) from None
        raise AssertionError

    async def walk(self, oid: str) -> list[Pair]:
        usual = V3_REPETITIONS if self._credential.version == "v3" else REPETITIONS
        rows = await self._walk(oid, usual)
        if self._credential.version == "v3" and len(rows) % usual == 0:
            # An answer too large for the library's v3 buffer comes as an empty one, which looks like the
            # end. It can only follow full answers; a walk in small steps tells the two apart.
            again = await self._walk(oid, CAREFUL_REPETITIONS)
            rows = max(rows, again, key=len)
        return rows

    async def _walk(self, oid: str, repetitions: int) -> list[Pair]:
        rows: list[Pair] = []
        seen: set[str] = set()
        # v1 has no GETBULK (RFC 1157): one row an answer.
        v1 = self._credential.version == "v1"
        steps = self._session.getnext(oid) if v1 else self._session.getbulk(oid, repetitions)
        tries = TRIES
        while True:
            try:
                pair = await steps.__anext__()
            except StopAsyncIteration:
                return rows
            except TimeoutError:
                tries -= 1
                if tries == 0:
                    raise Problem("timed-out", protocol="SNMP", seconds=self._credential.timeout, section=oid) from None
                continue
            except (SnmpError, OSError, ValueError, RuntimeError) as error:
                raise Problem("nonsense", protocol="SNMP", detail=error or type(error).__name__) from None
            if pair[0] in seen or len(rows) >= MOST_ROWS:
                raise Problem("looping", detail=pair[0])
            seen.add(pair[0])
            rows.append(pair)


async def _refresh(session: SnmpSession) -> None:
    """Learn a v3 engine's id and clock, asking again once: a datagram may be lost."""
    for left in range(TRIES, 0, -1):
        try:
            await session.refresh()
            return
        except TimeoutError:
            if left == 1:
                raise


async def _has_engine(host: str, port: int, credential: SnmpCredential) -> bool:
    """Whether a v3 engine tells its id to anybody who asks (RFC 3414, section 4), though it stays silent to us.

    Then it cannot decrypt what it is asked: it says so in a report that bears no authentication (3.2, step 8), which
    the library rightly ignores; a wrong user or authentication it reports otherwise.
    """
    session = SnmpSession(host, port, user=User(credential.user), version=SnmpVersion["v3"], timeout=credential.timeout)
    try:
        await session.refresh()
    except (TimeoutError, SnmpError, OSError, ValueError) as error:
        return isinstance(error, SnmpAuthError)
    return True


@asynccontextmanager
async def snmp(route: Route, address: str, credential: SnmpCredential) -> AsyncIterator[Walker]:
    """Open a session. Raises Problem: refused sign-in, silence, or nonsense."""
    keep_to_reach(credential, address)
    host, port = route.dial(address, credential.port)
    try:
        session = SnmpSession(
            host,
            port,
            community=credential.community,
            user=_user(credential) if credential.version == "v3" else None,
            version=SnmpVersion[credential.version],
            timeout=credential.timeout,
            max_repetitions=REPETITIONS,
        )
        await _refresh(session)
    except SnmpAuthError:
        raise Problem("sign-in-refused", protocol="SNMP", credential=credential.name) from None
    except TimeoutError:
        encrypted = credential.version == "v3" and bool(credential.privacy_secret)
        code = "privacy-refused" if encrypted and await _has_engine(host, port, credential) else "snmp-silent"
        raise Problem(code, credential=credential.name) from None
    except (SnmpError, OSError, ValueError) as error:
        raise Problem("nonsense", protocol="SNMP", detail=error or type(error).__name__) from None
    yield _Session(session, credential)
