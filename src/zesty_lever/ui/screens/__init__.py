"""One file a screen."""
