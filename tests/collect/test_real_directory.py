"""The directory collector against a real OpenLDAP server on loopback: bind, pages, TLS, refusals."""

import shutil
import socket
import subprocess
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from django.contrib.auth import authenticate

from tarn.apps.people.actions.accounts import make_person
from tarn.collect.credentials import LdapCredential
from tarn.collect.ldap.client import directory
from tarn.collect.presented import Expected
from tarn.collect.problems import Problem
from tarn.collect.routes import DIRECT
from tarn.collect.sources.directory import DirectorySettings, read_directory
from tarn.collect.trial import TITLES, try_credential

SLAPD = shutil.which("slapd", path="/usr/sbin:/usr/bin")
SLAPADD = shutil.which("slapadd", path="/usr/sbin:/usr/bin")
pytestmark = [pytest.mark.host, pytest.mark.skipif(not SLAPD or not SLAPADD, reason="needs slapd")]

BASE, ROOT, PASSWORD = "dc=kelp,dc=example", "cn=admin,dc=kelp,dc=example", "ebb-and-flow"
SCHEMA = """
attributetype ( 1.3.6.1.4.1.59.1.1 NAME 'operatingSystem' SUP name SINGLE-VALUE )
attributetype ( 1.3.6.1.4.1.59.1.2 NAME 'dNSHostName' SUP name SINGLE-VALUE )
objectclass ( 1.3.6.1.4.1.59.2.1 NAME 'computer' SUP device STRUCTURAL MAY ( operatingSystem $ dNSHostName ) )
"""
NUMBER = 1300


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@pytest.fixture(scope="module")
def slapd(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[int, int, Path]]:
    folder = tmp_path_factory.mktemp("slapd")
    (folder / "data").mkdir()
    (folder / "own.schema").write_text(SCHEMA)
    # Debian's servers are built on GnuTLS, which wants an RSA key or one of the NIST curves for its own key.
    key = folder / "rsa.pem"
    made = ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-keyout", key, "-out", folder / "cert.pem"]
    subprocess.run(
        [*made, "-days", "30", "-subj", "/CN=ldap.kelp.example", "-addext", "subjectAltName=IP:127.0.0.1"],
        check=True,
        capture_output=True,
    )
    (folder / "slapd.conf").write_text(
        f"include /etc/ldap/schema/core.schema\ninclude /etc/ldap/schema/cosine.schema\ninclude {folder}/own.schema\n"
        f"pidfile {folder}/pid\nmodulepath /usr/lib/ldap\nmoduleload back_mdb\nTLSCertificateFile {folder}/cert.pem\n"
        f"TLSCertificateKeyFile {key}\nsizelimit 500\ndatabase mdb\nsuffix {BASE}\nrootdn {ROOT}\nrootpw {PASSWORD}\n"
        f'directory {folder}/data\naccess to * by users read by anonymous auth\nlimits dn.exact="cn=reader,{BASE}" size=unlimited\n'
    )
    entries = [f"dn: {BASE}\nobjectClass: dcObject\nobjectClass: organization\no: Kelp\ndc: kelp\n"]
    entries.append(f"dn: ou=bays,{BASE}\nobjectClass: organizationalUnit\nou: bays\n")
    for n in range(NUMBER):
        system = "Windows Server 2022" if n % 10 == 0 else "Windows 11 Pro"
        entries.append(
            f"dn: cn=pc-{n:04d},ou=bays,{BASE}\nobjectClass: computer\ncn: pc-{n:04d}\n"
            f"dNSHostName: pc-{n:04d}.kelp.example\noperatingSystem: {system}\nserialNumber: K-{n:05d}\n"
        )
    entries.append(
        f"dn: cn=reader,{BASE}\nobjectClass: person\nobjectClass: simpleSecurityObject\ncn: reader\nsn: r\nuserPassword: {PASSWORD}\n"
    )
    entries.append(entries[-1].replace("reader", "bounded"))
    (folder / "all.ldif").write_text("\n".join(entries))
    subprocess.run([SLAPADD, "-q", "-f", folder / "slapd.conf", "-l", folder / "all.ldif"], check=True)
    plain, tls = free_port(), free_port()
    urls = f"ldap://127.0.0.1:{plain} ldaps://127.0.0.1:{tls}"
    running = subprocess.Popen([SLAPD, "-d", "0", "-f", folder / "slapd.conf", "-h", urls], stderr=subprocess.DEVNULL)
    until = time.monotonic() + 10
    while time.monotonic() < until:
        assert running.poll() is None, "slapd ended by itself"
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", tls)) == 0:
                break
        time.sleep(0.05)
    yield plain, tls, folder / "cert.pem"
    running.terminate()
    running.wait(5)


