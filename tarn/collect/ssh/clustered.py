"""What a Linux computer tells of the cluster it is of: Pacemaker's nodes and what it keeps running (its CIB in XML)."""

from collections.abc import Iterator
from typing import Any

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import ParseError, fromstring

from tarn.collect.ssh.parsing import Answers, Ask, ReadingStep, Unread
from tarn.core.hosting import ClusterPart
from tarn.core.sightings import make_reading

_YES = frozenset(("true", "on", "yes", "y", "1"))
"""What Pacemaker takes for yes in its configuration."""
_ADDRESSES = frozenset(("IPaddr", "IPaddr2", "IPv6addr"))
_CIB = "cibadmin -Q"


def cluster_parts(said: Answers) -> list[Any]:
    """Read the nodes of a cluster and what it keeps running, as `cibadmin --query` prints them."""
    if not said.there("cib") and not said.ran("cib_as_root"):
        return []
    if not said.ran("cib") and not said.ran("cib_as_root"):
        return []  # it is installed and no cluster runs, or this account may not ask it
    text, _ = said.as_root("cib", _CIB)
    try:
        cib = fromstring(text.strip())
    except (ParseError, DefusedXmlException, ValueError) as error:
        raise Unread(f"`{_CIB}` printed no XML: {error}"[:200]) from None
    if cib.tag != "cib":
        raise Unread(f"`{_CIB}` printed no configuration of a cluster but <{cib.tag[:40]}>")
    name = (_value(cib, "configuration/crm_config//nvpair", "cluster-name") or "cluster")[:300]
    items = {(part.sort, part.name): part for part in (*_nodes(cib, name), *_kept(cib, name))}
    return [make_reading("cluster_parts", [items[k] for k in sorted(items)], "ssh.cluster")]


def _nodes(cib: Any, cluster: str) -> Iterator[ClusterPart]:
    up = {s.get("uname"): s.get("crmd") == "online" or (s.get("crmd", "").isdigit() and s.get("crmd") != "0")
          for s in cib.findall("status/node_state")}  # fmt: skip
    for node in cib.findall("configuration/nodes/node"):
        called = (node.get("uname") or "").strip()[:300]
        if called:
            standby = (_value(node, "instance_attributes/nvpair", "standby") or "").lower() in _YES
            state = "offline" if not up.get(called) else "stand-by" if standby else "online"
            yield ClusterPart(cluster=cluster, sort="node", name=called, state=state)


def _kept(cib: Any, cluster: str) -> Iterator[ClusterPart]:
    for one in cib.findall("configuration/resources//primitive"):
        kind = (one.get("type") or "")[:100]
        ip, config = (_value(one, "instance_attributes/nvpair", n) for n in ("ip", "config"))
        if kind in _ADDRESSES and ip:
            yield ClusterPart(cluster=cluster, sort="address", name=ip[:300])
        elif kind == "VirtualDomain" and config:
            guest = config.rsplit("/", 1)[-1].removesuffix(".xml")
            yield ClusterPart(cluster=cluster, sort="guest", name=guest[:300])
        elif called := (one.get("id") or "").strip()[:300]:
            yield ClusterPart(cluster=cluster, sort="resource", name=called, state=kind)


def _value(under: Any, path: str, name: str) -> str | None:
    return next((p.get("value") for p in under.findall(path) if p.get("name") == name), None)


STEPS: tuple[ReadingStep, ...] = (
    ReadingStep("cluster_parts", 3, (Ask("cib", f"{_CIB} 2>/dev/null", root=True),), cluster_parts),
)
"""What is read of a computer that is of a cluster."""
