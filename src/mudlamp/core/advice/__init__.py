"""Advice: what to set for this water, what it costs, what a move changes, what a symptom comes from."""
