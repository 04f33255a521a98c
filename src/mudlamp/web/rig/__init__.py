"""The Rig page."""
