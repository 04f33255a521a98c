"""Searching a reach of water from a boat: what is heard, where a mark is, what is covered, where to look next."""
