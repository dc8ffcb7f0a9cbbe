"""The table of all variations in docs/model.md is what the application gives now."""

import re
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]
sys.path.insert(0, str(ROOT / "tools"))

from variation_table import END, START, rows  # noqa: E402


def test_the_table_in_the_documentation_is_current():
    """Every number of every row within 1 of what is worked out now; `tools/variation_table.py` writes it anew."""
    text = (ROOT / "docs" / "model.md").read_text(encoding="utf-8")
    written = text.partition(START)[2].partition(END)[0].strip().splitlines()[2:]
    fresh = rows()
    assert len(written) == len(fresh) == 58
    for old, new in zip(written, fresh, strict=True):
        names = [row.split("|")[1] for row in (old, new)]
        assert names[0] == names[1]
        numbers = [
            re.findall(r"\d+(?:\.\d+)?", "|".join(row.split("|")[2:6])) for row in (old, new)
        ]
        gaps = [abs(float(a) - float(b)) for a, b in zip(*numbers, strict=True)]
        assert max(gaps, default=0.0) <= 1.0, old
