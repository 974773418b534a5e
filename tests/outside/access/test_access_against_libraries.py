"""Certificates against OpenSSL (Python's ssl) and against the path validation of cryptography; codes against a reader of its own.

RFC 5280: basic constraints (4.2.1.9), name constraints (4.2.1.10), key usage (4.2.1.3), validity (4.1.2.5).  RFC 8446: TLS 1.3.
ISO/IEC 18004: the code on the screen, read by zxing-cpp.
"""

import io
import ipaddress
import math
import socket
import ssl
import tempfile
import threading
import unittest
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from pathlib import Path
from unittest import mock

import segno
import zxingcpp
from cryptography import x509
from cryptography.x509.verification import PolicyBuilder, Store, VerificationError
from PIL import Image
from zeroconf import Zeroconf

from finchwort.runtime import authority as made_by
from finchwort.runtime.authority import SERVER_FOR, Authority, is_private
from finchwort.runtime.network import KIND, Announcement, local_addresses, local_name
from finchwort.services.access import devices
from finchwort.web.access.guard import pairing_url

GOOD = ("finchwort-shed.local", "192.168.7.20", "10.1.2.3", "fd00::7")
BAD = ("evil.example", "local.evil.example", "203.0.113.7", "2001:db8::1", "8.8.8.8")


class AuthorityTest(unittest.TestCase):
    def setUp(self):
        held = tempfile.TemporaryDirectory(prefix="finchwort-authority-")
        self.addCleanup(held.cleanup)
        self.folder = Path(held.name)
        self.authority = Authority(self.folder)

    def leaf(self, names=GOOD):
        return x509.load_pem_x509_certificates(self.authority.server(names).certificate.read_bytes())[0]

    def forged(self, name):
        """Return a certificate for a name that the authority would not give, signed with its key all the same."""
        with mock.patch.object(made_by, "_general", lambda name: _any_name(name)):
            return self.authority.server((name,))

    def shake_hands(self, made, name):
        """Let OpenSSL check the certificate as a client that trusts the authority."""
        server = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
        server.load_cert_chain(made.certificate, made.key)
        client = ssl.create_default_context(cadata=self.authority.pem.decode())
        ours, theirs = socket.socketpair()

        def serve():
            try:
                with server.wrap_socket(theirs, server_side=True):
                    pass
            except (ssl.SSLError, OSError):
                theirs.close()

        thread = threading.Thread(target=serve)
        thread.start()
        try:
            with client.wrap_socket(ours, server_hostname=name) as held:
                return held.version()
        finally:
            ours.close()
            thread.join()

    def test_openssl_takes_what_is_ours_and_nothing_outside(self):
        for name in GOOD:
            with self.subTest(name):
                self.assertEqual(self.shake_hands(self.authority.server(GOOD), name), "TLSv1.3")
        for name in BAD:
            with self.subTest(name):
                with self.assertRaises(ssl.SSLCertVerificationError) as refused:
                    self.shake_hands(self.forged(name), name)
                self.assertIn("permitted subtree", str(refused.exception))

    def test_the_path_validation_of_cryptography_agrees(self):
        store = Store([self.authority.certificate])
        for name in GOOD:
            subject = _subject(name)
            with self.subTest(name):
                chain = PolicyBuilder().store(store).build_server_verifier(subject).verify(self.leaf(), [])
                self.assertEqual(len(chain), 2)
        other = tempfile.mkdtemp(dir=self.folder)
        with self.assertRaises(VerificationError):
            stranger = Store([Authority(Path(other)).certificate])
            PolicyBuilder().store(stranger).build_server_verifier(_subject(GOOD[0])).verify(self.leaf(), [])
        late = datetime.now(UTC) + SERVER_FOR + timedelta(days=1)
        with self.assertRaises(VerificationError):
            PolicyBuilder().store(store).time(late).build_server_verifier(_subject(GOOD[0])).verify(
                self.leaf(), []
            )

    def test_what_it_says_of_itself(self):
        root, leaf = self.authority.certificate, self.leaf()
        constraints = root.extensions.get_extension_for_class(x509.BasicConstraints)
        self.assertEqual(
            (constraints.critical, constraints.value.ca, constraints.value.path_length), (True, True, 0)
        )
        usage = root.extensions.get_extension_for_class(x509.KeyUsage).value
        self.assertEqual((usage.key_cert_sign, usage.digital_signature), (True, False))
        self.assertFalse(leaf.extensions.get_extension_for_class(x509.BasicConstraints).value.ca)
        self.assertLessEqual(leaf.not_valid_after_utc - leaf.not_valid_before_utc, timedelta(days=398))
        root.verify_directly_issued_by(root)
        leaf.verify_directly_issued_by(root)

    def test_it_is_kept_and_a_server_is_renewed_when_names_or_time_ask_for_it(self):
        first = self.leaf()
        self.assertEqual(Authority(self.folder).fingerprint, self.authority.fingerprint)
        self.assertEqual(self.leaf().serial_number, first.serial_number)
        other = self.leaf(("192.168.7.21",))
        self.assertNotEqual(other.serial_number, first.serial_number)
        with mock.patch.object(made_by, "_now", lambda: datetime.now(UTC) + SERVER_FOR - timedelta(days=29)):
            self.assertNotEqual(self.leaf(("192.168.7.21",)).serial_number, other.serial_number)
        for name in BAD:
            with self.subTest(name), self.assertRaises(ValueError):
                self.authority.server((name,))

    def test_a_damaged_authority_is_made_again(self):
        before = self.authority.fingerprint
        (self.folder / "authority.crt").write_text("cut")
        self.assertNotEqual(Authority(self.folder).fingerprint, before)

    def test_private_addresses_are_those_of_the_standard_library(self):
        for text in (
            *GOOD[1:],
            *BAD[2:],
            "172.31.255.255",
            "172.32.0.1",
            "169.254.1.1",
            "fe80::1",
            "192.169.0.1",
        ):
            found = ipaddress.ip_address(text)
            # the standard library counts documentation's addresses as private too; phones have none
            listed = found.is_private and text not in ("203.0.113.7", "2001:db8::1")
            self.assertEqual(is_private(text), listed, text)

    def test_this_computer_in_its_network(self):
        self.assertTrue(all(is_private(address) for address in local_addresses()))
        self.assertRegex(local_name(), r"^finchwort(-[a-z0-9-]+)?\.local$")


