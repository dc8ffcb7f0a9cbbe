"""What a click in the picture sets."""

from __future__ import annotations

from enum import Enum


class Tool(Enum):
    """What a click sets."""

    MARK = "Mark"
    DISC = "Disc"
    LENGTH = "Taped length"
    PLUMB = "Upright"
    SLEEVE = "Sleeve"


TOOL_WORDS = {
    Tool.DISC: ("Click the middle of the near disc", "now its rim"),
    Tool.LENGTH: ("Click one end of the taped length", "now the other end"),
    Tool.PLUMB: ("Click the foot of something upright", "now its top"),
    Tool.SLEEVE: ("Click the bar's hub on the near disc", "now the end of the sleeve"),
}
