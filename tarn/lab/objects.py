"""A stand-in for an object store that speaks S3: buckets in memory or a folder, path-style addresses, on loopback.

What clients of copies need of it: putting (also in parts, and in chunks as SDKs send them), getting (also by range),
listing, deleting one or many. It checks who signs (the access key), not the signature.
"""

import asyncio
import hashlib
import re
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from xml.sax.saxutils import escape

from aiohttp import web

ACCESS_KEY, SECRET = "low-water", "low-water-secret"


class Store:
    """Objects by bucket and key."""

    def __init__(self) -> None:
        self.objects: dict[str, tuple[bytes, datetime]] = {}
        self.parts: dict[str, dict[int, bytes]] = {}

    def app(self) -> web.Application:
        """Return the server."""
        app = web.Application(client_max_size=1 << 30)
        app.router.add_route("*", "/{path:.*}", self._answer)
        return app

    async def _answer(self, request: web.Request) -> web.StreamResponse:
        signed = request.headers.get("Authorization", "")
        if f"Credential={ACCESS_KEY}/" not in signed:
            return _refused(403, "InvalidAccessKeyId")
        path, query = request.match_info["path"], request.query
        bucket, _, key = path.partition("/")
        if request.method == "GET" and not key:
            return self._listed(bucket, query)
        if request.method == "POST" and "delete" in query:
            gone = re.findall(rb"<Key>(.*?)</Key>", await request.read())
            for one in gone:
                self.objects.pop(f"{bucket}/{one.decode()}", None)
            return _xml(
                "<DeleteResult>"
                + "".join(f"<Deleted><Key>{escape(g.decode())}</Key></Deleted>" for g in gone)
                + "</DeleteResult>"
            )
        if request.method == "POST" and "uploads" in query:
            number = f"u{len(self.parts) + 1}"
            self.parts[number] = {}
            return _xml(
                f"<InitiateMultipartUploadResult><Bucket>{bucket}</Bucket><Key>{escape(key)}</Key><UploadId>{number}</UploadId></InitiateMultipartUploadResult>"
            )
        if request.method == "POST":
            parts = self.parts.pop(query["uploadId"])
            return self._put(path, b"".join(parts[n] for n in sorted(parts)), xml=True)
        if request.method == "PUT":
            body = _unchunked(request, await request.read())
            if "uploadId" in query:
                self.parts[query["uploadId"]][int(query["partNumber"])] = body
                return web.Response(headers={"ETag": _tag(body)})
            return self._put(path, body)
        if request.method == "DELETE":
            self.objects.pop(path, None)
            return web.Response(status=204)
        return self._got(request, path)

    def _put(self, path: str, body: bytes, *, xml: bool = False) -> web.Response:
        self.objects[path] = body, datetime.now(UTC)
        if xml:
            return _xml(
                f"<CompleteMultipartUploadResult><ETag>{escape(_tag(body))}</ETag></CompleteMultipartUploadResult>"
            )
        return web.Response(headers={"ETag": _tag(body)})

    def _got(self, request: web.Request, path: str) -> web.Response:
        held = self.objects.get(path)
        if held is None:
            return _refused(404, "NoSuchKey")
        body, at = held
        headers = {
            "ETag": _tag(body),
            "Last-Modified": at.strftime("%a, %d %b %Y %H:%M:%S GMT"),
            "Accept-Ranges": "bytes",
        }
        asked = re.fullmatch(r"bytes=(\d+)-(\d*)", request.headers.get("Range", ""))
        if asked:
            begin, end = int(asked[1]), min(int(asked[2] or len(body) - 1), len(body) - 1)
            headers["Content-Range"] = f"bytes {begin}-{end}/{len(body)}"
            return web.Response(status=206, body=body[begin : end + 1], headers=headers)
        return web.Response(body=body, headers=headers)

    def _listed(self, bucket: str, query: Any) -> web.Response:
        prefix, after, mark = query.get("prefix", ""), query.get("start-after", ""), query.get("delimiter", "")
        most, begin = int(query.get("max-keys", "1000")), query.get("continuation-token", after)
        keys = sorted(k.partition("/")[2] for k in self.objects if k.startswith(f"{bucket}/{prefix}"))
        folders = sorted(
            {prefix + k[len(prefix) :].partition(mark)[0] + mark for k in keys if mark and mark in k[len(prefix) :]}
        )
        plain = [k for k in keys if k > begin and not (mark and mark in k[len(prefix) :])]
        some, more = plain[:most], len(plain) > most
        told = "".join(
            f"<Contents><Key>{escape(k)}</Key><LastModified>{self.objects[f'{bucket}/{k}'][1].strftime('%Y-%m-%dT%H:%M:%S.%fZ')}</LastModified>"
            f"<ETag>{escape(_tag(self.objects[f'{bucket}/{k}'][0]))}</ETag><Size>{len(self.objects[f'{bucket}/{k}'][0])}</Size><StorageClass>STANDARD</StorageClass></Contents>"
            for k in some
        )
        told += "".join(f"<CommonPrefixes><Prefix>{escape(f)}</Prefix></CommonPrefixes>" for f in folders)
        token = f"<NextContinuationToken>{escape(some[-1])}</NextContinuationToken>" if more else ""
        return _xml(
            f"<ListBucketResult><Name>{bucket}</Name><Prefix>{escape(prefix)}</Prefix><KeyCount>{len(some)}</KeyCount><MaxKeys>{most}</MaxKeys><IsTruncated>{str(more).lower()}</IsTruncated>{token}{told}</ListBucketResult>"
        )


def _unchunked(request: web.Request, body: bytes) -> bytes:
    """Return what was sent, where it came in chunks that are signed or checked each (aws-chunked)."""
    if "aws-chunked" not in request.headers.get("Content-Encoding", "") and "STREAMING" not in request.headers.get(
        "x-amz-content-sha256", ""
    ):
        return body
    out, at = b"", 0
    while at < len(body):
        end = body.index(b"\r\n", at)
        size = int(body[at:end].split(b";")[0], 16)
        if size == 0:
            break
        out += body[end + 2 : end + 2 + size]
        at = end + 2 + size + 2
    return out


def _tag(body: bytes) -> str:
    return f'"{hashlib.md5(body, usedforsecurity=False).hexdigest()}"'


def _xml(text: str) -> web.Response:
    return web.Response(text=f'<?xml version="1.0" encoding="UTF-8"?>{text}', content_type="application/xml")


def _refused(status: int, code: str) -> web.Response:
    body = f'<?xml version="1.0"?><Error><Code>{code}</Code><Message>{code}</Message></Error>'
    return web.Response(status=status, text=body, content_type="application/xml")


def main(port: int, ready: Path) -> None:
    """Serve until ended."""

    async def serve() -> None:
        runner = web.AppRunner(Store().app())
        await runner.setup()
        await web.TCPSite(runner, "127.0.0.1", port).start()
        ready.touch()
        await asyncio.Event().wait()

    asyncio.run(serve())
