"""Where a continuous copy is kept: a folder, which another machine may share, or a bucket of an object store."""

import json
import os
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol
from urllib.parse import urlsplit


class CopyError(RuntimeError):
    """A copy that cannot be kept or read; the message says which and why."""


class Place(Protocol):
    """A place of small files beside the database, by name."""

    @property
    def said(self) -> str:
        """The place in words."""

    def put(self, name: str, content: bytes) -> None:
        """Keep a file whole or not at all."""

    def get(self, name: str) -> bytes | None:
        """Return a file; None where there is none of that name."""

    def names(self, prefix: str) -> set[str]:
        """Return the names of files that begin so."""

    def newest(self) -> float | None:
        """Return when the copy of the database grew last, in seconds since 1970."""

    def replica(self) -> dict[str, Any]:
        """Return the place of the database as Litestream is told it."""


@dataclass(frozen=True)
class Folder:
    """A folder."""

    path: Path

    @property
    def said(self) -> str:
        """The place in words."""
        return str(self.path)

    def put(self, name: str, content: bytes) -> None:
        """Keep a file whole or not at all."""
        target = self.path / name
        target.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        beside = target.with_name(f".{target.name}.part")
        beside.write_bytes(content)
        beside.chmod(0o600)
        beside.replace(target)

    def get(self, name: str) -> bytes | None:
        """Return a file; None where there is none of that name."""
        try:
            return (self.path / name).read_bytes()
        except FileNotFoundError:
            return None

    def names(self, prefix: str) -> set[str]:
        """Return the names of files that begin so."""
        found = (self.path / prefix).glob("*") if prefix else self.path.glob("*")
        return {str(p.relative_to(self.path)) for p in found if p.is_file() and not p.name.startswith(".")}

    def newest(self) -> float | None:
        """Return when the copy of the database grew last."""
        return max((p.stat().st_mtime for p in (self.path / "database").rglob("*.ltx")), default=None)

    def replica(self) -> dict[str, Any]:
        """Return the place of the database as Litestream is told it."""
        return {"type": "file", "path": str(self.path / "database")}


@dataclass(frozen=True)
class Bucket:
    """A bucket of an object store that speaks S3; `endpoint`: where it is, if it is not the provider's own."""

    bucket: str
    prefix: str
    endpoint: str

    @property
    def said(self) -> str:
        """The place in words."""
        return f"s3://{self.bucket}/{self.prefix}" + (f" at {self.endpoint}" if self.endpoint else "")

    def _client(self) -> Any:
        import boto3

        return boto3.client("s3", endpoint_url=self.endpoint or None, region_name=_region())

    def put(self, name: str, content: bytes) -> None:
        """Keep a file whole or not at all."""
        self._client().put_object(Bucket=self.bucket, Key=f"{self.prefix}/{name}", Body=content)

    def get(self, name: str) -> bytes | None:
        """Return a file; None where there is none of that name."""
        from botocore.exceptions import ClientError

        try:
            answer = self._client().get_object(Bucket=self.bucket, Key=f"{self.prefix}/{name}")
        except ClientError as fault:
            if fault.response.get("Error", {}).get("Code") in ("NoSuchKey", "404"):
                return None
            raise CopyError(f"{self.said} cannot be read: {fault}") from None
        content: bytes = answer["Body"].read()
        return content

    def _listed(self, prefix: str) -> Any:
        pages = self._client().get_paginator("list_objects_v2")
        for page in pages.paginate(Bucket=self.bucket, Prefix=f"{self.prefix}/{prefix}"):
            yield from page.get("Contents", ())

    def names(self, prefix: str) -> set[str]:
        """Return the names of files that begin so."""
        return {one["Key"].removeprefix(f"{self.prefix}/") for one in self._listed(prefix)}

    def newest(self) -> float | None:
        """Return when the copy of the database grew last."""
        return max((one["LastModified"].timestamp() for one in self._listed("database/")), default=None)

    def replica(self) -> dict[str, Any]:
        """Return the place of the database as Litestream is told it."""
        told = {"type": "s3", "bucket": self.bucket, "path": f"{self.prefix}/database", "region": _region()}
        return {**told, "endpoint": self.endpoint, "force-path-style": True} if self.endpoint else told


def _region() -> str:
    return os.environ.get("AWS_REGION", "us-east-1")


def place_of(url: str) -> Place:
    """Return the place an address means: a folder's whole path, or s3://BUCKET/PREFIX. Raises CopyError."""
    parts = urlsplit(url)
    if parts.scheme == "s3":
        if not parts.netloc or not parts.path.strip("/"):
            raise CopyError(f"“{url}” names no bucket with a prefix, such as s3://copies/tarn.")
        if not (os.environ.get("AWS_ACCESS_KEY_ID") and os.environ.get("AWS_SECRET_ACCESS_KEY")):
            raise CopyError("An object store is written to with AWS_ACCESS_KEY_ID and AWS_SECRET_ACCESS_KEY.")
        return Bucket(parts.netloc, parts.path.strip("/"), os.environ.get("TARN_COPY_ENDPOINT", ""))
    if parts.scheme not in ("", "file") or not parts.path.startswith("/"):
        raise CopyError(f"“{url}” is no place for a copy: a folder’s whole path, or s3://BUCKET/PREFIX.")
    return Folder(Path(parts.path))


def configuration(database: Path, place: Place) -> str:
    """Return what Litestream is told, as JSON, which YAML 1.2 has as a part: a copy within a second, a week of any
    moment to go back to.
    """
    replica = {**place.replica(), "sync-interval": "1s"}
    told = {
        "logging": {"level": "warn", "stderr": True},
        "snapshot": {"interval": "24h", "retention": "168h"},
        "dbs": [{"path": str(database), "replica": replica}],
    }
    return json.dumps(told, indent=1)
