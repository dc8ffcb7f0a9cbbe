"""Plan: weeks, sessions, doses."""
