"""Arrays to QPainter: no physics here."""
