"""What every screen is built from: theme, controls, handles, the plot, the screen itself."""
