"""What an athlete really does: angles, tempo and faults from a clip or a picture, with their errors."""
