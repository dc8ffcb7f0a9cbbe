"""The line-up: set-ups side by side, with intervals."""
