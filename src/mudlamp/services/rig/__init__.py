"""The rig: its forms, what is computed from it, and the desk that keeps it."""
