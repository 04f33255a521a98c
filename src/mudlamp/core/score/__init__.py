"""Truth against tracks."""
