"""Many odd requests at every operation of the API: the long run of tests/web/test_schema.py.

.venv/bin/python bench/hostile.py [--examples 60] [--seed 1]
"""

from __future__ import annotations

import argparse
import sys
import unittest
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.fixtures import support
from tests.web import test_schema


def main() -> int:
    options = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    options.add_argument("--examples", type=int, default=60)
    options.add_argument("--seed", type=int, default=1)
    wanted = options.parse_args()
    test_schema.EXAMPLES = test_schema.SchemaCase.examples = wanted.examples
    test_schema.SEED = wanted.seed
    suite = unittest.TestLoader().loadTestsFromTestCase(test_schema.EveryOperationTest)
    result = unittest.TextTestRunner(verbosity=0).run(suite)
    print(
        f"{wanted.examples} requests of two kinds an operation; {len(result.failures) + len(result.errors)} went wrong"
    )
    support.stop_all()
    return 0 if result.wasSuccessful() else 1


if __name__ == "__main__":
    sys.exit(main())
