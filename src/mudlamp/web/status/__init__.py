"""The status page."""
