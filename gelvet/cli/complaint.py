"""What went wrong, in one line on standard error."""

import sys


def complain(sentence: str) -> None:
    """The sentence, on a line of its own whatever breaks it holds."""
    print(f"gelvet: {' '.join(sentence.split())}", file=sys.stderr)