class NameTest(unittest.TestCase):
    """The name in the network, asked for by a second zeroconf; within this computer."""

    def test_the_name_is_found_and_taken_back(self):
        # a browser test of the same process leaves an event loop running in its thread, and zeroconf wants none there
        with ThreadPoolExecutor(1) as apart:
            found = apart.submit(self.announce_and_ask).result()
        self.assertIsNotNone(found)
        self.assertEqual((found.server, found.port), ("finchwort-test-shed.local.", 8443))
        self.assertEqual(found.parsed_addresses(), ["127.0.0.1"])

    def announce_and_ask(self):
        asking = Zeroconf(interfaces=["127.0.0.1"])
        announced = Announcement("finchwort-test-shed.local", 8443, ["127.0.0.1"])
        try:
            return asking.get_service_info(KIND, f"finchwort-test-shed.{KIND}", timeout=20_000)
        finally:
            announced.close()
            asking.close()

    def test_a_network_that_allows_none_is_left_alone(self):
        with mock.patch("finchwort.runtime.network.Zeroconf", side_effect=OSError("no multicast")):
            Announcement("finchwort-test.local", 8443, ["127.0.0.1"]).close()


class CodeTest(unittest.TestCase):
    def test_a_reader_reads_what_was_meant(self):
        for base in ("https://192.168.7.20:8443", "https://10.200.100.200:65535"):
            url = pairing_url(base, "ABCDEFGHJKMN")
            out = io.BytesIO()
            segno.make(url, error="m").save(out, kind="png", scale=6, border=4)
            self.assertEqual(zxingcpp.read_barcodes(Image.open(out))[0].text, url)

    def test_a_guess_is_hopeless(self):
        """Of 32**12 codes, with the tries that are let through while one is open and the codes that may be open at once."""
        tries = devices.MISSES_BY_ALL * math.ceil(devices.CODE_FOR / devices.LOCKED_FOR)
        chance = tries * devices.MAX_CODES / 32**devices.LENGTH
        self.assertLess(chance, 1e-15)


def _subject(name):
    try:
        return x509.IPAddress(ipaddress.ip_address(name))
    except ValueError:
        return x509.DNSName(name)


def _any_name(name):
    return _subject(name)
