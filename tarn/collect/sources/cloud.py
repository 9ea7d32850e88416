"""A cloud account through the provider's own public API (EC2, by its client library): its virtual machines."""

import asyncio
from collections.abc import AsyncIterator, Iterator
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlsplit

import boto3
import urllib3
from botocore.config import Config
from botocore.exceptions import (
    BotoCoreError,
    ClientError,
    ConnectTimeoutError,
    EndpointConnectionError,
    ReadTimeoutError,
)

from tarn.collect.credentials import CloudCredential, keep_to_reach
from tarn.collect.problems import Problem
from tarn.collect.routes import Route
from tarn.collect.sources.finding import Finding
from tarn.collect.sources.kind import Setting, SourceKind
from tarn.core.items import Address, Disk
from tarn.core.sections import Hardware, Identity, Management, Placement, System
from tarn.core.sightings import make_reading

PAGE = 100
FIRST_REGION = "us-east-1"
"""The region that is asked which regions there are; any would do."""
_REFUSED = frozenset({"AuthFailure", "UnauthorizedOperation", "SignatureDoesNotMatch", "InvalidClientTokenId"})
_OURS = "cloud"


@dataclass(frozen=True, slots=True)
class CloudSettings:
    """What of an account is asked: regions parted by commas ("" for all it has switched on), and at which address,
    where it is another service that speaks the same API."""

    regions: str = ""
    endpoint: str = ""
    verify: bool = True


async def read_cloud(route: Route, credential: CloudCredential, settings: CloudSettings) -> AsyncIterator[Finding]:
    """Yield the account's virtual machines, region by region. Raises Problem."""
    regions = [r.strip() for r in settings.regions.split(",") if r.strip()]
    if not regions:
        regions = await asyncio.to_thread(_regions, route, credential, settings)
    for region in regions:
        for one in await asyncio.to_thread(_in_region, route, credential, settings, region):
            yield one


def _client(route: Route, credential: CloudCredential, settings: CloudSettings, region: str) -> Any:
    endpoint = None
    if settings.endpoint:
        parts = urlsplit(settings.endpoint)
        if parts.scheme not in ("http", "https") or not parts.hostname:
            detail = f"“{settings.endpoint}” is no http or https address"
            raise Problem("failed", section="the address", detail=detail)
        keep_to_reach(credential, parts.hostname)
        host, port = route.dial(parts.hostname, parts.port or (443 if parts.scheme == "https" else 80))
        endpoint = f"{parts.scheme}://{host}:{port}"
    if not settings.verify:
        urllib3.disable_warnings(urllib3.exceptions.InsecureRequestWarning)  # who set it up chose so
    wait = Config(
        connect_timeout=credential.timeout,
        read_timeout=credential.timeout,
        retries={"max_attempts": 2, "mode": "standard"},
        proxies={},
    )
    return boto3.session.Session().client(
        "ec2",
        region_name=region,
        endpoint_url=endpoint,
        aws_access_key_id=credential.user,
        aws_secret_access_key=credential.secret,
        verify=settings.verify,
        config=wait,
    )


def _told(credential: CloudCredential, error: Exception, what: str) -> Problem:
    if isinstance(error, ClientError):
        code = str(error.response.get("Error", {}).get("Code", ""))
        if code in _REFUSED:
            return Problem("sign-in-refused", protocol="The cloud account", credential=credential.name)
        return Problem("failed", section=what, detail=f"{code}: {error}"[:200])
    if isinstance(error, ConnectTimeoutError | ReadTimeoutError):
        return Problem("timed-out", protocol="The cloud account", seconds=credential.timeout, section=what)
    if isinstance(error, EndpointConnectionError):
        return Problem("unreachable", detail=str(error)[:160])
    return Problem("failed", section=what, detail=f"{type(error).__name__}: {error}"[:200])


def _regions(route: Route, credential: CloudCredential, settings: CloudSettings) -> list[str]:
    try:
        answer = _client(route, credential, settings, FIRST_REGION).describe_regions()
    except (BotoCoreError, ClientError) as error:
        raise _told(credential, error, "the regions") from None
    return sorted(r["RegionName"] for r in answer["Regions"])


