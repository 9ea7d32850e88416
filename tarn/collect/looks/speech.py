"""What a run and its lookers hand each other through Redis, sealed: who reaches Redis alone reads and forges nothing.

Everything is sealed with one key both sides are told (Fernet: AES-128-CBC and HMAC-SHA256 with a time stamp). An order
holds the credentials of its own addresses and no others, and opens for an hour.
"""

from dataclasses import dataclass
from typing import Any

from cryptography.fernet import Fernet, InvalidToken
from pydantic import TypeAdapter
from redis.asyncio import Redis

from tarn.collect.outpost.wire import HandIn, SweepOrder, read, write
from tarn.core.sightings import SightingError

PREFIX = "tarn:looks"
ORDERS, CHECK = f"{PREFIX}:orders", f"{PREFIX}:check"
OPENS = 3_600
"""Seconds an order opens after it was sealed."""
ALIVE, HELD, RUNS = 10, 15, 20
"""Seconds a looker is held to be there, an order held to be in hand, a run held to go on, after their last sign."""


def alive(looker: str) -> str:
    """Where a looker gives signs of life."""
    return f"{PREFIX}:alive:{looker}"


def held(order: str) -> str:
    """Where it stands who is at an order."""
    return f"{PREFIX}:at:{order}"


def going_on(instance: str) -> str:
    """Where a run gives signs of life; what stands there is its wish."""
    return f"{PREFIX}:run:{instance}"


def found_in(instance: str) -> str:
    """Where what was found for a run is put."""
    return f"{PREFIX}:found:{instance}"


def reached(url: str) -> Any:
    """Return Redis at an address, to be spoken to; nothing is sent yet."""
    return Redis.from_url(url, socket_timeout=10, socket_connect_timeout=5)


class Unsealed(ValueError):
    """Something that was sealed with another key, or too long ago."""


@dataclass(frozen=True, slots=True)
class Envelope:
    """An order and what is beside it: for which run under way, and by which route its devices are dialled."""

    instance: str
    route: str
    order: SweepOrder


@dataclass(frozen=True, slots=True)
class Handed:
    """What a looker hands back."""

    looker: str
    hand_in: HandIn


class Seal:
    """The key both sides are told."""

    def __init__(self, key: str) -> None:
        try:
            self._box = Fernet(key)
        except ValueError:
            said = "TARN_LOOKS_KEY is no key: 32 octets in base64 (RFC 4648), as `tarn looks-key` makes one."
            raise Unsealed(said) from None

    def close(self, document: bytes) -> bytes:
        """Seal something."""
        return self._box.encrypt(document)

    def open(self, sealed: bytes) -> bytes:
        """Open something. Raises Unsealed."""
        try:
            return self._box.decrypt(sealed, ttl=OPENS)
        except InvalidToken:
            raise Unsealed("it was sealed with another key, or more than an hour ago") from None

    def close_order(self, envelope: Envelope) -> bytes:
        """Seal an order."""
        return self.close(_ENVELOPE.dump_json(envelope))

    def open_order(self, sealed: bytes) -> Envelope:
        """Open an order. Raises Unsealed."""
        return _ENVELOPE.validate_json(self.open(sealed))

    def close_found(self, looker: str, hand_in: HandIn) -> bytes:
        """Seal what was found."""
        return self.close(looker.encode() + b"\n" + write(hand_in))

    def open_found(self, sealed: bytes) -> Handed:
        """Open what was found. Raises Unsealed."""
        looker, _, body = self.open(sealed).partition(b"\n")
        try:
            return Handed(looker.decode(), read(HandIn, body))
        except SightingError as fault:
            raise Unsealed(f"what {looker.decode()} handed in cannot be read: {fault}") from None


_ENVELOPE: TypeAdapter[Any] = TypeAdapter(Envelope)
