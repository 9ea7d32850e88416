"""A stand-in for a cloud provider: the EC2 query API (form in, XML out), signed requests checked (Signature Version 4)."""

import datetime as dt
import hashlib
import hmac
import re
from urllib.parse import parse_qsl, quote
from xml.sax.saxutils import escape

from aiohttp import web

from tarn.lab.parts import digest

ADDRESS = "10.60.4.64"
KEY, SECRET = "TARNLABKEY0000000001", "low-water-cloud-42"
NAMESPACE = "http://ec2.amazonaws.com/doc/2016-11-15/"
TYPES = {"small.2": (2, 4096), "large.8": (8, 32768)}
REGIONS = {
    "firth-1": ("skc-web-01", "skc-web-02", "skc-queue-01", "skc-mirror-01"),
    "sound-1": ("skc-backup-01", "skc-trial-win"),
}
"""By region the machines of the account."""
PAGE = 3


def _machine(name: str, number: int, region: str) -> dict[str, str]:
    big = "queue" in name or "backup" in name
    return {
        "id": f"i-{digest('cloud', name) % 16**17:017x}",
        "volume": f"vol-{digest('volume', name) % 16**17:017x}",
        "name": name,
        "type": "large.8" if big else "small.2",
        "state": "stopped" if "trial" in name else "running",
        "address": f"10.160.{1 if region == 'firth-1' else 2}.{10 + number}",
        "platform": "windows" if name.endswith("win") else "",
        "image": f"ami-{digest('image', name.split('-')[1]) % 16**17:017x}",
        "size": str(500 if big else 40),
    }


def machines(region: str) -> list[dict[str, str]]:
    """Return a region's machines."""
    return [_machine(name, n, region) for n, name in enumerate(REGIONS.get(region, ()))]


def _signed(request: web.Request, body: bytes) -> str:
    """Return the region a request is signed for. Raises PermissionError where the signature is not right."""
    told = re.match(
        r"AWS4-HMAC-SHA256 Credential=([^/]+)/(\d{8})/([^/]+)/ec2/aws4_request, ?SignedHeaders=([^,]+), ?Signature=(\w+)",
        request.headers.get("Authorization", ""),
    )
    if not told or told[1] != KEY:
        raise PermissionError
    _, day, region, names, signature = told.groups()
    headers = "".join(f"{n}:{request.headers.get(n, '').strip()}\n" for n in names.split(";"))
    canonical = "\n".join([request.method, quote(request.path), "", headers, names, hashlib.sha256(body).hexdigest()])
    scope = f"{day}/{region}/ec2/aws4_request"
    stamp = request.headers.get("X-Amz-Date", "")
    text = "\n".join(["AWS4-HMAC-SHA256", stamp, scope, hashlib.sha256(canonical.encode()).hexdigest()])
    key = ("AWS4" + SECRET).encode()
    for part in (day, region, "ec2", "aws4_request"):
        key = hmac.new(key, part.encode(), hashlib.sha256).digest()
    if not hmac.compare_digest(hmac.new(key, text.encode(), hashlib.sha256).hexdigest(), signature):
        raise PermissionError
    return str(region)


def _items(name: str, rows: list[str]) -> str:
    return f"<{name}>{''.join(f'<item>{r}</item>' for r in rows)}</{name}>"


def _instance(m: dict[str, str], since: dt.datetime) -> str:
    platform = f"<platform>{m['platform']}</platform>" if m["platform"] else ""
    mapped = _items(
        "blockDeviceMapping", [f"<deviceName>/dev/sda1</deviceName><ebs><volumeId>{m['volume']}</volumeId></ebs>"]
    )
    tags = _items(
        "tagSet", [f"<key>Name</key><value>{escape(m['name'])}</value>", "<key>owner</key><value>Ticketing</value>"]
    )
    return (
        f"<instanceId>{m['id']}</instanceId><imageId>{m['image']}</imageId>"
        f"<instanceState><code>16</code><name>{m['state']}</name></instanceState>"
        f"<privateDnsName>ip-{m['address'].replace('.', '-')}.internal</privateDnsName>"
        f"<instanceType>{m['type']}</instanceType><launchTime>{since:%Y-%m-%dT%H:%M:%S.000Z}</launchTime>"
        f"<placement><availabilityZone>zone-a</availabilityZone></placement>{platform}"
        f"<privateIpAddress>{m['address']}</privateIpAddress><architecture>x86_64</architecture>{mapped}{tags}"
    )


def _answer(region: str, asked: dict[str, str], since: dt.datetime) -> str:
    action, held = asked.get("Action", ""), machines(region)
    if action == "DescribeRegions":
        rows = [f"<regionName>{r}</regionName><regionEndpoint>{r}.cloud.example</regionEndpoint>" for r in REGIONS]
        return _items("regionInfo", rows)
    if action == "DescribeInstances":
        start = int(asked.get("NextToken") or 0)
        some = held[start : start + PAGE]
        more = f"<nextToken>{start + PAGE}</nextToken>" if start + PAGE < len(held) else ""
        rows = [f"<reservationId>r-1</reservationId>{_items('instancesSet', [_instance(m, since)])}" for m in some]
        return _items("reservationSet", rows) + more
    if action == "DescribeVolumes":
        return _items(
            "volumeSet",
            [f"<volumeId>{m['volume']}</volumeId><size>{m['size']}</size><volumeType>gp3</volumeType>" for m in held],
        )
    if action == "DescribeInstanceTypes":
        wanted = [v for k, v in asked.items() if k.startswith("InstanceType.")]
        return _items(
            "instanceTypeSet",
            [
                f"<instanceType>{t}</instanceType><vCpuInfo><defaultVCpus>{TYPES[t][0]}</defaultVCpus></vCpuInfo>"
                f"<memoryInfo><sizeInMiB>{TYPES[t][1]}</sizeInMiB></memoryInfo>"
                for t in wanted
            ],
        )
    raise LookupError(action)


def cloud(now: dt.datetime) -> web.Application:
    """Serve the account."""

    def refusal(status: int, code: str, message: str) -> web.Response:
        text = (
            f'<?xml version="1.0"?><Response><Errors><Error><Code>{code}</Code><Message>{escape(message)}</Message>'
            "</Error></Errors><RequestID>lab</RequestID></Response>"
        )
        return web.Response(text=text, status=status, content_type="text/xml")

    async def call(request: web.Request) -> web.Response:
        body = await request.read()
        asked = dict(parse_qsl(body.decode()))
        try:
            region = _signed(request, body)
            inside = _answer(region, asked, now - dt.timedelta(days=90))
        except PermissionError:
            return refusal(401, "AuthFailure", "The request signature we calculated does not match.")
        except LookupError as error:
            return refusal(400, "InvalidAction", f"The action {error} is not valid.")
        name = f"{asked['Action']}Response"
        text = f'<?xml version="1.0"?><{name} xmlns="{NAMESPACE}"><requestId>lab</requestId>{inside}</{name}>'
        return web.Response(text=text, content_type="text/xml")

    app = web.Application()
    app.router.add_post("/", call)
    return app
