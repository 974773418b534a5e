"""Would a file drive the tip into the plate?  5,000 histories at random machines, through the product's own services.

    .venv/bin/python bench/clearance.py [--files 5000] [--first 1000]

The machines, their owners and their mistakes are those of tests/simulation/clearance.py, with seeds that the tests do
not use.  Every move of every file that was made is driven over the real bed; ways off the printable area do not count.
"""

from __future__ import annotations

import argparse
import sys
import time
from collections import Counter
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.fixtures import support
from tests.simulation.clearance import KINDS, run

from finchwort.store.database import make_engine, make_sessions


def main() -> int:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--files", type=int, default=5000)
    options.add_argument("--first", type=int, default=1000)
    wanted = options.parse_args()
    engine = make_engine(support.new_database("bench_clearance"))
    sessions = make_sessions(engine)
    begun, gaps, contacts = time.monotonic(), [], []
    made, refused, unknown = Counter(), Counter(), Counter()
    for seed in range(wanted.first, wanted.first + wanted.files):
        with sessions() as session:
            tried = run(session, seed)
            session.rollback()
        if tried.least is None:
            (unknown if tried.unknown else refused)[tried.kind] += 1
            continue
        made[tried.kind] += 1
        gaps.append(tried.least)
        if tried.least <= 0:
            contacts.append(
                f"seed {seed}: {tried.kind}, {tried.least:+.3f} mm at {tried.where}; {tried.story}"
            )
    print("kind        | made | refused: high, limits | refused: nobody knows")
    for kind in KINDS:
        print(f"{kind:11} | {made[kind]:4} | {refused[kind]:21} | {unknown[kind]:21}")
    gaps.sort()
    print(
        f"{sum(made.values())} files of {wanted.files} wishes; {len(contacts)} with contact; smallest gaps, mm: {[round(g, 3) for g in gaps[:5]]}"
    )
    print("\n".join(contacts))
    print(f"{time.monotonic() - begun:.0f} s")
    engine.dispose()
    support.stop_all()
    return 1 if contacts else 0


if __name__ == "__main__":
    sys.exit(main())
