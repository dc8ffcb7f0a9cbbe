"""The bench: athletes and set-ups that are worked on."""
