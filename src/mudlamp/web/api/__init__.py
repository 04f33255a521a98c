"""The HTTP API, version 1: the same services, as JSON."""
