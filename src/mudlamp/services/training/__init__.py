"""Learning what the tracker knows: samples from drawn waters, forests and networks learned on them, and a card of how good it is."""
