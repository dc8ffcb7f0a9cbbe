"""The bench: two set-ups, live."""