def _in_region(route: Route, credential: CloudCredential, settings: CloudSettings, region: str) -> list[Finding]:
    try:
        client = _client(route, credential, settings, region)
        machines = list(_pages(client, "describe_instances", "Reservations"))
        instances = [i for reservation in machines for i in reservation.get("Instances", [])]
        if not instances:
            return []
        volumes = {v["VolumeId"]: v for v in _pages(client, "describe_volumes", "Volumes")}
        kinds = sorted({i["InstanceType"] for i in instances if i.get("InstanceType")})
        types: dict[str, Any] = {}
        for start in range(0, len(kinds), PAGE):
            asked = client.describe_instance_types(InstanceTypes=kinds[start : start + PAGE])
            types |= {t["InstanceType"]: t for t in asked["InstanceTypes"]}
    except (BotoCoreError, ClientError) as error:
        raise _told(credential, error, f"the region {region}") from None
    return [machine(i, region, volumes, types.get(i.get("InstanceType", ""), {})) for i in instances]


def _pages(client: Any, call: str, key: str) -> Iterator[Any]:
    seen: set[str] = set()
    for page in client.get_paginator(call).paginate(PaginationConfig={"PageSize": PAGE}):
        token = page.get("NextToken")
        if token and token in seen:
            raise Problem("looping-pages", protocol="The cloud account", detail=call)
        seen.add(token or "")
        yield from page.get(key, [])


def machine(instance: dict[str, Any], region: str, volumes: dict[str, Any], kind: dict[str, Any]) -> Finding:
    """Return what the provider says of one virtual machine; of terminated ones too."""
    key = str(instance["InstanceId"])
    tags = {str(t["Key"]): str(t["Value"]) for t in instance.get("Tags", [])}
    state = str(instance.get("State", {}).get("Name", ""))
    private, public = instance.get("PrivateIpAddress"), instance.get("PublicIpAddress")
    addresses = [Address(address=a, interface=n) for a, n in ((private, "private"), (public, "public")) if a]
    disks = []
    for mapped in instance.get("BlockDeviceMappings", []):
        volume = volumes.get(mapped.get("Ebs", {}).get("VolumeId", ""), {})
        size = int(volume["Size"]) << 30 if volume.get("Size") else None
        model = str(volume.get("VolumeType", ""))
        disks.append(Disk(name=mapped["DeviceName"], model=model, serial=volume.get("VolumeId", ""), size=size))
    cores = kind.get("VCpuInfo", {}).get("DefaultVCpus")
    memory = kind.get("MemoryInfo", {}).get("SizeInMiB")
    said = [f"image {instance.get('ImageId', 'unknown')}", state]
    said += [f"{k} = {v}" for k, v in sorted(tags.items()) if k != "Name"]
    name = tags.get("Name") or str(instance.get("PrivateDnsName") or "").partition(".")[0] or key
    windows = "windows" in str(instance.get("Platform") or instance.get("PlatformDetails") or "").lower()
    zone = instance.get("Placement", {}).get("AvailabilityZone")
    readings = [
        make_reading(
            "identity",
            Identity(name=name[:400], instance=key, model=instance.get("InstanceType")),
            _OURS,
        ),
        make_reading(
            "system",
            System(
                platform="Windows" if windows else "Linux",
                arch=instance.get("Architecture"),
                description="; ".join(said)[:480],
            ),
            _OURS,
        ),
        make_reading("hardware", Hardware(cores=cores, memory=int(memory) << 20 if memory else None), _OURS),
        make_reading("management", Management(site=zone or region, managed_by=f"cloud, {region}"), _OURS),
        make_reading("placement", Placement(address=private, place=f"Cloud {region}"), _OURS),
        make_reading("addresses", sorted(addresses, key=lambda a: a.address), _OURS),
        make_reading("disks", sorted(disks, key=lambda d: d.name), _OURS),
    ]
    return Finding(key, name, readings, facts={"state": state, "region": region})


KINDS = (
    SourceKind(
        "cloud account",
        "cloud",
        "an account with a cloud provider: its virtual machines",
        CloudSettings,
        (
            Setting("regions", "Regions, parted by commas; empty: all"),
            Setting("endpoint", "Another service of the same API"),
        ),
        lambda settings, asking: read_cloud(asking.route, asking.credential, settings),
        CloudCredential,
        "cloud",
        must="A cloud account is asked with a cloud key pair.",
        host_in="endpoint",
    ),
)
