"""The Log page and a session's page."""
