"""Zesty Lever: joint-moment estimates for strength coaches."""

__version__ = "0.1.0"
