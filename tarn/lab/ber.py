"""The part of ASN.1 BER (ITU-T X.690) that SNMP needs."""

from ipaddress import IPv4Address
from typing import Any

from tarn.lab.mib import Oid, Value

INTEGER, OCTETS, NULL, OID, SEQUENCE = 0x02, 0x04, 0x05, 0x06, 0x30
IP, COUNTER, GAUGE, TICKS, COUNTER64 = 0x40, 0x41, 0x42, 0x43, 0x46
NO_SUCH_OBJECT, NO_SUCH_INSTANCE, END_OF_MIB = 0x80, 0x81, 0x82


class BadPacket(ValueError):
    """Bytes that are no BER."""


def tlv(tag: int, body: bytes) -> bytes:
    """Return one value: tag, length, content."""
    size = len(body)
    if size < 128:
        return bytes((tag, size)) + body
    length = size.to_bytes((size.bit_length() + 7) // 8, "big")
    return bytes((tag, 0x80 | len(length))) + length + body


def integer(value: int, tag: int = INTEGER) -> bytes:
    """Return a whole number in the fewest octets of two's complement."""
    return tlv(tag, value.to_bytes(value.bit_length() // 8 + 1, "big", signed=True))


def object_id(value: Oid) -> bytes:
    """Return an object id (X.690, 8.19)."""
    out = bytearray((value[0] * 40 + value[1],))
    for part in value[2:]:
        piece = [part & 0x7F]
        while part := part >> 7:
            piece.append(0x80 | part & 0x7F)
        out += bytes(reversed(piece))
    return tlv(OID, bytes(out))


def encode(value: Value) -> bytes:
    """Return a MIB value."""
    kind, data = value
    match kind:
        case "int":
            return integer(int(str(data)))
        case "str":
            return tlv(OCTETS, str(data).encode())
        case "bytes":
            return tlv(OCTETS, bytes(data))  # type: ignore[call-overload]
        case "oid":
            return object_id(tuple(map(int, str(data).split("."))))
        case "ip":
            return tlv(IP, IPv4Address(str(data)).packed)
        case "gauge":
            return integer(int(str(data)), GAUGE)
        case "counter":
            return integer(int(str(data)) % 2**32, COUNTER)
        case "counter64":
            return integer(int(str(data)), COUNTER64)
        case "ticks":
            return integer(int(str(data)) % 2**32, TICKS)
    raise ValueError(kind)


def read(data: bytes, at: int = 0) -> tuple[int, bytes, int]:
    """Return the tag, the content and the end of the value at `at`. Raises BadPacket."""
    try:
        tag, size = data[at], data[at + 1]
        at += 2
        if size & 0x80:
            count = size & 0x7F
            size = int.from_bytes(data[at : at + count], "big")
            at += count
        if at + size > len(data):
            raise BadPacket("a value goes beyond the packet")
        return tag, data[at : at + size], at + size
    except IndexError:
        raise BadPacket("the packet ends within a value") from None


def read_all(data: bytes) -> list[tuple[int, bytes]]:
    """Return the values of a sequence's content."""
    out, at = [], 0
    while at < len(data):
        tag, body, at = read(data, at)
        out.append((tag, body))
    return out


def number(body: bytes) -> int:
    """Return a whole number."""
    return int.from_bytes(body, "big", signed=True)


def read_oid(body: bytes) -> Oid:
    """Return an object id."""
    if not body:
        return ()
    out: list[Any] = list(divmod(body[0], 40)) if body[0] < 80 else [2, body[0] - 80]
    part = 0
    for octet in body[1:]:
        part = part << 7 | octet & 0x7F
        if not octet & 0x80:
            out.append(part)
            part = 0
    return tuple(out)
