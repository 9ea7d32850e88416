"""The company's directory (LDAP, RFC 4511) with simple bind, filters and paged results (RFC 2696)."""

import asyncio
import contextlib
import fnmatch
from collections.abc import Callable
from typing import Any

from tarn.lab import ber

Entries = dict[str, dict[str, list[str]]]
"""By distinguished name the values of each attribute (its name in lower case)."""
Entry = dict[str, list[str]]

PAGED = b"1.2.840.113556.1.4.319"
SUCCESS, INVALID, NO_ACCESS = 0, 49, 50
_BIND, _BOUND, _SEARCH, _ENTRY, _DONE = 0x60, 0x61, 0x63, 0x64, 0x65
_ENUMERATED, _SET, _CONTROLS = 0x0A, 0x31, 0xA0
_AND, _OR, _NOT, _EQUAL, _SUBSTRINGS, _AT_LEAST, _AT_MOST, _PRESENT = 0xA0, 0xA1, 0xA2, 0xA3, 0xA4, 0xA5, 0xA6, 0x87
_MOST = 1 << 20


class DirectoryServer:
    """Answers for one directory. `binds`: name to password, or to the data code of a refusal ("!532")."""

    def __init__(self, base: str, entries: Entries, binds: dict[str, str]) -> None:
        self.base, self.entries, self.binds = base, entries, binds

    async def serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """Serve one connection until the other side leaves or sends what is no LDAP."""
        state: dict[str, Any] = {"bound": False}
        held = b""
        with contextlib.suppress(ConnectionError, asyncio.CancelledError):
            while len(held) < _MOST and (piece := await reader.read(65_536)):
                held += piece
                while held:
                    try:
                        _, body, end = ber.read(held)
                    except ber.BadPacket:
                        break  # not whole yet
                    held = held[end:]
                    for answer in self._answer(ber.read_all(body), state):
                        writer.write(answer)
                    await writer.drain()
        writer.close()

    def _answer(self, message: list[tuple[int, bytes]], state: dict[str, Any]) -> list[bytes]:
        number, (kind, body) = ber.number(message[0][1]), message[1]
        if kind == _BIND:
            parts = ber.read_all(body)
            known = self.binds.get(parts[1][1].decode().lower(), "")
            code = known[1:] if known.startswith("!") else "52e"
            state["bound"] = bool(known) and known.encode() == parts[2][1]
            text = "" if state["bound"] else f"80090308: LdapErr: AcceptSecurityContext error, data {code}, v4563"
            return [_message(number, _BOUND, _result(SUCCESS if state["bound"] else INVALID, text))]
        if kind == _SEARCH:
            controls = ber.read_all(message[2][1]) if len(message) > 2 else []
            return self._search(number, ber.read_all(body), controls, state)
        return []

    def _search(
        self, number: int, parts: list[tuple[int, bytes]], controls: list[tuple[int, bytes]], state: dict[str, Any]
    ) -> list[bytes]:
        base = parts[0][1].decode()
        wanted = [a.decode().lower() for _, a in ber.read_all(parts[7][1])]
        if base == "":
            root = {"namingcontexts": [self.base], "defaultnamingcontext": [self.base]}
            return [_entry(number, "", root, wanted), _message(number, _DONE, _result(SUCCESS))]
        if not state["bound"]:
            return [_message(number, _DONE, _result(NO_ACCESS, "bind first"))]
        matches = _filter(*parts[6])
        found = [(dn, e) for dn, e in self.entries.items() if dn.lower().endswith(base.lower()) and matches(e)]
        size, cookie = _page(controls)
        start = int(cookie or b"0")
        shown = found[start : start + size] if size else found
        after = start + len(shown)
        next_cookie = None if not size else str(after).encode() if after < len(found) else b""
        out = [_entry(number, dn, held, wanted) for dn, held in shown]
        return [*out, _message(number, _DONE, _result(SUCCESS), next_cookie)]


def _text(value: str | bytes) -> bytes:
    return ber.tlv(ber.OCTETS, value.encode() if isinstance(value, str) else value)


def _result(code: int, text: str = "") -> bytes:
    return ber.integer(code, _ENUMERATED) + _text("") + _text(text)


def _message(number: int, kind: int, body: bytes, cookie: bytes | None = None) -> bytes:
    content = ber.integer(number) + ber.tlv(kind, body)
    if cookie is not None:
        value = ber.tlv(ber.SEQUENCE, ber.integer(0) + _text(cookie))
        content += ber.tlv(_CONTROLS, ber.tlv(ber.SEQUENCE, _text(PAGED) + _text(value)))
    return ber.tlv(ber.SEQUENCE, content)


def _entry(number: int, dn: str, held: Entry, wanted: list[str]) -> bytes:
    shown = [a for a in held if not wanted or "*" in wanted or a in wanted]
    attributes = b"".join(
        ber.tlv(ber.SEQUENCE, _text(a) + ber.tlv(_SET, b"".join(_text(v) for v in held[a]))) for a in shown
    )
    return _message(number, _ENTRY, _text(dn) + ber.tlv(ber.SEQUENCE, attributes))


def _page(controls: list[tuple[int, bytes]]) -> tuple[int, bytes]:
    """Return size and cookie of a paged search; size 0 where it is none."""
    for _, control in controls:
        parts = ber.read_all(control)
        if parts[0][1] == PAGED:
            size, cookie = ber.read_all(ber.read(parts[-1][1])[1])
            return ber.number(size[1]), cookie[1]
    return 0, b""


def _filter(kind: int, body: bytes) -> Callable[[Entry], bool]:
    """Return a search filter (RFC 4511, 4.5.1.7) as a function of an entry."""
    if kind in (_AND, _OR):
        inner = [_filter(*part) for part in ber.read_all(body)]
        return (lambda e: all(f(e) for f in inner)) if kind == _AND else (lambda e: any(f(e) for f in inner))
    if kind == _NOT:
        negated = _filter(*ber.read_all(body)[0])
        return lambda e: not negated(e)
    if kind == _PRESENT:
        present = body.decode().lower()
        return lambda e: present in e
    (_, name_octets), (_, value_octets) = ber.read_all(body)[:2]
    name = name_octets.decode().lower()
    if kind == _SUBSTRINGS:
        pattern = "*".join(v.decode().lower() for _, v in ber.read_all(value_octets))
        tags = [t & 0x1F for t, _ in ber.read_all(value_octets)]
        pattern = ("" if tags[0] == 0 else "*") + pattern + ("" if tags[-1] == 2 else "*")
        return lambda e: any(fnmatch.fnmatch(v.lower(), pattern) for v in e.get(name, []))
    value = value_octets.decode().lower()
    if kind == _AT_LEAST:
        return lambda e: any(v.lower() >= value for v in e.get(name, []))
    if kind == _AT_MOST:
        return lambda e: any(v.lower() <= value for v in e.get(name, []))
    return lambda e: value in (v.lower() for v in e.get(name, []))
