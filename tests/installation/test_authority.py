"""The authority of an installation: for the names given and no others."""

import ssl
import stat
from datetime import timedelta

import pytest
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization

from tight_ledger.core.base.errors import Invalid
from tight_ledger.installation import authority
from tight_ledger.installation.authority import certificates, require_name
from tight_ledger.installation.serving import Place
from tight_ledger.store import clock

NOW = clock.of_the_machine()


def shake_hands(trusted, certificate, key, name) -> None:
    """A client and a server, without a network."""
    to_client, to_server = ssl.MemoryBIO(), ssl.MemoryBIO()
    serving = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    serving.load_cert_chain(certificate, key)
    server = serving.wrap_bio(to_server, to_client, server_side=True)
    client = ssl.create_default_context(cafile=trusted).wrap_bio(to_client, to_server, server_hostname=name)
    done = set()
    while len(done) < 2:
        for side in (client, server):
            try:
                side.do_handshake()
                done.add(side)
            except ssl.SSLWantReadError:
                pass


@pytest.mark.parametrize("names", [["192.0.2.10"], ["workshop.local"], ["workshop.local", "192.0.2.10"], ["2001:db8::5"]])
def test_who_trusts_it_reaches_the_server_by_each_name(tmp_path, names):
    made = certificates(tmp_path / "tls", names, NOW)
    for name in names:
        shake_hands(made.authority, made.certificate, made.key, name)


@pytest.mark.parametrize("names", [["192.0.2.10"], ["workshop.local"]])
@pytest.mark.parametrize("other", ["192.0.2.11", "mail.example", "2001:db8::6"])
def test_whoever_steals_its_key_can_vouch_for_no_other_name(tmp_path, names, other):
    made = certificates(tmp_path / "tls", names, NOW)
    vouching = x509.load_pem_x509_certificate(made.authority.read_bytes())
    stolen = serialization.load_pem_private_key((tmp_path / "tls" / "authority.key").read_bytes(), None)
    forged = authority._server([other], vouching, stolen, NOW)
    authority._keep(tmp_path, "forged", *forged)
    with pytest.raises(ssl.SSLCertVerificationError, match="subtree violation"):
        shake_hands(made.authority, tmp_path / "forged.pem", tmp_path / "forged.key", other)


def test_it_stays_while_the_names_stay_and_the_servers_certificate_is_renewed_in_time(tmp_path):
    first = certificates(tmp_path, ["workshop.local"], NOW)
    again = certificates(tmp_path, ["workshop.local"], NOW)
    assert (first.is_new, again.is_new, again.fingerprint) == (True, False, first.fingerprint)
    before = first.certificate.read_bytes()
    later = certificates(tmp_path, ["workshop.local"], NOW + timedelta(days=500))
    assert (later.is_new, later.fingerprint) == (False, first.fingerprint)
    assert later.certificate.read_bytes() != before
    assert certificates(tmp_path, ["workshop.local", "192.0.2.10"], NOW).is_new
    (tmp_path / "authority.key").write_bytes(b"half")
    assert certificates(tmp_path, ["workshop.local", "192.0.2.10"], NOW).is_new


def test_nobody_else_on_the_machine_reads_the_keys(tmp_path):
    made = certificates(tmp_path / "tls", ["workshop.local"], NOW)
    for file in (made.key, tmp_path / "tls" / "authority.key"):
        assert stat.S_IMODE(file.stat().st_mode) == 0o600
    assert stat.S_IMODE((tmp_path / "tls").stat().st_mode) == 0o700


def test_the_fingerprint_is_that_of_the_certificate(tmp_path):
    made = certificates(tmp_path, ["workshop.local"], NOW)
    digest = x509.load_pem_x509_certificate(made.authority.read_bytes()).fingerprint(hashes.SHA256())
    assert made.fingerprint == ":".join(f"{byte:02X}" for byte in digest)


@pytest.mark.parametrize("name", ["", "work shop", "-x.local", "https://workshop.local", "a" * 64, "10.0.0.5:8437"])
def test_what_is_no_name_is_refused(name):
    with pytest.raises(Invalid):
        require_name(name)


def test_it_listens_where_it_was_told():
    assert Place((), 1, 2).bound == "127.0.0.1"
    assert Place(("192.0.2.10",), 1, 2).bound == "192.0.2.10"
    assert Place(("workshop.local",), 1, 2).bound == "0.0.0.0"
    assert Place(("2001:db8::5",), 1, 2).url == "https://[2001:db8::5]:1"
