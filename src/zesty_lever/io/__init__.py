"""Files: JSON cases and results, read and written whole."""
