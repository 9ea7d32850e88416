"""The company's directory (LDAP, RFC 4511) with simple bind, filters and paged results (RFC 2696)."""

import asyncio
import contextlib
import fnmatch
from collections.abc import Callable
from typing import Any

from ldap3.protocol import rfc4511 as asn
from ldap3.protocol.rfc2696 import Cookie, RealSearchControlValue, Size
from pyasn1.codec.ber import decoder, encoder
from pyasn1.error import PyAsn1Error

Entries = dict[str, dict[str, list[str]]]
"""By distinguished name the values of each attribute (its name in lower case)."""
PAGED = "1.2.840.113556.1.4.319"
SUCCESS, INVALID, NO_ACCESS = 0, 49, 50


class DirectoryServer:
    """Answers for one directory. `binds`: name to password, or to the data code of a refusal ("!532")."""

    def __init__(self, base: str, entries: Entries, binds: dict[str, str]) -> None:
        self.base, self.entries, self.binds = base, entries, binds

    async def serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """Serve one connection."""
        state: dict[str, Any] = {"bound": False, "pages": {}}
        held = b""
        with contextlib.suppress(ConnectionError, asyncio.IncompleteReadError):
            while piece := await reader.read(65_536):
                held += piece
                while held:
                    try:
                        message, held = decoder.decode(held, asn1Spec=asn.LDAPMessage())
                    except PyAsn1Error:
                        break  # not whole yet
                    for answer in self._answer(message, state):
                        writer.write(answer)
                    await writer.drain()
        writer.close()

    def _answer(self, message: Any, state: dict[str, Any]) -> list[bytes]:
        number, op = int(message["messageID"]), message["protocolOp"]
        kind = op.getName()
        if kind == "bindRequest":
            request = op.getComponent()
            name = str(request["name"])
            password = bytes(request["authentication"].getComponent()).decode()
            known = self.binds.get(name.lower(), "")
            code = known[1:] if known.startswith("!") else "52e"
            state["bound"] = bool(known) and known == password
            text = "" if state["bound"] else f"80090308: LdapErr: AcceptSecurityContext error, data {code}, v4563"
            response = _result(asn.BindResponse(), SUCCESS if state["bound"] else INVALID, text)
            return [_message(number, "bindResponse", response)]
        if kind == "searchRequest":
            return self._search(number, op.getComponent(), message, state)
        return []

    def _search(self, number: int, request: Any, message: Any, state: dict[str, Any]) -> list[bytes]:
        base, wanted = str(request["baseObject"]), [str(a).lower() for a in request["attributes"]]
        if base == "":
            root = {"namingcontexts": [self.base], "defaultnamingcontext": [self.base]}
            done = _message(number, "searchResDone", _result(asn.SearchResultDone(), SUCCESS))
            return [_entry(number, "", root, wanted), done]
        if not state["bound"]:
            return [_message(number, "searchResDone", _result(asn.SearchResultDone(), NO_ACCESS, "bind first"))]
        matches = _filter(request["filter"])
        found = [(dn, held) for dn, held in self.entries.items() if dn.lower().endswith(base.lower()) and matches(held)]
        size, cookie = _page(message)
        start = int(cookie or b"0")
        shown = found[start : start + size] if size else found
        out = [_entry(number, dn, held, wanted) for dn, held in shown]
        after = start + len(shown)
        done = _result(asn.SearchResultDone(), SUCCESS)
        return [
            *out,
            _message(number, "searchResDone", done, str(after).encode() if size and after < len(found) else b""),
        ]


def _result(made: Any, code: int, text: str = "") -> Any:
    made["resultCode"] = code
    made["matchedDN"] = ""
    made["diagnosticMessage"] = text
    return made


def _message(number: int, kind: str, content: Any, cookie: bytes | None = None) -> bytes:
    message = asn.LDAPMessage()
    message["messageID"] = number
    op = asn.ProtocolOp()
    op.setComponentByName(kind, content)
    message["protocolOp"] = op
    if cookie is not None:
        value = RealSearchControlValue()
        value["size"] = Size(0)
        value["cookie"] = Cookie(cookie)
        control = asn.Control()
        control["controlType"] = asn.LDAPOID(PAGED)
        control["criticality"] = False
        control["controlValue"] = asn.ControlValue(encoder.encode(value))
        controls = asn.Controls()
        controls.setComponentByPosition(0, control)
        message["controls"] = controls
    return bytes(encoder.encode(message))


def _entry(number: int, dn: str, held: dict[str, list[str]], wanted: list[str]) -> bytes:
    made = asn.SearchResultEntry()
    made["object"] = dn
    attributes = asn.PartialAttributeList()
    shown = [a for a in held if not wanted or "*" in wanted or a in wanted]
    for place, name in enumerate(shown):
        one = asn.PartialAttribute()
        one["type"] = name
        values = asn.Vals()
        for i, value in enumerate(held[name]):
            values.setComponentByPosition(i, value)
        one["vals"] = values
        attributes.setComponentByPosition(place, one)
    made["attributes"] = attributes
    return _message(number, "searchResEntry", made)


def _page(message: Any) -> tuple[int, bytes]:
    controls = message["controls"]
    if controls.hasValue():
        for control in controls:
            if str(control["controlType"]) == PAGED:
                value, _ = decoder.decode(bytes(control["controlValue"]), asn1Spec=RealSearchControlValue())
                return int(value["size"]), bytes(value["cookie"])
    return 0, b""


def _filter(given: Any) -> Callable[[dict[str, list[str]]], bool]:
    """Return a search filter (RFC 4511, 4.5.1.7) as a function of an entry."""
    kind, part = given.getName(), given.getComponent()
    if kind in ("and", "or"):
        inner = [_filter(f) for f in part]
        return (lambda e: all(f(e) for f in inner)) if kind == "and" else (lambda e: any(f(e) for f in inner))
    if kind == "notFilter":
        negated = _filter(part["innerNotFilter"])
        return lambda e: not negated(e)
    if kind == "present":
        name = str(part).lower()
        return lambda e: name == "objectclass" or name in e
    if kind == "substringFilter":
        name, pattern = str(part["type"]).lower(), ""
        for piece in part["substrings"]:
            text = str(piece.getComponent()).lower()
            pattern += {"initial": text + "*", "any": f"*{text}*", "final": "*" + text}[piece.getName()]
        return lambda e: any(fnmatch.fnmatch(v.lower(), pattern) for v in e.get(name, []))
    name, value = str(part["attributeDesc"]).lower(), str(part["assertionValue"]).lower()
    if kind == "greaterOrEqual":
        return lambda e: any(v.lower() >= value for v in e.get(name, []))
    if kind == "lessOrEqual":
        return lambda e: any(v.lower() <= value for v in e.get(name, []))
    return lambda e: value in (v.lower() for v in e.get(name, []))
