"""The long crash test: `python -m benchmarks.crash --runs 1000 [--seed 0]`. Prints each fault and their count.

Each run makes a random tree (on two file systems where this process may mount one) and a random plan of all sorts of
step, kills it with SIGKILL at a named point or a random instant, perhaps kills the recovery too, and looks whether
everything is there and can be undone or done again. `--power` runs power cuts on the simulated disk instead.
"""

from __future__ import annotations

import argparse
import shutil
import tempfile
from pathlib import Path

from tests.chaos.crash import one_run
from tests.test_power_cut import one_run as one_power_cut


def main() -> int:
    """Run, count, report."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--runs", type=int, default=100)
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--power", action="store_true")
    args = parser.parse_args()
    failed = 0
    with tempfile.TemporaryDirectory() as folder:
        for seed in range(args.seed, args.seed + args.runs):
            root = Path(folder) / str(seed)
            wrong = one_power_cut(seed) if args.power else one_run(root, seed)
            shutil.rmtree(root, ignore_errors=True)
            failed += bool(wrong)
            for fault in wrong:
                print(fault)
    print(f"{args.runs} runs, {failed} with a fault")
    return 1 if failed else 0


if __name__ == "__main__":
    raise SystemExit(main())
