"""An SNMP agent for simulated devices: v1 and v2c (RFC 3416), v3 with USM (RFC 3412, 3414, 3826, 7860)."""

import asyncio
import hashlib
import hmac
import os
import time
from bisect import bisect_right
from collections.abc import Callable
from functools import lru_cache

from cryptography.hazmat.decrepit.ciphers.modes import CFB
from cryptography.hazmat.primitives.ciphers import Cipher, algorithms

from tarn.lab import ber
from tarn.lab.mib import Oid, Value

_END, _NONE = bytes((ber.END_OF_MIB, 0)), bytes((ber.NO_SUCH_INSTANCE, 0))
GET, GETNEXT, RESPONSE, GETBULK, REPORT = 0xA0, 0xA1, 0xA2, 0xA5, 0xA8
_MOST = 1400
"""Octets of an answer's bindings: what fits a datagram on Ethernet."""

_IF_DESCR = (1, 3, 6, 1, 2, 1, 2, 2, 1, 2)

UNKNOWN_USER = (1, 3, 6, 1, 6, 3, 15, 1, 1, 3, 0)
UNKNOWN_ENGINE = (1, 3, 6, 1, 6, 3, 15, 1, 1, 4, 0)
WRONG_DIGEST = (1, 3, 6, 1, 6, 3, 15, 1, 1, 5, 0)
UNSUPPORTED_LEVEL = (1, 3, 6, 1, 6, 3, 15, 1, 1, 1, 0)


