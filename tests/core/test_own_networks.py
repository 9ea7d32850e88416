"""The networks a machine is in, by its routing table."""

import struct

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.own_networks import attached

HEAD = "Iface\tDestination\tGateway \tFlags\tRefCnt\tUse\tMetric\tMask\tMTU\tWindow\tIRTT\n"


def line(destination, gateway, flags, mask):
    return f"eth0\t{destination}\t{gateway}\t{flags}\t0\t0\t0\t{mask}\t0\t0\t0\n"


def test_networks_attached_are_told_and_ways_elsewhere_are_not():
    table = [
        HEAD,
        line("00000000", "0104A8C0", "0003", "00000000"),  # the way out
        line("0004A8C0", "00000000", "0001", "00FFFFFF"),  # 192.168.4.0/24
        line("0000A8C0", "0104A8C0", "0003", "0000FFFF"),  # behind a gateway
        line("0000FEA9", "00000000", "0001", "0000FFFF"),  # link-local (RFC 3927)
        line("0000000A", "00000000", "0001", "000000FF"),  # 10.0.0.0/8: too large to be looked at whole
        line("0005A8C0", "00000000", "0000", "00FFFFFF"),  # not up
        "\n",
    ]
    assert list(map(str, attached(table))) == ["192.168.4.0/24", "10.0.0.0/22"]
    assert attached([]) == []


@pytest.mark.parametrize("wrong", ["nothing of the kind", line("zz", "0", "1", "0")])
def test_what_is_no_routing_table_is_refused(wrong):
    with pytest.raises(ValueError):
        attached([HEAD, wrong])


@given(st.integers(0, 2**32 - 1), st.integers(22, 30))
def test_the_network_told_is_that_of_the_table(address, bits):
    mask = (2**32 - 1) << (32 - bits) & (2**32 - 1)
    written = [f"{struct.unpack('<I', struct.pack('>I', n))[0]:08X}" for n in (address & mask, mask)]
    told = attached([HEAD, line(written[0], "00000000", "0001", written[1])])
    assert all(int(n.network_address) == address & mask and n.prefixlen == bits for n in told)
