"""A signal that comes at the worst moment still stops what it is to stop."""

import subprocess
import sys
import unittest

WORST = """
import os, signal
from finchwort.runtime.signals import ENDING, until_told
for number in ENDING:
    stopping = until_told()
    # as in the middle of a wait: the lock of the event is held when the signal comes
    with stopping._cond:
        os.kill(os.getpid(), number)
    if not stopping.wait(20):
        raise SystemExit(f"{number} was not heard")
    os.kill(os.getpid(), number)  # a second time does no harm
print("stopped")
"""


class WorstMomentTest(unittest.TestCase):
    def test_it_is_heard_and_nothing_hangs(self):
        done = subprocess.run([sys.executable, "-c", WORST], capture_output=True, text=True, timeout=60)
        self.assertEqual((done.stdout.strip(), done.returncode), ("stopped", 0), done.stderr)
