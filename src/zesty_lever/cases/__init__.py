"""What goes in: athletes, set-ups and cases, read, filled in and turned into arrays."""
