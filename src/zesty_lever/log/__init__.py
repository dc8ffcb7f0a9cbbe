"""What was done and what it added up to: sets, exposure, advice, trends; no Qt, no store."""
