"""The rig: mount and aim geometry, power, the lure box's rules, and how our controls join to those of the angler's own unit."""
