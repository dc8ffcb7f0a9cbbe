"""Names and meaning of the columns that a study writes."""

from __future__ import annotations

from zesty_lever.joints import JOINTS

# By joint, in the order of `analysis.JointSummary`.
QUANTITIES = (
    "extensor_peak_Nm",
    "flexor_peak_Nm",
    "at_progress",
    "extensor_impulse_Nms",
    "flexor_impulse_Nms",
)
DISC = ("compression_N", "shear_N")
RESULTS = (*(f"{joint}_{quantity}" for joint in JOINTS for quantity in QUANTITIES), *DISC)
