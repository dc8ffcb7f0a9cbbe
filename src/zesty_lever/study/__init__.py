"""Studies: a design worked out into one table, in parts that can be made anywhere and any time."""
