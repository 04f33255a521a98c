"""Where pings come from: the simulated head."""
