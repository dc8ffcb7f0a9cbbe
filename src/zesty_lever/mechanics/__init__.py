"""Forces: contacts that carry the whole, and net moments at every joint."""
