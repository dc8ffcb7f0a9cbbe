"""Steps from one schema to the next, in their order."""
