"""The screen Measure: a clip or a picture, its marks, and what the athlete really did."""
