import unittest

from sqlalchemy import event

from finchwort.store.database import make_engine


class SeenError(Exception):
    """Raised instead of connecting."""


class TlsTest(unittest.TestCase):
    """Only over a socket of this computer a connection goes without TLS."""

    def connecting(self, url):
        engine, seen = make_engine(url), {}
        self.addCleanup(engine.dispose)

        @event.listens_for(engine, "do_connect")
        def look(_dialect, _record, _args, given):
            seen.update(given)
            raise SeenError

        with self.assertRaises(SeenError):
            engine.connect()
        return seen

    def test_a_socket_needs_none(self):
        self.assertTrue(
            self.connecting("mysql+pymysql://me@/records?unix_socket=/run/db.sock")["ssl_disabled"]
        )

    def test_a_server_over_the_network_keeps_it(self):
        seen = self.connecting("mysql+pymysql://me@records.example/records?ssl_ca=/etc/ca.pem")
        self.assertFalse(seen["ssl_disabled"])
        self.assertEqual(seen["ssl"], {"ca": "/etc/ca.pem"})
