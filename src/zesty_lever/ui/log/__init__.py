"""Log: what was done and what comes next."""
