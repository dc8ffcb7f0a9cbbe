"""What will be done: plans, styles of sets, drills, the week builder; no Qt, no store."""
