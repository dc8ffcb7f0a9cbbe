"""The technique search: the frontier within one variation."""
