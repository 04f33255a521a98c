"""The boat: the trip pack, and the entries that phones bring home."""
