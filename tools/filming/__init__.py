"""Films of invented athletes with known truth: scene, canvas, film, what a coach sets by hand."""
