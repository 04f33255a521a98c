"""Mud Lamp: a bench, tracker and logbook for anglers who fish with live forward-facing sonar."""

__version__ = "0.1.0"
