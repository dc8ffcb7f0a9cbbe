"""From angles to joint positions: legs, upper body and balance, and the timing of a rep."""
