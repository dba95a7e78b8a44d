"""A restless hand on the real window: `python bench/restless.py --actions 3000 --seed 1`."""

from __future__ import annotations

import argparse
import faulthandler
import os
import sys
from collections import Counter
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from restless import RestlessHand
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import open_window

WATCH_S = int(os.environ.get("WATCH_S", "900"))


def main() -> None:
    """Act, and tell what went wrong."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--actions", type=int, default=3000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--profile", action="store_true", help="tell what each stall spent its time on")
    options = parser.parse_args()
    faulthandler.dump_traceback_later(WATCH_S, exit=True)
    hand = RestlessHand(open_window(PICTURES / "badge-200.jpg"), options.seed, options.profile)
    hand.act(options.actions)
    print(f"{options.actions} actions of seed {options.seed}: {len(hand.faults)} faults, {len(hand.stalls)} stalls")
    for fault, count in Counter(hand.faults).most_common(20):
        print(f"{count} × {fault}")
    for seconds, own, doing in sorted(hand.stalls, reverse=True)[:15]:
        print(f"{seconds:.2f} s, {own:.2f} s of them the window's own: {doing}")
    sys.stdout.flush()
    os._exit(1 if hand.faults else 0)


if __name__ == "__main__":
    main()
