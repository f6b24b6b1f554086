"""`make fuzz`: thousands of damaged picture files through the readers. Each must be read or refused with a sentence.

Batches run in processes of their own, so that a crash inside a decoder is seen and counted, too.
"""

import argparse
import secrets
import subprocess
import sys
import tempfile
from pathlib import Path

from gelvet.core.capture.reading import read_picture
from gelvet.core.errors import ImageError
from tests.damaged import damaged_files, write_every_kind

_BATCH = 250
_SECONDS_A_BATCH = 600


def run_batch(seed: int) -> int:
    """How many of a batch were refused; raises what no reader may raise, with the seed to repeat it."""
    refused = 0
    with tempfile.TemporaryDirectory() as folder:
        originals = write_every_kind(Path(folder))
        for number, (name, content) in enumerate(damaged_files(originals, _BATCH, seed)):
            path = Path(folder) / f"damaged-{name}"
            path.write_bytes(content)
            try:
                read_picture(path)
            except ImageError as problem:
                refused += 1
                if len(str(problem)) < 20 or "\n" in str(problem):
                    raise AssertionError(f"seed {seed}, file {number}: no sentence: {problem!r}") from problem
            except Exception as problem:
                raise AssertionError(f"seed {seed}, file {number} ({name})") from problem
    return refused


def main() -> None:
    parser = argparse.ArgumentParser(prog="python -m bench.fuzz", description=__doc__)
    parser.add_argument("--files", type=int, default=4000)
    parser.add_argument("--batch", type=int, metavar="SEED", help="one batch, to repeat a failure")
    options = parser.parse_args()
    if options.batch is not None:
        print(run_batch(options.batch))
        return
    first, failed, refused = secrets.randbelow(10**6), 0, 0
    batches = range(first, first + max(1, options.files // _BATCH))
    for seed in batches:
        command = [sys.executable, "-W", "ignore", "-m", "bench.fuzz", "--batch", str(seed)]
        try:
            done = subprocess.run(command, capture_output=True, text=True, timeout=_SECONDS_A_BATCH, check=False)
        except subprocess.TimeoutExpired:
            failed += 1
            print(f"batch {seed}: still busy after {_SECONDS_A_BATCH} s")
            continue
        if done.returncode:
            failed += 1
            print(f"batch {seed}: status {done.returncode}\n{done.stderr[-1500:]}")
        else:
            refused += int(done.stdout.split()[-1])
    print(f"{len(batches) * _BATCH} damaged files: {refused} refused with a sentence, {failed} batches failed")
    sys.exit(1 if failed else 0)


if __name__ == "__main__":
    main()
