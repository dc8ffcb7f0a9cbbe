"""Functions that paint figures, levers and forces, and the values they take; no widgets."""
