"""What programs send: who they are, by their token, and bodies that are packed."""

import zlib

from django.http import HttpRequest
from ninja.errors import HttpError

MOST = 32 << 20


def bearer(request: HttpRequest) -> str:
    """Return the token a program speaks by (RFC 6750). Raises HttpError."""
    kind, _, token = request.headers.get("Authorization", "").partition(" ")
    if kind != "Bearer" or not token:
        raise HttpError(401, "This call carries a token as its bearer (RFC 6750).")
    return token


def unpacked(request: HttpRequest) -> bytes:
    """Return a body, unpacked where it is gzipped (RFC 1952), up to 32 MB of it. Raises HttpError."""
    if request.headers.get("Content-Encoding") != "gzip":
        return request.body
    unpack = zlib.decompressobj(16 + zlib.MAX_WBITS)
    try:
        body = unpack.decompress(request.body, MOST)
    except zlib.error as error:
        raise HttpError(422, f"The body is not gzipped as it says: {error}.") from None
    if unpack.unconsumed_tail:
        raise HttpError(413, "The body is larger than 32 MB.")
    return body
