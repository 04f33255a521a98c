"""Placing the lure: how heads sink, and what they weigh to the sonar."""
