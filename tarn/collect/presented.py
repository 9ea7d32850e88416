"""Which key an address may present before a password is sent to it: an SSH host key, or that of a TLS certificate.

A key is written as one text: `SHA256:…` for an SSH host key (RFC 4251, 9.2.4; as OpenSSH prints it), `tls/PORT/…` for
the public key of the certificate a port presents, by its pin (RFC 7469, 2.4).
"""

from collections.abc import Callable
from dataclasses import dataclass, field

from tarn.collect.problems import Problem
from tarn.collect.tls import pin_of

TLS = "tls/"


def tls_key(port: int, pin: str) -> str:
    """Return how the key of a port's certificate is written."""
    return f"{TLS}{port}/{pin}"


@dataclass(frozen=True, slots=True)
class Expected:
    """The keys an address may present: those met or accepted `here`, and where there is one, those of any device that
    is known (`met`: it may have moved here). `first_too`: whether one counts that is the first of its kind here."""

    here: frozenset[str] = frozenset()
    met: frozenset[str] = field(default=frozenset(), repr=False)
    first_too: bool = True

    def host_keys(self) -> frozenset[str]:
        """Return the SSH host keys it may present; none where none is known there yet."""
        return self._of(lambda key: not key.startswith(TLS))

    def certificates(self, port: int) -> frozenset[str]:
        """Return the keys of certificates a port may present; none where none is known there yet."""
        return self._of(lambda key: key.startswith(f"{TLS}{port}/"))

    def _of(self, wanted: Callable[[str], bool]) -> frozenset[str]:
        here = frozenset(key for key in self.here if wanted(key))
        return here | frozenset(key for key in self.met if wanted(key)) if here else here


class Presented:
    """What one TLS server presents over the connections of one errand: judged once, and the same from then on."""

    def __init__(self, expected: Expected, port: int, credential: str) -> None:
        self._may, self._first_too = expected.certificates(port), expected.first_too
        self._port, self._credential = port, credential
        self.der = b""

    def judge(self, der: bytes) -> None:
        """Judge a certificate before anything is sent to whoever presents it. Raises Problem."""
        if not (pin := pin_of(der)):
            raise Problem("nonsense", protocol="TLS", detail="its certificate holds no key that can be read")
        key = tls_key(self._port, pin)
        if self._may and key not in self._may:
            raise Problem("another-certificate", key=pin, credential=self._credential)
        if not self._may and not self._first_too:
            raise Problem("first-certificate", key=pin, credential=self._credential)
        self._may, self.der = frozenset({key}), der
