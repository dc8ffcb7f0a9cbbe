"""The shortlist: the catalogue ranked for a wish."""
