"""The Cast page."""