@lru_cache(maxsize=32)
def master_key(password: str) -> bytes:
    """Return the key of a password (RFC 3414, A.2, with SHA-256 as RFC 7860)."""
    data = password.encode()
    repeated = (data * (1_048_576 // len(data) + 1))[:1_048_576]
    return hashlib.sha256(repeated).digest()


def localized(password: str, engine: bytes) -> bytes:
    """Return a password's key for one engine (RFC 3414, 2.6)."""
    key = master_key(password)
    return hashlib.sha256(key + engine + key).digest()


class Agent(asyncio.DatagramProtocol):
    """Answers for one device. `rows` gives its tables, in order; `looping` makes GETBULK go in a circle."""

    def __init__(
        self,
        rows: Callable[[], list[tuple[Oid, Value]]],
        *,
        version: str,
        community: str,
        user: str,
        auth: str,
        privacy: str,
        engine: bytes,
        looping: bool = False,
    ) -> None:
        self._rows, self.version, self.community = rows, version, community.encode()
        self.user, self.engine, self.looping = user.encode(), engine, looping
        self._passwords = auth, privacy
        self._keys: tuple[bytes, bytes] | None = None
        self._table: list[tuple[Oid, bytes]] | None = None
        self._boot = int(time.time()) - 86_400

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        """Keep the socket."""
        self.transport = transport

    def datagram_received(self, data: bytes, addr: tuple[str, int]) -> None:
        """Answer a packet; what cannot be read is dropped (RFC 3412, 7.2)."""
        try:
            answer = self.answer(data)
        except (ber.BadPacket, ValueError, IndexError):
            return
        if answer:
            self.transport.sendto(answer, addr)  # type: ignore[attr-defined]

    def answer(self, data: bytes) -> bytes | None:
        """Return the answer to a packet, or None."""
        _, body, _ = ber.read(data)
        parts = ber.read_all(body)
        version = ber.number(parts[0][1])
        if version == 3:
            return self._answer_v3(parts, data) if self.version == "v3" else None
        if self.version != "v2c" or parts[1][1] != self.community:
            return None
        pdu = self._respond(parts[2][0], parts[2][1])
        if version == 0 and (pdu.find(_END) > 0 or pdu.find(_NONE) > 0):
            # v1 knows no exceptions: noSuchName (RFC 1157, 4.1.2), with the bindings as they were asked.
            request, _, _, bindings = ber.read_all(parts[2][1])
            pdu = ber.tlv(
                RESPONSE,
                ber.tlv(ber.INTEGER, request[1]) + ber.integer(2) + ber.integer(1) + ber.tlv(ber.SEQUENCE, bindings[1]),
            )
        return ber.tlv(ber.SEQUENCE, ber.integer(version) + ber.tlv(ber.OCTETS, self.community) + pdu)

    def _answer_v3(self, parts: list[tuple[int, bytes]], whole: bytes) -> bytes | None:
        head = ber.read_all(parts[1][1])
        message_id, flags = ber.number(head[0][1]), head[2][1][0]
        _, security, _ = ber.read(parts[2][1])
        usm = [body for _, body in ber.read_all(security)]
        engine, user, digest, salt = usm[0], usm[3], usm[4], usm[5]
        boots, seconds = ber.number(usm[1]), ber.number(usm[2])
        if engine != self.engine:
            return self._report(message_id, UNKNOWN_ENGINE, user)
        if user != self.user:
            return self._report(message_id, UNKNOWN_USER, user)
        if flags & 3 != 3:
            return self._report(message_id, UNSUPPORTED_LEVEL, user)
        keys = self._localized()
        blank = whole.replace(digest, bytes(len(digest)), 1)
        if not hmac.compare_digest(hmac.new(keys[0], blank, hashlib.sha256).digest()[:24], digest):
            return self._report(message_id, WRONG_DIGEST, user)
        iv = boots.to_bytes(4, "big") + seconds.to_bytes(4, "big") + salt
        cipher = Cipher(algorithms.AES(keys[1][:16]), CFB(iv)).decryptor()
        scoped = cipher.update(parts[3][1]) + cipher.finalize()
        tag, content, _ = ber.read(scoped)
        if tag != ber.SEQUENCE:
            return None
        inner = ber.read_all(content)
        pdu = self._respond(inner[2][0], inner[2][1])
        return self._seal(message_id, user, pdu)

    def _localized(self) -> tuple[bytes, bytes]:
        if self._keys is None:
            self._keys = (localized(self._passwords[0], self.engine), localized(self._passwords[1], self.engine))
        return self._keys

    def _message(self, message_id: int, flags: int, usm: bytes, data: bytes) -> bytes:
        head = ber.integer(message_id) + ber.integer(65_000) + ber.tlv(ber.OCTETS, bytes((flags,))) + ber.integer(3)
        return ber.tlv(ber.SEQUENCE, ber.integer(3) + ber.tlv(ber.SEQUENCE, head) + ber.tlv(ber.OCTETS, usm) + data)

    def _usm(self, user: bytes, digest: bytes, salt: bytes) -> bytes:
        return ber.tlv(
            ber.SEQUENCE,
            ber.tlv(ber.OCTETS, self.engine)
            + ber.integer(1)
            + ber.integer(int(time.time()) - self._boot)
            + ber.tlv(ber.OCTETS, user)
            + ber.tlv(ber.OCTETS, digest)
            + ber.tlv(ber.OCTETS, salt),
        )

    def _scoped(self, pdu: bytes) -> bytes:
        return ber.tlv(ber.SEQUENCE, ber.tlv(ber.OCTETS, self.engine) + ber.tlv(ber.OCTETS, b"") + pdu)

    def _report(self, message_id: int, counter: Oid, user: bytes) -> bytes:
        bindings = ber.tlv(ber.SEQUENCE, ber.object_id(counter) + ber.integer(1, ber.COUNTER))
        pdu = ber.tlv(REPORT, ber.integer(0) + ber.integer(0) + ber.integer(0) + ber.tlv(ber.SEQUENCE, bindings))
        return self._message(message_id, 0, self._usm(user, b"", b""), self._scoped(pdu))

    def _seal(self, message_id: int, user: bytes, pdu: bytes) -> bytes:
        auth, privacy = self._localized()
        salt, seconds = os.urandom(8), int(time.time()) - self._boot
        iv = (1).to_bytes(4, "big") + seconds.to_bytes(4, "big") + salt
        cipher = Cipher(algorithms.AES(privacy[:16]), CFB(iv)).encryptor()
        sealed = ber.tlv(ber.OCTETS, cipher.update(self._scoped(pdu)) + cipher.finalize())
        usm = self._usm(user, bytes(24), salt)
        blank = self._message(message_id, 3, usm, sealed)
        digest = hmac.new(auth, blank, hashlib.sha256).digest()[:24]
        return blank.replace(ber.tlv(ber.OCTETS, bytes(24)), ber.tlv(ber.OCTETS, digest), 1)

    def _respond(self, kind: int, body: bytes) -> bytes:
        parts = ber.read_all(body)
        request, first, second = parts[0][1], ber.number(parts[1][1]), ber.number(parts[2][1])
        asked = [ber.read_oid(ber.read_all(b)[0][1]) for _, b in ber.read_all(parts[3][1])]
        table = self._tables()
        if kind == GET:
            held = dict(table)
            pairs = [(o, held.get(o, ber.tlv(ber.NO_SUCH_INSTANCE, b""))) for o in asked]
        elif kind == GETNEXT:
            pairs = [self._next(o) for o in asked]
        elif kind == GETBULK:
            pairs = self._bulk(asked, first, second)
        else:
            pairs = []
        bindings = b"".join(ber.tlv(ber.SEQUENCE, ber.object_id(o) + v) for o, v in pairs)
        return ber.tlv(
            RESPONSE,
            ber.tlv(ber.INTEGER, request) + ber.integer(0) + ber.integer(0) + ber.tlv(ber.SEQUENCE, bindings),
        )

    def _tables(self) -> list[tuple[Oid, bytes]]:
        if self._table is None:
            self._table = [(o, ber.encode(v)) for o, v in self._rows()]
        return self._table

    def refresh(self) -> None:
        """Have the tables rendered anew: the day has changed."""
        self._table = None

    def _next(self, after: Oid) -> tuple[Oid, bytes]:
        table = self._tables()
        place = bisect_right(table, after, key=lambda row: row[0])
        if place == len(table):
            return after, ber.tlv(ber.END_OF_MIB, b"")
        return table[place]

    def _bulk(self, asked: list[Oid], once: int, times: int) -> list[tuple[Oid, bytes]]:
        pairs = [self._next(o) for o in asked[:once]]
        size = 0
        for start in asked[once:]:
            at = start
            for _ in range(times):
                pair = self._next(at)
                if self.looping and at[:10] == _IF_DESCR and pair[0][:10] != _IF_DESCR:
                    pair = self._next(_IF_DESCR)
                size += len(pair[1]) + 2 * len(pair[0])
                if size > _MOST and pairs:
                    return pairs
                pairs.append(pair)
                if pair[1][:1] == bytes((ber.END_OF_MIB,)):
                    break
                at = pair[0]
        return pairs
