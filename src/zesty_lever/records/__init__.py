"""Open files: cases, results and tables that other programs can read."""
