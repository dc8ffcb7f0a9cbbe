"""The set-up card."""
