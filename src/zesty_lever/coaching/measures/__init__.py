"""Measures: each reads one finding's size off a solved rep, and what following its cue would set."""
