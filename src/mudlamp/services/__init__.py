"""Use cases: what the web, the command line and the HTTP API ask for."""
