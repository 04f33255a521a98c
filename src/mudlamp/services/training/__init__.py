"""Learning what the tracker knows: samples from drawn waters, a forest grown on them, and a card of how good it is."""