def reader(port: int, **rest: object) -> LdapCredential:
    values = {"name": "reader", "user": f"cn=reader,{BASE}", "password": PASSWORD, "port": port, "timeout": 5, **rest}
    return LdapCredential(**values)  # type: ignore[arg-type]


@pytest.mark.parametrize("which", ["plain", "tls"])
async def test_every_computer_comes_over_all_pages(slapd, which):
    credential = reader(slapd[0], plain=True) if which == "plain" else reader(slapd[1])
    settings = DirectorySettings("127.0.0.1")
    if which == "tls":
        with pytest.raises(Problem, match="no authority is asked") as caught:
            [f async for f in read_directory(DIRECT, credential, settings)]
        settings = DirectorySettings("127.0.0.1", certificate=caught.value.met["pin"])
    told = [f async for f in read_directory(DIRECT, credential, settings)]
    assert [f.person.name for f in told if f.person] == ["reader", "bounded"], "who is no computer is a person"
    found = [f for f in told if not f.person]
    assert len(found) == len({f.key for f in found}) == NUMBER
    one = next(f for f in found if f.label.startswith("pc-0010"))
    sections = {r.section: r.facts for r in one.readings}
    assert (sections["identity"].serial, sections["identity"].domain) == ("K-00010", "kelp.example")
    assert sections["system"].os_name == "Windows Server 2022"
    assert sections["management"].unit == "bays"


async def test_refusal_certificate_and_silence_are_told_apart(slapd):
    wrong = [
        (reader(slapd[0], plain=True, password="no"), "sign-in-refused"),
        (reader(slapd[1], verify=True), "untrusted"),
        (reader(free_port(), plain=True), "refused"),
    ]
    for credential, code in wrong:
        with pytest.raises(Problem) as caught:
            async with directory(DIRECT, "127.0.0.1", credential, Expected()):
                pass
        assert caught.value.code == code


async def test_a_trial_of_the_bind_passes_and_counts(slapd):
    steps = {s.step: s async for s in try_credential(DIRECT, "127.0.0.1", reader(slapd[1]), Expected())}
    assert list(steps) == list(TITLES)
    assert steps["server"].verdict == "passed"
    assert f"{NUMBER} computers" in steps["rights"].says


async def test_a_search_that_is_cut_short_gives_what_came_and_says_so(slapd):
    """By the server's own limits: `sizelimit 500`, and a reader without `size=unlimited` (slapd.conf(5))."""
    limited = reader(slapd[0], plain=True, user=f"cn=bounded,{BASE}")
    found = []

    async def read():
        async for one in read_directory(DIRECT, limited, DirectorySettings("127.0.0.1")):
            found.append(one)

    with pytest.raises(Problem) as caught:
        await read()
    assert caught.value.code == "cut-short"
    assert 0 < len([f for f in found if not f.person]) < NUMBER


async def test_a_base_that_is_not_there_is_no_empty_directory(slapd):
    with pytest.raises(Problem, match="no entry “dc=nowhere”"):
        [
            f
            async for f in read_directory(
                DIRECT, reader(slapd[0], plain=True), DirectorySettings("127.0.0.1", "dc=nowhere")
            )
        ]


@pytest.mark.django_db
@pytest.mark.parametrize("scheme", ["ldaps", "ldap"])
def test_people_sign_in_by_the_directory_over_tls_alone(slapd, settings, scheme):
    """The account stands here, the password there; one with a password of its own is never asked about there."""
    make_person(None, "reader", None, "viewer")
    make_person(None, "bounded", "slack-tide-5678", "viewer")
    settings.TARN_DIRECTORY_URL = f"{scheme}://127.0.0.1:{slapd[1] if scheme == 'ldaps' else slapd[0]}"
    settings.TARN_DIRECTORY_NAME = f"cn={{name}},{BASE}"
    settings.TARN_DIRECTORY_CA = str(slapd[2])
    assert authenticate(None, username="reader", password=PASSWORD).username == "reader"
    for name, password in (
        ("reader", "wrong"),
        ("reader", ""),
        ("bounded", PASSWORD),
        ("nobody", PASSWORD),
        ("re*", "x"),
    ):
        assert authenticate(None, username=name, password=password) is None, name
    settings.TARN_DIRECTORY_CA = ""
    assert authenticate(None, username="reader", password=PASSWORD) is None, "a certificate of nobody we trust"
