"""The Find page."""
