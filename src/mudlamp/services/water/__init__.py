"""Where a session's pings come from, and how a water is planned."""
