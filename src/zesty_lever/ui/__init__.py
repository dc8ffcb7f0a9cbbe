"""The window: screens render what the session holds and send intentions back."""
