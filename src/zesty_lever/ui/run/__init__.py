"""Run: a session, step by step."""
