"""The catalogue of variations as data, and one pose builder a family."""
