"""What every command shares: exit statuses and the one line that says what went wrong."""

from __future__ import annotations

import sys

from zesty_lever.problems import one_line

OK, SOME_FAILED, USAGE, STOPPED = 0, 1, 2, 130
LONGEST_COMPLAINT = 500


def complain(text: str) -> None:
    """Say on standard error, in one line, what is wrong."""
    line = one_line(" ".join(text.split()), LONGEST_COMPLAINT)
    print(f"zesty-lever: {line}", file=sys.stderr)
