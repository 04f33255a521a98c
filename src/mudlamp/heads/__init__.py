"""Where pings come from: the Head role, the simulated head, the recorded head."""
