"""Words and numbers as coaches read them: units, and sentences about results."""
